"""A run of readings was entered one point late, or one point early."""

from collections.abc import Iterator, Sequence

import numpy as np

from recensor.core.circuit import Target, all_readings
from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.quantity import Measurand
from recensor.core.sentences import say

# Runs are no longer than this, and only so many are weighed: those that what was known before favours most.
_LONGEST, _MOST = 24, 40

# What was known before must favour a run by so much, as a logarithm, to be weighed at all.
_LEAST_GAIN = 3.0

# A run: the places of its readings in order, and the row that each of them is really of.
_Run = tuple[tuple[int, ...], tuple[int, ...]]


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """The runs that fit better one point on or back."""
    observed, chances, found = context.observed, 0, dict[_Run, float]()
    own = context.log_density[np.arange(observed.count), observed.rows]
    gains = context.log_density - own[:, None]
    for places, rows in _sequences(context):
        chances += len(places) ** 2
        for run in _runs(places, rows):
            gain = float(gains[run[0], run[1]].sum())
            if gain >= _LEAST_GAIN:
                found[run] = gain
    for run in sorted(found, key=lambda one: -found[one])[:_MOST]:
        indexes = [int(observed.indexes[k]) for k in run[0]]
        moved = {
            int(observed.indexes[k]): (observed.as_read(row), observed.reading(k).value)
            for k, row in zip(*run, strict=True)
        }
        first, last = (context.said(k) for k in (run[0][0], run[0][-1]))
        words = say("faults.from_each_entered_one", first=first, last=last)
        yield Candidate(
            FaultKind.SHIFTED_READINGS,
            tuple(map(reading_at, indexes)),
            tuple(OtherTarget(k, row, float(observed.directions[row])) for k, row in zip(*run, strict=True)),
            words,
            chances,
            correction=Reentered(say("faults.move_them_all_one"), moved),
        )


def _sequences(context: FaultContext) -> Iterator[tuple[list[int], list[int]]]:
    """Readings of one quantity in the order of their points, with the rows of all points of that order.

    The order is that in which they were read, and that of the plan, in which points were left out.
    """
    observed = context.observed
    planned = [
        row for t in (context.run.sheet.asked or all_readings(context.run.sheet)) if (row := context.row(t)) is not None
    ]
    for measurand in Measurand:
        for alone in (True, False):
            places = [k for k in range(observed.count) if _is_alike(observed.target(k), measurand, alone)]
            first: dict[int, int] = {}
            for k in places:
                first.setdefault(int(observed.rows[k]), k)
            read = list(first)
            if len(read) < 2:
                continue
            yield [first[row] for row in read], read
            order = [row for row in planned if _is_alike(observed.points[row].target, measurand, alone)]
            if set(read) < set(order):
                yield [first.get(row, -1) for row in order], order


def _is_alike(target: Target, measurand: Measurand, alone: bool) -> bool:
    return target.measurand is measurand and target.is_part_alone == alone and not target.is_leads


def _runs(places: Sequence[int], rows: Sequence[int]) -> Iterator[_Run]:
    """Every run with each of its readings at the point before it, or after; at the run's end also round its ring."""
    count = len(places)
    for start in range(count):
        for end in range(start + 1, min(count, start + _LONGEST)):
            run = places[start : end + 1]
            if min(run) < 0:
                break
            if start > 0:
                yield tuple(run), tuple(rows[start - 1 : end])
            if end + 1 < count:
                yield tuple(run), tuple(rows[start + 1 : end + 2])
            if end - start > 1:
                own = list(rows[start : end + 1])
                yield tuple(run), (own[-1], *own[:-1])
                yield tuple(run), (*own[1:], own[0])
