"""The race: every hypothesis is weighed roughly, the best well, and what cannot be told apart is one entry."""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field, replace
from itertools import islice

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import NONE_OF_THESE, NOTHING_WRONG, FaultKind
from recensor.core.faults.hypotheses import HYPOTHESES
from recensor.core.faults.model.batch import SLOTS, Batch
from recensor.core.faults.model.changes import Change, IdealMeters, OtherTarget, Rewritten, Uninformative
from recensor.core.faults.model.evidence import Evidence, Whitening, linear_score, prefilter, refined
from recensor.core.faults.model.observations import noise
from recensor.core.sentences import say
from recensor.core.uncertainty import Array

# So many of the best are weighed well, each from its best starts.
_WEIGHED = 32

# Gauss–Newton steps for a first impression and for a good one; so many of the best are worth these.
_ROUGHLY, _WELL, _WORTH = 2, 4, 12

# At fewer circuits than this is never glanced, and at no more than so much work allows: circuits times nodes cubed.
_FEWEST_CIRCUITS, _WORK = 300, 1e9

# Of more hypotheses of a kind than this the rest is left out, and it is said.
MOST_OF_A_KIND = 2500

# How many are weighed side by side: as many as fit into a processor's own memory, and fewer where each is larger than
# so many numbers altogether.
_SIDE_BY_SIDE, _NUMBERS = 128, 1_000_000

# Of those that change a circuit, and of slips of the pen, so many are screened: the best at a glance, which is cast at
# so many together.
_CIRCUITS, _SLIPS, _AT_A_GLANCE = 112, 64, 512

# An ordinary meter that disturbs is no fault, and nearly as likely as none.
_ORDINARY_METER = 0.1

# What each reading costs that is excused, and how many can be.
_EXCUSED, _MOST_EXCUSED = math.log(0.02), 6

# A reading farther from what is predicted than this does not fit.
MISFIT = 3.0

# What fits fewer numbers is named first where it is no less likely than this, as a logarithm.
_AS_GOOD = 1.5

# Pairs are made of so many of the best singles, each with every other; so many of them are screened.
_FIRST, _PAIRS = 8, 192

# Of more hypotheses than this only those that were screened are second.
_MOST_SECONDS = 1500


@dataclass(frozen=True)
class Scored:
    """A hypothesis, or two together, weighed well.

    `log` is the logarithm of prior times evidence; `own` are the logarithms of its own numbers with their standard
    deviations; `misfits` (readings,) are in standard deviations; `at` are all unknowns in `spreads`, with their
    `covariance`.
    """

    candidates: tuple[Candidate, ...]
    log: float
    own: tuple[tuple[float, float], ...]
    misfits: Array
    shown: Array
    scales: Array
    values: Array
    counts: Array
    is_over: Array
    over_fits: tuple[bool, ...]
    at: Array
    spreads: Array
    covariance: Array

    @property
    def fitted(self) -> int:
        """How many numbers it fits."""
        return sum(candidate.fitted for candidate in self.candidates)

    def same_as(self, other: "Scored") -> bool:
        """Whether both predict the same of every reading, within a standard deviation."""
        if (self.counts != other.counts).any() or (self.is_over != other.is_over).any():
            return False
        apart = np.abs(self.shown - other.shown) / self.scales
        wrote = np.abs(self.values - other.values) / self.scales
        return bool((apart <= 1.0).all() and (wrote <= 1.0).all() and self.over_fits == other.over_fits)


@dataclass
class Indistinguishable:
    """What cannot be told apart by what was read: the one to name, and the others."""

    leader: Scored
    others: list[Scored] = field(default_factory=list)

    @property
    def log(self) -> float:
        """The logarithm of the weight of all of them."""
        return float(np.logaddexp.reduce([scored.log for scored in (self.leader, *self.others)]))


@dataclass(frozen=True)
class Ranking:
    """How it came out. `entries` are ranked, best first; all weights are logarithms.

    `left_out`: how many hypotheses there were no room to weigh.
    """

    context: FaultContext
    nothing: Scored
    ordinary: Scored
    none_of_these: Scored
    entries: list[Indistinguishable]
    left_out: int

    @property
    def total(self) -> float:
        """The logarithm of all weight."""
        logs = [self.nothing.log, self.ordinary.log, self.none_of_these.log, *(entry.log for entry in self.entries)]
        return float(np.logaddexp.reduce(logs))

    def share(self, log: float) -> float:
        """The share of all weight."""
        return math.exp(log - self.total)


