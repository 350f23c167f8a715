"""The ranking: every hypothesis is weighed roughly, the best well, and what cannot be told apart is one entry."""

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from recensor.core.faults.candidate import FaultContext
from recensor.core.faults.given_up import with_slips
from recensor.core.faults.model.excuses import Excuses
from recensor.core.faults.pairs import pairs
from recensor.core.faults.screening import every_candidate, screened, worth_screening
from recensor.core.faults.weighing import (
    NONE,
    NOTHING,
    ORDINARY,
    ROUGHLY,
    Contender,
    Scored,
    best_of_each,
    settled,
    weigh,
    weigh_in_stages,
)

# So many of the best are weighed, some of them also giving up what none of these does, and so many of all well.
_WEIGHED, _ALIKE, _WORTH = 24, 12, 8

# Of very many readings so many that do not fit are tried as the first to be given up, and so many gone on with.
_MOST_GIVEN_UP, _GONE_ON_WITH = 12, 4

# What fits fewer numbers is named first where it is no less likely than this, as a logarithm.
_AS_GOOD = 1.5

# What a reading that is given up may have been gains no more over giving it up than this, as a logarithm.
_SLIP_GAINS = 15.0

# Where giving up so few readings explains everything, two faults at once are not looked for.
_FEW = 2


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

    `nothing` and `ordinary` have mild excuses only; `none_of_these` gives up what is wild, None where nothing was read.
    `left_out`: how many hypotheses there were no room to weigh.
    """

    context: FaultContext
    nothing: Scored
    ordinary: Scored
    none_of_these: Scored | None
    entries: list[Indistinguishable]
    left_out: int
    idle: float = -math.inf

    @property
    def fine(self) -> float:
        """The logarithm of the weight of nothing wrong, whether the meter disturbs or not."""
        return float(np.logaddexp(self.nothing.log, self.ordinary.log))

    @property
    def none(self) -> float:
        """The logarithm of the weight of none of these, and of what explains nothing that does not fit."""
        own = self.none_of_these.log if self.none_of_these else -math.inf
        return float(np.logaddexp(own, self.idle))

    def without_idle(self, explains: Callable[[Scored], bool]) -> "Ranking":
        """The same where what explains nothing that does not fit counts as none of these."""
        idle = [entry.log for entry in self.entries if not explains(entry.leader)]
        entries = [entry for entry in self.entries if explains(entry.leader)]
        return replace(self, entries=entries, idle=float(np.logaddexp.reduce([self.idle, *idle])))

    @property
    def total(self) -> float:
        """The logarithm of all weight."""
        return float(np.logaddexp.reduce([self.fine, self.none, *(entry.log for entry in self.entries)]))

    def share(self, log: float) -> float:
        """The share of all weight."""
        return math.exp(log - self.total)


def rank(context: FaultContext) -> Ranking:
    """Weigh every hypothesis."""
    candidates, left_out = every_candidate(context)
    rough = screened(context, worth_screening(context, candidates))
    nothing, ordinary, none = _no_cause(context)
    best = [one.contender for one in rough[:_WEIGHED]]
    singles = weigh_in_stages(context, [*best, *_given_up_alike(best[:_ALIKE], none)], _WORTH)
    if none is not None and none.log > max((one.log for one in singles), default=-math.inf) - _SLIP_GAINS:
        singles = best_of_each([*singles, *with_slips(context, none)])
    if _are_two_thought_of(singles, none, nothing, ordinary):
        likely = {id(one): one for one_rough in rough for one in one_rough.contender.candidates}
        singles += pairs(context, singles, [*likely.values()])
    return Ranking(context, nothing, ordinary, none, merged(one for one in singles if one.is_possible), left_out)


def _no_cause(context: FaultContext) -> tuple[Scored, Scored, Scored | None]:
    """Nothing is wrong, without a meter that disturbs and with one; or something is, and none of these.

    Then what does not fit is given up, one reading after the other. Which is the first is tried, and not told by
    slopes: where one is far off, these say nothing.
    """
    worst = np.argsort(-np.abs(context.odd))[:_MOST_GIVEN_UP].tolist()
    given_up = [Contender((NONE,), 0, Excuses(wild=(place,))) for place in worst]
    tried = weigh(context, [Contender((NOTHING,)), Contender((ORDINARY,)), *given_up], steps=ROUGHLY)
    best = sorted(tried[2:], key=lambda one: -one.log)[:_GONE_ON_WITH]
    nothing, ordinary, *none = settled(context, [*tried[:2], *best])
    return nothing, ordinary, max(none, key=lambda one: one.log, default=None)


def _given_up_alike(contenders: Iterable[Contender], none: Scored | None) -> Iterator[Contender]:
    """The same, each giving up what none of these does, but for the readings that it is about."""
    if none is None:
        return
    for contender in contenders:
        about = frozenset(place for one in contender.candidates for place in one.about)
        excuses = none.excuses.without(about)
        if excuses.places and excuses != contender.excuses:
            yield replace(contender, excuses=excuses)


def _are_two_thought_of(singles: Sequence[Scored], none: Scored | None, nothing: Scored, ordinary: Scored) -> bool:
    """Whether something is wrong, and no single cause explains it, nor giving up a reading or two."""
    best = max((scored.log for scored in singles), default=-math.inf)
    if none is None or max(nothing.log, ordinary.log) > max(best, none.log):
        return False
    if none.log > best:
        return len(none.excuses.places) > _FEW
    return bool(singles[0].excuses.wild)


def merged(scored_all: Iterable[Scored]) -> list[Indistinguishable]:
    """Entries of what cannot be told apart, best first; the one with the fewest numbers of its own is named."""
    entries: list[Indistinguishable] = []
    for scored in sorted(scored_all, key=lambda one: -one.log):
        entry = next((e for e in entries if e.leader.same_as(scored)), None)
        if entry is None:
            entries.append(Indistinguishable(scored))
        elif scored.fitted < entry.leader.fitted and scored.log > entry.leader.log - _AS_GOOD:
            entry.others.append(entry.leader)
            entry.leader = scored
        else:
            entry.others.append(scored)
    return sorted(entries, key=lambda entry: -entry.log)
