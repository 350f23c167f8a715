"""Kirchhoff's laws as bookkeeping: an account for each independent loop and each junction.

Terms are readings, never calculated values. The residual is written as a linear combination of
distinct targets; when all of them cancel, the account proves nothing, and says so. An account compares
readings with readings, so what the meter can tell decides; a percent limit only says how bad it is.
"""

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import partial
from itertools import product
from typing import Any

from recensor.core.circuit import Across, Judge, JudgedBy, PartAlone, Setup, Target, Through, loops
from recensor.core.figures import sum_figures
from recensor.core.judgement.by_setup import in_setup
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.verdicts import BEYOND, EDGE
from recensor.core.quantity import CURRENT, VOLTAGE, Measurand, as_ratio
from recensor.core.record import Run
from recensor.core.sentences import say, several
from recensor.core.uncertainty import NO_SPREAD, Spread

# A target that was read, and its coefficient.
Share = tuple[Target, float]


class AccountVerdict(StrEnum):
    """What can be said of an account."""

    BALANCES = "balances"
    CLOSE = "close"
    UNDECIDED = "undecided"
    OUT = "out"
    NEEDS_READINGS = "needs readings"
    NO_INDEPENDENT_CHECK = "no independent check"

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""
        return _OUTCOMES.get(self, Outcome.NEUTRAL)


_OUTCOMES = {
    AccountVerdict.BALANCES: Outcome.AGREES,
    AccountVerdict.CLOSE: Outcome.AGREES,
    AccountVerdict.UNDECIDED: Outcome.UNDECIDED,
    AccountVerdict.OUT: Outcome.OUTSIDE,
    AccountVerdict.NEEDS_READINGS: Outcome.UNREAD,
}


@dataclass(frozen=True)
class Term:
    """One entry: the part, its sign, its read value in SI units and the readings it comes from.

    `value` is None while it has not been read; `wanted` is the target that would give it. `coefficients` say how it
    is made of the targets that were read.
    """

    part: str
    sign: int
    wanted: Target
    value: float | None = None
    sources: tuple[int, ...] = ()
    coefficients: Mapping[Target, float] = field(default_factory=dict)
    derived: bool = False
    tests_sag: bool = False


@dataclass(frozen=True)
class Account:
    """A loop (`around`) or a junction (`at`) with its terms and what they leave, in SI units.

    `expanded` is the residual's uncertainty (k = 2), `spread` what makes it up. `missing` names the readings that would
    complete the account.
    """

    law: Measurand
    setup: str
    around: tuple[str, ...]
    at: str | None
    terms: tuple[Term, ...]
    rises: float | None
    drops: float | None
    residual: float | None
    residual_percent: float | None
    expanded: float | None
    normalised_error: float | None
    missing: tuple[Target, ...]
    verdict: AccountVerdict
    reason: str
    spread: Spread = NO_SPREAD


def assess_laws(run: Run, measurements: Measurements) -> list[Account]:
    """Every account of every setup: voltage loops first, then current nodes."""
    found: list[Account] = []
    for name, setup in run.sheet.setups.items():
        found += in_setup(partial(_accounts, setup, run, measurements), measurements, name, "laws")
    return found


def _accounts(setup: Setup, run: Run, measurements: Measurements) -> tuple[Account, ...]:
    return tuple(_SetupLaws(setup, run, measurements).accounts())


