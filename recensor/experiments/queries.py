"""What reads experiments."""

from dataclasses import replace
from functools import lru_cache
from uuid import UUID

from recensor.core import circuit
from recensor.core.circuit import Basis, Judge, JudgedBy
from recensor.core.quantity import parse_percent
from recensor.experiments.models import Experiment, Sheet


@lru_cache(maxsize=512)
def kept_sheet(sheet_id: UUID) -> circuit.Sheet:
    """A sheet as it was kept. Sheets never change, so each is read and parsed once."""
    return Sheet.objects.get(pk=sheet_id).as_sheet()


def sheet_of(experiment: Experiment) -> circuit.Sheet:
    """An experiment's sheet as it stands, with its title and what judges."""
    sheet_id = experiment.versions.values_list("sheet", flat=True).get(number=experiment.at)
    judge = Judge(JudgedBy(experiment.judged_by), parse_percent(experiment.limit), Basis(experiment.against))
    return replace(kept_sheet(sheet_id), title=experiment.title, judge=judge, sealed=experiment.sealed)


def ways_on(experiment: Experiment) -> tuple[bool, bool]:
    """Whether there is something to undo, and to redo."""
    before = dict(experiment.versions.values_list("number", "before"))
    return before[experiment.at] is not None, experiment.at in before.values()
