"""Kirchhoff's laws as bookkeeping: an account for each independent loop and each junction.

Terms are readings, never calculated values. The residual is written as a linear combination of
distinct targets; when all of them cancel, the account proves nothing, and says so.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from recensor.core.circuit import Across, Judge, JudgedBy, PartAlone, Setup, Target, Through, loops
from recensor.core.figures import rounded
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.verdicts import EDGE
from recensor.core.quantity import CURRENT, VOLTAGE, Measurand, as_ratio
from recensor.core.record import Run

# A target that was read, and its coefficient.
Share = tuple[Target, float]


class AccountVerdict(StrEnum):
    """What can be said of an account."""

    BALANCES = "balances"
    OUT = "out"
    NEEDS_READINGS = "needs readings"
    NO_INDEPENDENT_CHECK = "no independent check"

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""
        return _OUTCOMES.get(self, Outcome.NEUTRAL)


_OUTCOMES = {
    AccountVerdict.BALANCES: Outcome.AGREES,
    AccountVerdict.OUT: Outcome.OUTSIDE,
    AccountVerdict.NEEDS_READINGS: Outcome.UNREAD,
}


@dataclass(frozen=True)
class Term:
    """One entry: the part, its sign, its read value in SI units and the readings it comes from.

    `value` is None while it has not been read; `wanted` is the target that would give it.
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

    `expanded` is the residual's uncertainty (k = 2). `missing` names the readings that would complete the account.
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


def assess_laws(run: Run, measurements: Measurements) -> list[Account]:
    """Every account of every setup: voltage loops first, then current nodes."""
    accounts: list[Account] = []
    for setup in run.sheet.setups.values():
        joined = setup.joined(run.sheet.parts)
        for loop in loops.independent_loops(joined, frozenset(setup.driving(run.sheet.parts))):
            terms = _voltage_terms(loop, setup, run, measurements)
            if terms:
                around = tuple(passage.part for passage in loop)
                accounts.append(_close(VOLTAGE, setup.name, around, None, terms, measurements, run.sheet.judge))
        branches = loops.branches(joined)
        for node in loops.current_nodes(joined, setup.reference):
            terms = [term for branch in branches for term in _current_terms(branch, node, setup, run, measurements)]
            accounts.append(_close(CURRENT, setup.name, (), node, terms, measurements, run.sheet.judge))
    return accounts


def _voltage_terms(loop: tuple[loops.Passage, ...], setup: Setup, run: Run, measurements: Measurements) -> list[Term]:
    """The loop's terms; what is read directly is found first, so that no term is made of the others."""
    passages = [passage for passage in loop if passage.part not in setup.sources_off]
    direct = {passage: _across(*setup.connections[passage.part], setup.name, measurements) for passage in passages}
    own_keys = {found[0] for found in direct.values() if found}
    return [_voltage_term(passage, direct[passage], own_keys, setup, run, measurements) for passage in passages]


def _voltage_term(
    passage: loops.Passage,
    direct: Share | None,
    own_keys: set[Target],
    setup: Setup,
    run: Run,
    measurements: Measurements,
) -> Term:
    """A part's voltage: read across it, of a source before connecting, or as a difference against a common node."""
    sign = -1 if passage.forward else 1
    first, second = setup.connections[passage.part]
    wanted = Across(VOLTAGE, (first, second), setup.name)
    if first == second:
        return Term(passage.part, sign, wanted, 0.0)
    if direct:
        return _term(passage.part, sign, wanted, [direct], measurements)
    kind = run.sheet.parts[passage.part].kind
    if kind.drives and kind.alone_as is VOLTAGE:
        for before in (PartAlone(passage.part, VOLTAGE, setup.name), PartAlone(passage.part, VOLTAGE)):
            if before.setup is None and passage.part in setup.values:
                continue
            if measurements.read(before):
                return _term(passage.part, sign, wanted, [(before.key, 1.0)], measurements, tests_sag=True)
    for common in (setup.reference, *setup.nodes):
        if common in (first, second):
            continue
        upper, lower = (_across(node, common, setup.name, measurements) for node in (first, second))
        # Against the reference these are node potentials. Elsewhere two terms of this very loop are no third reading.
        if upper and lower and (common == setup.reference or not {upper[0], lower[0]} <= own_keys):
            return _term(passage.part, sign, wanted, [upper, (lower[0], -lower[1])], measurements, derived=True)
    return Term(passage.part, sign, wanted)


def _across(first: str, second: str, setup: str, measurements: Measurements) -> Share | None:
    """The target of V(first) − V(second) with its sign, if it was read."""
    target = Across(VOLTAGE, (first, second), setup)
    measurement = measurements.read(target)
    if measurement is None:
        return None
    return target.key, -1.0 if measurement.target.turned_against(target) else 1.0