class _SetupLaws:
    """The accounts of one setup."""

    def __init__(self, setup: Setup, run: Run, measurements: Measurements) -> None:
        self.setup = setup
        self.run = run
        self.sheet = run.sheet
        self.measurements = measurements
        self.order = {name: k for k, name in enumerate(setup.connections)}
        # The voltages that were read from each node to others, as shares of targets.
        self._read_from: dict[str, dict[str, Share]] = {node: {} for node in setup.nodes}
        # Where the current of each part was read.
        self._currents: dict[str, list[Target]] = defaultdict(list)
        for key, measurement in measurements.by_target.items():
            target = measurement.target
            if measurement.mean is None or target.setup != setup.name or target.step is not None:
                continue
            if target.is_across and target.measurand is VOLTAGE:
                self._read_from[target.red].setdefault(target.black, (key, 1.0))
                self._read_from[target.black].setdefault(target.red, (key, -1.0))
            elif target.is_through:
                self._currents[target.part].append(key)

    def accounts(self) -> Iterator[Account]:
        """Loops first, then nodes."""
        parts, judge = self.sheet.parts, self.sheet.judge
        joined = self.setup.joined(parts)
        for loop in loops.independent_loops(joined, frozenset(self.setup.driving(parts))):
            terms = self._voltage_terms(loop)
            if terms:
                around = tuple(passage.part for passage in loop)
                yield _closed(VOLTAGE, self.setup.name, around, None, *self._together(terms), judge)
        meeting: dict[str, list[loops.Branch]] = defaultdict(list)
        for branch in loops.branches(joined):
            if branch.start != branch.end:  # a loop that hangs on one node enters and leaves there, and cancels
                meeting[branch.start].append(branch)
                meeting[branch.end].append(branch)
        for node in loops.current_nodes(joined, self.setup.reference):
            terms = [self._current_term(branch, node) for branch in meeting[node]]
            yield _closed(CURRENT, self.setup.name, (), node, *self._together(terms), judge)

    def _together(self, terms: Sequence[Term]) -> tuple[Sequence[Term], Mapping[Target, Measurement]]:
        """The terms with the readings that were taken nearest to each other, and the measurements by just those.

        One later look must not break a sum that closed.
        """
        again, known = self.measurements.groups, self.measurements.by_target
        if not any(key in again for term in terms for key in term.coefficients):
            return terms, known
        last = {key: known[key].indexes[-1] for term in terms for key in term.coefficients}
        once = sorted(place for key, place in last.items() if key not in again) or sorted(last.values())
        middle = once[len(once) // 2]
        near = {**known, **{key: self.measurements.near(key, middle) for key in last if key in again}}
        made = [replace(term, **_summed(term.coefficients, near)) if term.coefficients else term for term in terms]
        return made, near

    def _voltage_terms(self, loop: Sequence[loops.Passage]) -> list[Term]:
        """The loop's terms: what is read directly first; what is missing from a common node, so that it checks."""
        passages = [passage for passage in loop if passage.part not in self.setup.sources_off]
        terms = [self._direct_term(passage) for passage in passages]
        # Nothing lies across a wire: what was not read there is no term.
        direct = [t for t in terms if t.value is not None or not self.sheet.parts[t.part].kind.is_wire]
        targets = {key for term in direct for key in term.coefficients}
        choices = [
            [term] if term.value is not None else list(self._derived_terms(term, targets)) or [term] for term in direct
        ]
        first = [some[0] for some in choices]
        if any(term.value is None for term in first) or _leaves_something(first):
            return first
        few = [some[:_MOST_CHOICES] for some in choices]
        return next((list(terms) for terms in _one_otherwise(few) if _leaves_something(terms)), first)

    def _direct_term(self, passage: loops.Passage) -> Term:
        """A part's voltage: read across it, beside it, or of a source before connecting."""
        name, sign = passage.part, -1 if passage.forward else 1
        leads = self.setup.connections[name]
        wanted = Across(VOLTAGE, leads, self.setup.name)
        if leads[0] == leads[1]:
            return Term(name, sign, wanted, 0.0)
        for at in (name, None):
            target = Across(VOLTAGE, leads, self.setup.name, at)
            if read := self.measurements.read(target):
                turned = -1.0 if read.target.reversed_against(target) else 1.0
                return self._term(name, sign, target, {target.key: turned})
        if beside := self._read_from[leads[0]].get(leads[1]):
            return self._term(name, sign, wanted, dict([beside]))
        if self.sheet.parts[name].kind.is_source:
            return self._before_connecting(name, sign, wanted)
        return Term(name, sign, wanted)

    def _before_connecting(self, name: str, sign: int, wanted: Target) -> Term:
        """A source as read before connecting; what it has inside drops part of that, as far as its current was read."""
        part = self.sheet.parts[name]
        alone = [PartAlone(name, part.kind.measured_as, own) for own in (self.setup.name, None)]
        if name in self.setup.values:
            alone = alone[:1]
        read = next((target for target in alone if self.measurements.read(target)), None)
        if read is None or part.kind.measured_as is not VOLTAGE:
            return Term(name, sign, wanted)
        shares: dict[Target, float] = {read.key: 1.0}
        if part.internal_resistance:
            current = self._current_of(name)
            if current is None:
                return Term(name, sign, wanted)
            shares[current[0]] = -part.internal_resistance * current[1]
        return self._term(name, sign, wanted, shares, tests_sag=True)

    def _current_of(self, name: str) -> Share | None:
        """The current that a source delivers, as it was read anywhere on its branch."""
        for branch in loops.branches(self.setup.joined(self.sheet.parts)):
            along = {passage.part: self._along(passage) for passage in branch.passages}
            if name in along:
                return next(
                    ((key, along[name] * along[part]) for part in (name, *along) for key in self._currents[part]), None
                )
        return None

    def _along(self, passage: loops.Passage) -> int:
        """Whether a part's current counts positive along the passage: +1, else −1."""
        # A resistor's current is positive from first lead to second, a source's when it leaves the first.
        return 1 if passage.forward != self.sheet.parts[passage.part].kind.is_source else -1

    def _derived_terms(self, term: Term, targets: set[Target]) -> Iterator[Term]:
        """The term as the difference of two readings against one common node; not of the loop's own terms first.

        Two of the loop's own terms are no third reading. Against the reference they are node potentials, of which
        the account at least says that they check nothing.
        """
        first, second = self.setup.connections[term.part]
        upper, lower, reference = self._read_from[first], self._read_from[second], self.setup.reference
        commons = [node for node in dict.fromkeys((reference, *upper)) if node in upper and node in lower]
        of_own = {node: {upper[node][0], lower[node][0]} <= targets for node in commons}
        for node in sorted(commons, key=lambda node: of_own[node]):
            if node == reference or not of_own[node]:
                (a, sign_a), (b, sign_b) = upper[node], lower[node]
                yield self._term(term.part, term.sign, term.wanted, {a: sign_a, b: -sign_b}, derived=True)

    def _current_term(self, branch: loops.Branch, node: str) -> Term:
        """The branch's current at this junction, + into it, from the first of its parts that was read."""
        end = 1 if branch.end == node else -1
        passages = sorted(branch.passages, key=lambda passage: self.order[passage.part])
        for passage in passages:
            for target in self._currents[passage.part]:
                return self._term(passage.part, end * self._along(passage), target, {target: 1.0})
        passage = passages[0]
        return Term(passage.part, end * self._along(passage), Through(passage.part, self.setup.name))

    def _term(
        self,
        part: str,
        sign: int,
        wanted: Target,
        shares: Mapping[Target, float],
        *,
        derived: bool = False,
        tests_sag: bool = False,
    ) -> Term:
        """A term whose value is a linear combination of measured targets."""
        made = _summed(shares, self.measurements.by_target)
        return Term(part, sign, wanted, coefficients=shares, derived=derived, tests_sag=tests_sag, **made)


def _summed(shares: Mapping[Target, float], read: Mapping[Target, Measurement]) -> dict[str, Any]:
    """The value of a linear combination of measurements, and the readings that it is made of."""
    indexes = sorted(index for key in shares for index in read[key].indexes)
    return {"value": math.fsum(factor * (read[key].mean or 0.0) for key, factor in shares.items()),
            "sources": tuple(indexes)}  # fmt: skip


# How many common nodes are tried for each missing term of a loop that would otherwise prove nothing.
_MOST_CHOICES = 16


def _one_otherwise(choices: Sequence[Sequence[Term]]) -> Iterator[tuple[Term, ...]]:
    """The first choices with one of them otherwise, and with two."""
    first = tuple(some[0] for some in choices)
    for k, some in enumerate(choices):
        for term in some[1:]:
            yield (*first[:k], term, *first[k + 1 :])
    if math.prod(map(len, choices)) <= _MOST_CHOICES**2:
        yield from product(*choices)


def _collected(terms: Sequence[Term]) -> dict[Target, float]:
    """The residual as a combination of distinct targets."""
    collected: dict[Target, float] = defaultdict(float)
    for term in terms:
        for key, factor in term.coefficients.items():
            collected[key] += term.sign * factor
    return {key: factor for key, factor in collected.items() if abs(factor) > 1e-12}


def _leaves_something(terms: Sequence[Term]) -> bool:
    return bool(_collected(terms))


def _closed(
    law: Measurand,
    setup: str,
    around: tuple[str, ...],
    at: str | None,
    terms: Sequence[Term],
    read: Mapping[Target, Measurement],
    judge: Judge,
) -> Account:
    """Add the terms up and give the verdict."""
    asked: dict[Target, int] = defaultdict(int)
    for term in terms:
        if term.value is None:
            asked[term.wanted.key] += term.sign * (-1 if term.wanted.reversed_against(term.wanted.key) else 1)
    # What would cancel is not asked for: it could be anything.
    missing = tuple({t.wanted.key: t.wanted for t in terms if t.value is None and asked[t.wanted.key]}.values())
    if missing:
        still = ", ".join(target.words for target in missing)
        return Account(law, setup, around, at, tuple(terms), None, None, None, None, None, None, missing,
                       AccountVerdict.NEEDS_READINGS, say("judgement.still_read", still=still))  # fmt: skip
    collected = _collected(terms)
    if any(term.value is None for term in terms) and not collected:
        reason = say("judgement.parts_share_same_two")
        return Account(law, setup, around, at, tuple(terms), None, None, None, None, None, None, (),
                       AccountVerdict.NO_INDEPENDENT_CHECK, reason)  # fmt: skip
    signed = [term.sign * (term.value or 0.0) for term in terms]
    rises, drops = math.fsum(v for v in signed if v > 0), 0.0 - math.fsum(v for v in signed if v < 0)
    residual = math.fsum(signed) + 0.0  # of nothing, and of what cancels, 0 and not −0
    spread = NO_SPREAD
    for key, factor in collected.items():
        spread += read[key].spread.times(factor)
    margin = 2.0 * spread.standard
    percentage = residual / rises * 100.0 if rises else None
    wanted: tuple[Target, ...] = ()
    if not collected:
        wanted = tuple(term.wanted for term in terms if term.derived)[:1]
        verdict, why = AccountVerdict.NO_INDEPENDENT_CHECK, _proves_nothing(wanted)
    else:
        verdict, why = _weigh(law, rises, drops, residual, margin, judge)
        refine = _to_refine(collected, read) if verdict is AccountVerdict.UNDECIDED else ""
        tested = ", ".join(term.part for term in terms if term.tests_sag)
        sag = say("judgement.tests_sag", tested=tested) if tested else ""
        why = several(why, refine, _unchecked(terms, margin), sag)
    return Account(law, setup, around, at, tuple(terms), rises, drops, residual, percentage, margin,
                   residual / margin if margin else None, wanted, verdict, why, spread)  # fmt: skip


def _proves_nothing(wanted: tuple[Target, ...]) -> str:
    if wanted:
        return say("judgement.these_readings_cancel_whatever", words=wanted[0].words)
    return say("judgement.every_term_same_reading")


def _to_refine(collected: Mapping[Target, float], read: Mapping[Target, Measurement]) -> str:
    """The reading that puts the most into the uncertainty."""

    def share(key: Target) -> float:
        return abs(collected[key]) * read[key].spread.standard

    return say("judgement.read_it_finer", target=read[max(collected, key=share)].target.words)


def _unchecked(terms: Sequence[Term], margin: float) -> str:
    """The parts whose terms are too small to be checked by the account."""
    small = [term.part for term in terms if term.value is not None and 0 < abs(term.value) < margin]
    if not small:
        return ""
    return say("judgement.own_share_is_not_checked", parts=" and ".join(small))


def _weigh(
    law: Measurand, rises: float, drops: float, residual: float, margin: float, judge: Judge
) -> tuple[AccountVerdict, str]:
    size = abs(residual)
    names = ("rises", "drops") if law is VOLTAGE else ("in", "out")
    shown = sum_figures(rises, drops, margin, law.unit)
    sums = f"{names[0]} {shown.rises}, {names[1]} {shown.drops}"
    short = say("judgement.short_by", names=names[residual > 0], size=shown.left.removeprefix("−"))
    tells = f"± {shown.margin}"
    margin *= 1.0 + EDGE
    if judge.by is JudgedBy.UNCERTAINTY or rises <= 0:
        if size <= margin:
            return AccountVerdict.BALANCES, say("judgement.balances_within_what_readings", sums=sums, tells=tells)
        if size <= BEYOND * margin:
            return AccountVerdict.UNDECIDED, say(
                "judgement.just_beyond_what_readings", sums=sums, short=short, tells=tells
            )
        return AccountVerdict.OUT, say("judgement.more_than_readings_own", sums=sums, short=short, tells=tells)
    within, allowed = (
        say("judgement.percent_of", limit=judge.limit.value, names=names[0]),
        as_ratio(judge.limit) * rises * (1.0 + EDGE),
    )
    if size > allowed + margin:
        return AccountVerdict.OUT, say("judgement.sums_more_than", sums=sums, short=short, within=within)
    if margin > allowed:
        return AccountVerdict.UNDECIDED, say("judgement.readings_only_tell_too", sums=sums, tells=tells, within=within)
    if size <= margin:
        return AccountVerdict.BALANCES, say("judgement.balances_within_what_readings", sums=sums, tells=tells)
    if size <= allowed:
        return AccountVerdict.CLOSE, say(
            "judgement.within_but_more_than", sums=sums, within=within, short=short, tells=tells
        )
    return AccountVerdict.UNDECIDED, say("judgement.sums_on_neither_side", sums=sums, short=short, within=within)
