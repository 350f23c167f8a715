"""Hypotheses weighed well: each by prior and evidence, at the best unknowns, with the readings that it excuses."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import NONE_OF_THESE, NOTHING_WRONG, ORDINARY_METER, FaultKind
from recensor.core.faults.model.batch import Batch
from recensor.core.faults.model.changes import IdealMeters
from recensor.core.faults.model.evidence import Evidence, refined
from recensor.core.faults.model.excuses import MILD, MILD_SPREAD, NO_EXCUSES, Excuses, prices
from recensor.core.sentences import say
from recensor.core.uncertainty import Array

# Gauss–Newton steps for a first impression, on from where one has come to, and for a good one.
ROUGHLY, ON, WELL = 2, 1, 3

# How often what is excused is asked again where the unknowns have moved.
_ROUNDS = 3

# How many are weighed side by side: as many as fit into a processor's own memory, and fewer where each is larger than
# so many numbers altogether.
_SIDE_BY_SIDE, _NUMBERS = 128, 1_000_000

# A reading farther from what is predicted than this does not fit.
MISFIT = 3.0

# A reading is explained, though it stays mildly odd, where it is off by no more than so much of what it was.
_PLAINLY = 0.7

NOTHING = Candidate(FaultKind.UNEXPLAINED, (), (IdealMeters(),), say("faults.nothing_wrong"))
ORDINARY = Candidate(FaultKind.UNEXPLAINED, (), (), say("faults.meter_disturbs_circuit_ordinary"))
NONE = Candidate(FaultKind.UNEXPLAINED, (), (), say("faults.none_of_these"))

_PRIORS = {id(NOTHING): NOTHING_WRONG, id(ORDINARY): ORDINARY_METER, id(NONE): NONE_OF_THESE}


@dataclass(frozen=True)
class Contender:
    """Hypotheses together, the start from which their numbers are looked for, and the readings that they excuse."""

    candidates: tuple[Candidate, ...]
    start: int = 0
    excuses: Excuses = NO_EXCUSES

    @property
    def may_be_wild(self) -> bool:
        """Whether it may give up wild readings: where nothing is wrong none are."""
        return self.candidates not in ((NOTHING,), (ORDINARY,))


@dataclass(frozen=True)
class Scored:
    """A contender weighed well.

    `log` is the logarithm of prior times evidence; `own` are the logarithms of its own numbers with their standard
    deviations; `misfits` (readings,) are in standard deviations, excused or not; `there` is what a meter that disturbs
    nothing finds; `at` are all unknowns in `spreads`, with their `covariance`. `suggested` is what it would rather
    excuse where its unknowns are now.
    """

    contender: Contender
    log: float
    own: tuple[tuple[float, float], ...]
    misfits: Array
    shown: Array
    there: Array
    scales: Array
    values: Array
    counts: Array
    is_over: Array
    over_fits: tuple[bool, ...]
    at: Array
    spreads: Array
    covariance: Array
    suggested: Excuses

    @property
    def candidates(self) -> tuple[Candidate, ...]:
        """The hypotheses."""
        return self.contender.candidates

    @property
    def excuses(self) -> Excuses:
        """The readings that it gives up."""
        return self.contender.excuses

    @property
    def fitted(self) -> int:
        """How many numbers it fits."""
        return sum(candidate.fitted for candidate in self.candidates)

    @property
    def is_possible(self) -> bool:
        """Whether there are such things as its numbers say."""
        slot = 0
        for candidate in self.candidates:
            if candidate.number and candidate.fitted and not candidate.number.is_possible(self.own[slot][0]):
                return False
            slot += candidate.fitted
        return True

    def fits_at(self, place: int) -> bool:
        """Whether the reading at a place fits, and need not be excused."""
        return bool(abs(self.misfits[place]) <= MISFIT) and place not in self.excuses.places

    def comes_near(self, place: int, nothing: "Scored") -> bool:
        """Whether the reading at a place is no more than mildly odd, and plainly less than while nothing is wrong."""
        off, was = (abs(one.values[place] - one.shown[place]) for one in (self, nothing))
        return bool(off <= MILD * abs(self.shown[place]) and off <= _PLAINLY * was)

    def same_as(self, other: "Scored") -> bool:
        """Whether both predict the same of every reading, within a standard deviation."""
        if (self.counts != other.counts).any() or (self.is_over != other.is_over).any():
            return False
        apart = np.abs(self.shown - other.shown) / self.scales
        wrote = np.abs(self.values - other.values) / self.scales
        return bool((apart <= 1.0).all() and (wrote <= 1.0).all() and self.over_fits == other.over_fits)


def prior(candidates: Iterable[Candidate]) -> float:
    """The logarithm of what hypotheses have beforehand, together."""
    return sum(math.log(_PRIORS[id(one)]) if id(one) in _PRIORS else one.log_prior for one in candidates)


def written(context: FaultContext, rows: Sequence[Contender]) -> Batch:
    """The rows as a batch."""
    batch = context.model.batch(len(rows))
    price, wild = prices(context.observed.count), context.wild
    for h, row in enumerate(rows):
        for candidate in row.candidates:
            for change in candidate.changes:
                change.write(batch, h, row.start)
        if row.excuses.places:
            batch.loose[h, list(row.excuses.mild)] = MILD_SPREAD
            batch.wild[h, list(row.excuses.wild)] = True
            batch.extra[h] += wild[list(row.excuses.wild)].sum()
        batch.extra[h] += price[len(row.excuses.mild)]
    return batch


def together(context: FaultContext) -> int:
    """How many hypotheses of this run are weighed side by side."""
    readings = context.observed.count
    return max(1, min(_SIDE_BY_SIDE, _NUMBERS // max(1, readings * (context.model.unknowns + readings))))


def weigh(
    context: FaultContext, rows: Sequence[Contender], *, steps: int = WELL, begin: Array | None = None
) -> list[Scored]:
    """Weigh hypotheses, each from its start or from where it `begin`s, by so many steps."""
    scored_all: list[Scored] = []
    side_by_side = together(context)
    for first in range(0, len(rows), side_by_side):
        block = rows[first : first + side_by_side]
        batch = written(context, block)
        at = None if begin is None else begin[first : first + side_by_side]
        scored_all += _scored(context, batch, refined(context.model, batch, steps=steps, begin=at), block)
    return scored_all


def settled(context: FaultContext, scored_all: Sequence[Scored]) -> list[Scored]:
    """The same, each with the readings that it would rather excuse where it has come to, as long as that is better."""
    found = list(scored_all)
    open_rows = list(range(len(found)))
    for _ in range(_ROUNDS):
        open_rows = [k for k in open_rows if found[k].suggested != found[k].excuses and _is_allowed(found[k])]
        if not open_rows:
            break
        rows = [replace(found[k].contender, excuses=found[k].suggested) for k in open_rows]
        again = weigh(context, rows, steps=ON, begin=np.array([found[k].at for k in open_rows]))
        better = [one.log > found[k].log for k, one in zip(open_rows, again, strict=True)]
        for k, one, is_better in zip(open_rows, again, better, strict=True):
            found[k] = one if is_better else found[k]
        open_rows = [k for k, is_better in zip(open_rows, better, strict=True) if is_better]
    return found


def _is_allowed(scored: Scored) -> bool:
    """Whether what it would rather excuse leaves it what it is: none of these has a wild reading."""
    return NONE not in scored.candidates or bool(scored.suggested.wild)


def weigh_in_stages(context: FaultContext, rows: Sequence[Contender], best: int) -> list[Scored]:
    """Weigh all by a step or two, and go on with the best of each hypothesis from where they came to; best first."""
    scored_all = best_of_each(settled(context, weigh(context, rows, steps=ROUGHLY)))
    first, rest = scored_all[:best], scored_all[best:]
    begin = np.array([scored.at for scored in first])
    again = settled(context, weigh(context, [scored.contender for scored in first], begin=begin)) if first else []
    return best_of_each([*first, *again, *rest])


def best_of_each(scored_all: Iterable[Scored]) -> list[Scored]:
    """The best start of each, the likeliest first."""
    best: dict[tuple[int, ...], Scored] = {}
    for scored in scored_all:
        key = tuple(map(id, scored.candidates))
        if key not in best or scored.log > best[key].log:
            best[key] = scored
    return sorted(best.values(), key=lambda one: -one.log)


def _scored(context: FaultContext, batch: Batch, evidence: Evidence, rows: Sequence[Contender]) -> Iterable[Scored]:
    model = context.model
    misfits = evidence.misfits(batch)
    own = model.own_numbers(batch, evidence.at)
    places, all_spreads = model.own_places(), model.spreads_of(batch)
    spreads = np.sqrt(np.diagonal(evidence.covariance, axis1=1, axis2=2)[:, places]) * batch.spread
    scales = np.sqrt(evidence.plain_variances(batch))
    wild = np.array([row.may_be_wild for row in rows])
    _, suggested = evidence.worth_excusing(batch, context.wild, wild=wild)
    for h, row in enumerate(rows):
        there = np.abs(evidence.predicted.at_points[h])
        over = tuple(
            bool(there[over_range.row] > over_range.limit or not batch.is_over[h, k])
            for k, over_range in enumerate(context.observed.over_range)
        )
        yield Scored(
            row,
            float(evidence.log[h]) + prior(row.candidates),
            tuple((float(own[h, j]), float(spreads[h, j])) for j in range(int(batch.used[h]))),
            misfits[h],
            evidence.predicted.shown[h],
            evidence.predicted.at_points[h, context.observed.rows] * context.observed.signs,
            scales[h],
            batch.values[h],
            batch.counts[h],
            batch.is_over[h],
            over,
            evidence.at[h],
            all_spreads[h],
            evidence.covariance[h],
            suggested[h],
        )
