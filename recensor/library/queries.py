"""What reads the library."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from decimal import Decimal
from functools import lru_cache
from uuid import UUID

from recensor.core.quantity import parse_percent
from recensor.core.record import Judge, Run
from recensor.library.models import Bin, Experiment, Kit, Sheet


@lru_cache(maxsize=512)
def sheet_run(sheet_id: UUID) -> Run:
    """A sheet as a run without readings. Sheets never change, so each is read and parsed once."""
    return Sheet.objects.get(pk=sheet_id).as_run()


def sheet_of(experiment: Experiment) -> Run:
    """An experiment's sheet as it stands, with its title and what judges, as a run without readings."""
    sheet_id = experiment.steps.values_list("sheet", flat=True).get(number=experiment.at)
    judge = Judge(experiment.judged_by, parse_percent(experiment.limit), experiment.against)
    return replace(sheet_run(sheet_id), title=experiment.title, judge=judge, sealed=experiment.sealed or None)


def ways_on(experiment: Experiment) -> tuple[bool, bool]:
    """Whether there is something to undo, and to redo."""
    before = dict(experiment.steps.values_list("number", "before"))
    return before[experiment.at] is not None, experiment.at in before.values()


def bins_for(kit: Kit, values: Sequence[Decimal]) -> Iterator[tuple[Bin | None, list[Decimal]]]:
    """For each wanted value, in ohms, the bin to take it from: the tightest tolerance that still has one.

    Beside it the nearest values that are left, below and above, which help where the bin is None.
    """
    bins = list(kit.bins.filter(count__gt=0).order_by("value", "tolerance"))
    left = {row.pk: row.count for row in bins}
    for value in values:
        have = [row for row in bins if left[row.pk]]
        found = next((row for row in have if row.value == value), None)
        if found:
            left[found.pk] -= 1
        below, above = (
            (row.value for row in reversed(have) if row.value < value),
            (r.value for r in have if r.value > value),
        )
        yield found, [near for near in (next(below, None), next(above, None)) if near is not None]
