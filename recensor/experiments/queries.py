"""What reads experiments."""

import json
from dataclasses import replace
from functools import lru_cache
from uuid import UUID

from recensor.core import circuit
from recensor.core.circuit import Basis, Judge, JudgedBy
from recensor.core.quantity import parse_percent
from recensor.experiments.models import Experiment, SheetRow
from recensor.formats.documents import run_document


@lru_cache(maxsize=512)
def content_of(sheet_id: UUID) -> str:
    """What a sheet says, as text. Sheets never change, so each is read once."""
    return json.dumps(SheetRow.objects.values_list("tree", flat=True).get(pk=sheet_id))


@lru_cache(maxsize=512)
def sheet_that_says(content: str) -> circuit.Sheet:
    """The sheet of a content: parsed once for all who follow the same, as a class does."""
    return run_document.sheet_from_tree(json.loads(content))


def kept_sheet(sheet_id: UUID) -> circuit.Sheet:
    """A sheet as it was kept."""
    return sheet_that_says(content_of(sheet_id))


def sheet_of(experiment: Experiment) -> circuit.Sheet:
    """An experiment's sheet as it stands, with its title and what judges."""
    sheet_id = experiment.versions.values_list("sheet", flat=True).get(number=experiment.at)
    against, limit = Basis(experiment.against), parse_percent(experiment.limit)
    judge = Judge(JudgedBy(experiment.judged_by), limit, against, experiment.meter_in)
    return replace(kept_sheet(sheet_id), title=experiment.title, judge=judge, sealed=experiment.sealed)


def ways_on(experiment: Experiment) -> tuple[bool, bool]:
    """Whether there is something to undo, and to redo."""
    before = dict(experiment.versions.values_list("number", "before"))
    return before[experiment.at] is not None, experiment.at in before.values()