NOTHING = Candidate(FaultKind.VALUE_OFF, (), (IdealMeters(),), say("faults.nothing_wrong"))
ORDINARY = Candidate(FaultKind.AMMETER_RESISTANCE, (), (), say("faults.meter_disturbs_circuit_ordinary"))


def rank(context: FaultContext) -> Ranking:
    """Weigh every hypothesis."""
    candidates, left_out = _all(context)
    rows = _worth_screening(context, candidates)
    left_out += max(0, _in_circuits(candidates) - _most_circuits(context))
    rough = _screen(context, rows)
    best = sorted(rough, key=lambda one: -one[0])[:_WEIGHED]
    base = _batch(context, [((NOTHING,), 0), ((ORDINARY,), 0)])
    evidence = refined(context.model, base)
    nothing, ordinary = _weighed(context, base, evidence, [(NOTHING,), (ORDINARY,)])
    singles = _best_of_each(_weigh_in_stages(context, _to_weigh(best)))
    none = _none_of_these(context, base, evidence)
    entries = merged(singles)
    if _is_needed(entries, none, nothing, ordinary):
        likely = [some[0] for _, some, _ in sorted(rough, key=lambda one: -one[0])]
        seconds = candidates if len(candidates) <= _MOST_SECONDS else list({id(c): c for c in likely}.values())
        entries = merged([*singles, *_pairs(context, entries, seconds)])
    return Ranking(context, nothing, ordinary, none, entries, left_out)


def _all(context: FaultContext) -> tuple[list[Candidate], int]:
    """Every candidate, so many of each kind at most, and how many were left out."""
    candidates: list[Candidate] = []
    left_out = context.parts_left_out
    for hypothesis in HYPOTHESES:
        some = list(islice(hypothesis(context), MOST_OF_A_KIND))
        candidates += some
        if len(some) == MOST_OF_A_KIND:
            left_out += max(0, int(some[-1].chances) - len(some))
    return candidates, left_out


# Hypotheses together with the start from which their numbers are looked for, and the same with its rough weight.
Row = tuple[tuple[Candidate, ...], int]
Rough = tuple[float, tuple[Candidate, ...], int]


def _worth_screening(context: FaultContext, candidates: Sequence[Candidate]) -> list[Row]:
    """Each from every start, as far as it fits at a glance: so many that change a circuit, so many slips of the pen."""
    groups: dict[str, list[Row]] = {"circuit": [], "book": [], "other": []}
    for candidate in candidates:
        solves = _solves(candidate)
        by_pen = all(isinstance(change, Rewritten | OtherTarget | Uninformative) for change in candidate.changes)
        group = groups["circuit" if solves else "book" if by_pen else "other"]
        group += [((candidate,), start) for start in range(candidate.starts)]
    if not context.observed.count:
        return [row for group in groups.values() for row in group]
    whitening = Whitening.of(context.model)
    return [
        *_at_a_glance(
            context, groups["circuit"][: _most_circuits(context)], whitening, context.model.glance, _CIRCUITS
        ),
        *_at_a_glance(context, groups["book"], whitening, lambda b: context.expected[b.rows] * b.shares, _SLIPS),
        *groups["other"],
    ]


def _solves(candidate: Candidate) -> bool:
    """Whether it changes a circuit."""
    return any(change.solves for change in candidate.changes)


def _in_circuits(candidates: Iterable[Candidate]) -> int:
    """How many circuits these are, from each of their starts."""
    return sum(candidate.starts for candidate in candidates if _solves(candidate))


def _most_circuits(context: FaultContext) -> int:
    """How many circuits of this size there is time to glance at."""
    nodes = max((len(setup.nodes) for setup in context.run.sheet.setups.values()), default=1)
    return max(_FEWEST_CIRCUITS, int(_WORK / nodes**3))


def _at_a_glance(
    context: FaultContext, rows: Sequence[Row], whitening: Whitening, shows: Callable[[Batch], Array], most: int
) -> Sequence[Row]:
    """So many of the rows, those that fit best."""
    if len(rows) <= most:
        return rows
    fits = []
    for first in range(0, len(rows), _AT_A_GLANCE):
        batch = _batch(context, rows[first : first + _AT_A_GLANCE])
        fits.append(prefilter(batch, shows(batch), whitening) + batch.extra)
    likely = np.concatenate(fits) + np.array([prior(some) for some, _ in rows])
    return [rows[k] for k in np.argsort(-likely)[:most]]