def _current_terms(branch: loops.Branch, node: str, setup: Setup, run: Run, measurements: Measurements) -> list[Term]:
    """The branch's current at this junction, + into it, from the first of its parts that was read."""
    ends = [end for end, here in ((1, branch.end), (-1, branch.start)) if here == node]
    order = list(setup.connections)
    passages = sorted(branch.passages, key=lambda passage: order.index(passage.part))
    targets = {passage: Through(passage.part, setup.name) for passage in passages}
    read = [passage for passage in passages if measurements.read(targets[passage])]
    passage = (read or passages)[0]
    # A resistor's current is positive from first lead to second, a source's when it leaves the first.
    runs_to_end = passage.forward != run.sheet.parts[passage.part].kind.drives
    target = targets[passage]
    shares: list[Share] = [(target.key, 1.0)] if read else []
    return [_term(passage.part, end if runs_to_end else -end, target, shares, measurements) for end in ends]


def _term(
    part: str,
    sign: int,
    wanted: Target,
    combination: list[Share],
    measurements: Measurements,
    *,
    derived: bool = False,
    tests_sag: bool = False,
) -> Term:
    """A term whose value is a linear combination of measured targets; without any it is still wanted."""
    if not combination:
        return Term(part, sign, wanted)
    read = {key: measurements.by_target[key] for key, _ in combination}
    value = math.fsum(factor * (read[key].mean or 0.0) for key, factor in combination)
    sources = tuple(sorted(index for measurement in read.values() for index in measurement.indexes))
    return Term(part, sign, wanted, value, sources, dict(combination), derived, tests_sag)


def _close(
    law: Measurand,
    setup: str,
    around: tuple[str, ...],
    at: str | None,
    terms: list[Term],
    measurements: Measurements,
    judge: Judge,
) -> Account:
    """Add the terms up and give the verdict."""
    missing = tuple({term.wanted.key: term.wanted for term in terms if term.value is None}.values())
    if missing:
        still = ", ".join(target.words for target in missing)
        return Account(law, setup, around, at, tuple(terms), None, None, None, None, None, None, missing,
                       AccountVerdict.NEEDS_READINGS, f"Still to read: {still}.")  # fmt: skip
    signed = [term.sign * (term.value or 0.0) for term in terms]
    rises, drops = math.fsum(v for v in signed if v > 0), -math.fsum(v for v in signed if v < 0)
    residual = math.fsum(signed)
    collected: dict[Target, float] = {}
    for term in terms:
        for key, factor in term.coefficients.items():
            collected[key] = collected.get(key, 0.0) + term.sign * factor
    margin = 2.0 * math.hypot(*(c * (measurements.by_target[k].standard or 0.0) for k, c in collected.items()))
    percentage = residual / rises * 100.0 if rises else None
    wanted: tuple[Target, ...] = ()
    if all(abs(factor) < 1e-12 for factor in collected.values()):
        wanted = tuple(term.wanted for term in terms if term.derived)[:1]
        verdict, reason = AccountVerdict.NO_INDEPENDENT_CHECK, _proves_nothing(wanted)
    else:
        verdict, reason = _weigh(law, rises, drops, residual, margin, judge)
        if tested := [term.part for term in terms if term.tests_sag]:
            reason += f" {', '.join(tested)} was read before connecting, so this also tests its sag."
    return Account(law, setup, around, at, tuple(terms), rises, drops, residual, percentage, margin,
                   residual / margin if margin else None, wanted, verdict, reason)  # fmt: skip


def _proves_nothing(wanted: tuple[Target, ...]) -> str:
    if wanted:
        return f"These readings cancel whatever they are; reading the {wanted[0].words} directly would make it a check."
    return "Every term is the same reading, taken between the same two nodes: nothing is left to check."


def _weigh(
    law: Measurand, rises: float, drops: float, residual: float, margin: float, judge: Judge
) -> tuple[AccountVerdict, str]:
    unit = law.unit
    by_percent = judge.by is JudgedBy.PERCENT and rises > 0
    allowed = as_ratio(judge.limit) * rises if by_percent else margin
    names = ("rises", "drops") if law is VOLTAGE else ("in", "out")
    within = f"{judge.limit.value:f} % of {names[0]}" if by_percent else "their combined uncertainty"
    sums = f"{names[0]} {rounded(rises, margin or None, unit)}, {names[1]} {rounded(drops, margin or None, unit)}"
    if abs(residual) <= allowed * (1.0 + EDGE):
        return AccountVerdict.BALANCES, f"{sums}: balances within {within}."
    short = rounded(abs(residual), margin or None, unit)
    return AccountVerdict.OUT, f"{sums}: {names[residual > 0]} short by {short}, more than {within}."