def _screen(context: FaultContext, rows: Sequence[Row]) -> list[Rough]:
    """Each with the logarithm of its weight by one linear step from its start."""
    model, observed = context.model, context.observed
    variances = np.maximum(noise(observed, observed.by_digits, np.abs(observed.values), observed.gain), 1e-24)
    found: list[Rough] = []
    together = _together(context)
    for begin in range(0, len(rows), together):
        block = rows[begin : begin + together]
        logs = linear_score(model, _batch(context, block), variances)
        found += [(log + prior(some), some, start) for log, (some, start) in zip(logs.tolist(), block, strict=True)]
    return found


def _together(context: FaultContext) -> int:
    """How many hypotheses of this run are weighed side by side."""
    return max(1, min(_SIDE_BY_SIDE, _NUMBERS // max(1, context.observed.count * context.model.unknowns)))


def prior(candidates: Iterable[Candidate]) -> float:
    """The logarithm of what hypotheses have beforehand, together."""
    found = 0.0
    for candidate in candidates:
        if candidate is NOTHING:
            found += math.log(NOTHING_WRONG)
        elif candidate is ORDINARY:
            found += math.log(_ORDINARY_METER)
        else:
            found += candidate.log_prior
    return found


def _batch(context: FaultContext, rows: Sequence[Row]) -> Batch:
    batch = context.model.batch(len(rows))
    for h, (candidates, start) in enumerate(rows):
        for candidate in candidates:
            for change in candidate.changes:
                change.write(batch, h, start)
    return batch


def _to_weigh(rough: Iterable[Rough]) -> list[Row]:
    return [(candidates, start) for _, candidates, start in rough]


def weigh(
    context: FaultContext,
    rows: Sequence[Row],
    extra: Sequence[Change] = (),
    *,
    steps: int = _WELL,
    begin: Array | None = None,
) -> list[Scored]:
    """Weigh hypotheses, each from one start or from where it `begin`s, by so many steps; all are changed by `extra`."""
    scored_all: list[Scored] = []
    together = _together(context)
    for first in range(0, len(rows), together):
        block = rows[first : first + together]
        batch = _batch(context, block)
        for change in extra:
            for h in range(len(batch)):
                change.write(batch, h, 0)
        at = None if begin is None else begin[first : first + together]
        evidence = refined(context.model, batch, steps=steps, begin=at)
        scored_all += _weighed(context, batch, evidence, [some for some, _ in block])
    return scored_all


def _weigh_in_stages(context: FaultContext, rows: Sequence[Row]) -> list[Scored]:
    """Weigh all by a step or two, and go on with the best from where they came to."""
    scored_all = weigh(context, rows, steps=_ROUGHLY)
    best = sorted(range(len(scored_all)), key=lambda k: -scored_all[k].log)[:_WORTH]
    begin = np.array([scored_all[k].at for k in best])
    for k, scored in zip(best, weigh(context, [rows[k] for k in best], begin=begin), strict=True):
        scored_all[k] = scored if scored.log > scored_all[k].log else scored_all[k]
    return scored_all


def _weighed(
    context: FaultContext, batch: Batch, evidence: Evidence, rows: Sequence[tuple[Candidate, ...]]
) -> Iterable[Scored]:
    model = context.model
    misfits = evidence.misfits(batch)
    own = model.own_numbers(batch, evidence.at)
    places, all_spreads = model.own_places(), model.spreads_of(batch)
    spreads = np.sqrt(np.diagonal(evidence.covariance, axis1=1, axis2=2)[:, places]) * batch.spread
    for h, candidates in enumerate(rows):
        there = np.abs(evidence.predicted.at_points[h])
        over = tuple(
            bool(there[over_range.row] > over_range.limit or not batch.is_over[h, k])
            for k, over_range in enumerate(context.observed.over_range)
        )
        yield Scored(
            candidates,
            float(evidence.log[h]) + prior(candidates),
            tuple((float(own[h, j]), float(spreads[h, j])) for j in range(int(batch.used[h]))),
            misfits[h],
            evidence.predicted.shown[h],
            np.sqrt(evidence.predicted.variances[h]),
            batch.values[h],
            batch.counts[h],
            batch.is_over[h],
            over,
            evidence.at[h],
            all_spreads[h],
            evidence.covariance[h],
        )


def _best_of_each(weighed: Iterable[Scored]) -> list[Scored]:
    """The best start of each."""
    best: dict[tuple[int, ...], Scored] = {}
    for scored in weighed:
        key = tuple(map(id, scored.candidates))
        if key not in best or scored.log > best[key].log:
            best[key] = scored
    return sorted(best.values(), key=lambda one: -one.log)


def _none_of_these(context: FaultContext, base: Batch, evidence: Evidence) -> Scored:
    """Something is wrong, and none of these: what does not fit is excused, one reading after the other.

    Which readings those are is told by the slopes of the ordinary meter's hypothesis, the second of `base`.
    """
    slopes, variances = evidence.predicted.slopes[1], evidence.predicted.variances[1]
    ahead = base.values[1] - evidence.predicted.shown[1] + slopes @ evidence.at[1]
    excused: list[int] = []
    orders = []
    for _ in range(min(_MOST_EXCUSED, context.observed.count)):
        keeps = np.ones(len(variances), bool)
        keeps[excused] = False
        weighted = slopes[keeps] / variances[keeps, None]
        covariance = np.linalg.inv(np.eye(slopes.shape[1]) + slopes[keeps].T @ weighted)
        left = ahead - slopes @ (covariance @ (weighted.T @ ahead[keeps]))
        own = variances - ((slopes @ covariance) * slopes).sum(axis=1)
        away = np.where(keeps, np.abs(left) / np.sqrt(np.maximum(own, 1e-3 * variances)), 0.0)
        worst = int(np.argmax(away))
        if excused and away[worst] < MISFIT:
            break
        excused.append(worst)
        orders.append(tuple(excused))
    scored_all = [
        weigh(context, [((ORDINARY,), 0)], [_excuse(context, k) for k in some], steps=_ROUGHLY)[0]
        for some in orders[-2:]
    ]
    extra = math.log(NONE_OF_THESE) - prior((ORDINARY,))
    best = max(scored_all, key=lambda scored: scored.log, default=None)
    return (
        replace(best, log=best.log + extra)
        if best
        else replace(next(iter(_weighed(context, base, evidence, [(ORDINARY,)]))), log=-math.inf)
    )


def _excuse(context: FaultContext, place: int) -> Uninformative:
    """A reading that is off for a reason of its own: it could be anything of the size of what is read there."""
    observed = context.observed
    size = abs(observed.values[place]) + abs(context.expected[observed.rows[place]]) + observed.by_digits[place]
    return Uninformative((place,), _EXCUSED - math.log(max(size, 1e-12)))


def _is_needed(entries: Sequence[Indistinguishable], none: Scored, nothing: Scored, ordinary: Scored) -> bool:
    """Whether pairs are to be tried: something is wrong, and no single cause explains it."""
    best = max((entry.log for entry in entries), default=-math.inf)
    if max(nothing.log, ordinary.log) > max(best, none.log):
        return False
    leaves = not entries or bool((np.abs(entries[0].leader.misfits) > MISFIT).any())
    return none.log > best or leaves


def _pairs(
    context: FaultContext, entries: Sequence[Indistinguishable], candidates: Sequence[Candidate]
) -> list[Scored]:
    """Two at once: each of the best singles, with every other that explains what it leaves."""
    firsts = [entry.leader.candidates[0] for entry in entries[:_FIRST]]
    rows: dict[frozenset[int], list[Row]] = {}
    for first in firsts:
        for second in candidates:
            if first is second or first.targets == second.targets or first.fitted + second.fitted > SLOTS:
                continue
            both = frozenset((id(first), id(second)))
            rows.setdefault(both, [((first, second), start) for start in range(max(first.starts, second.starts))])
    every = [row for some in rows.values() for row in some]
    whitening = Whitening.of(context.model)
    screened_pairs = _screen(context, _at_a_glance(context, every, whitening, context.model.glance, _PAIRS))
    best = sorted(screened_pairs, key=lambda one: -one[0])[:_WEIGHED]
    return _best_of_each(_weigh_in_stages(context, _to_weigh(best)))


def merged(weighed: Iterable[Scored]) -> list[Indistinguishable]:
    """Entries of what cannot be told apart, best first; the one with the fewest numbers of its own is named."""
    entries: list[Indistinguishable] = []
    for scored in sorted(weighed, key=lambda one: -one.log):
        entry = next((e for e in entries if e.leader.same_as(scored)), None)
        if entry is None:
            entries.append(Indistinguishable(scored))
        elif scored.fitted < entry.leader.fitted and scored.log > entry.leader.log - _AS_GOOD:
            entry.others.append(entry.leader)
            entry.leader = scored
        else:
            entry.others.append(scored)
    return sorted(entries, key=lambda entry: -entry.log)
