"""Kirchhoff's laws as bookkeeping: an account for each independent loop and each junction.

Terms are readings, never calculated values. The residual is written as a linear combination of
distinct targets; when all of them cancel, the account proves nothing, and says so.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from recensor.core import loops
from recensor.core.circuit import Kind, Setup
from recensor.core.judgement.measurements import Key, Measurement
from recensor.core.judgement.verdicts import EDGE
from recensor.core.quantity import fraction, rounded
from recensor.core.record import CURRENT, PERCENT, UNITS, VOLTAGE, Judge, Run, Target


class AccountVerdict(StrEnum):
    """What can be said of an account."""

    BALANCES = "balances"
    OUT = "out"
    NEEDS_READINGS = "needs readings"
    NO_INDEPENDENT_CHECK = "no independent check"


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
    coefficients: Mapping[Key, float] = field(default_factory=dict)
    derived: bool = False
    tests_sag: bool = False


@dataclass(frozen=True)
class Account:
    """A loop (`around`) or a junction (`at`) with its terms and what they leave, in SI units.

    `uncertainty` is expanded (k = 2). `missing` names the readings that would complete the account.
    """

    law: str
    setup: str
    around: tuple[str, ...]
    at: str | None
    terms: tuple[Term, ...]
    rises: float | None
    drops: float | None
    residual: float | None
    residual_percent: float | None
    uncertainty: float | None
    normalised_error: float | None
    missing: tuple[Target, ...]
    verdict: AccountVerdict
    reason: str


def assess_laws(run: Run, measurements: Mapping[Key, Measurement]) -> list[Account]:
    """Every account of every setup: voltage loops first, then current nodes."""
    accounts: list[Account] = []
    for setup in run.setups.values():
        live = {name: leads for name, leads in setup.connections.items()
                if not (name in setup.sources_off and run.parts[name].kind is Kind.CURRENT_SOURCE)}  # fmt: skip
        sources = frozenset(name for name in live if run.parts[name].kind.is_source and name not in setup.sources_off)
        for loop in loops.independent_loops(live, sources):
            terms = _voltage_terms(loop, setup, run, measurements)
            if terms:
                around = tuple(step.part for step in loop)
                accounts.append(_close(VOLTAGE, setup.name, around, None, terms, measurements, run.judge))
        branches = loops.branches(live)
        for node in loops.current_nodes(live, setup.reference):
            terms = [term for branch in branches for term in _current_terms(branch, node, setup, run, measurements)]
            accounts.append(_close(CURRENT, setup.name, (), node, terms, measurements, run.judge))
    return accounts


def _voltage_terms(
    loop: tuple[loops.Step, ...], setup: Setup, run: Run, measurements: Mapping[Key, Measurement]
) -> list[Term]:
    """The loop's terms; what is read directly is found first, so that no term is made of the others."""
    steps = [step for step in loop if step.part not in setup.sources_off]
    direct = {step: _across(*setup.connections[step.part], setup.name, measurements) for step in steps}
    own_keys = {found[0] for found in direct.values() if found}
    return [_voltage_term(step, direct[step], own_keys, setup, run, measurements) for step in steps]


def _voltage_term(
    step: loops.Step,
    direct: tuple[Key, float] | None,
    own_keys: set[Key],
    setup: Setup,
    run: Run,
    measurements: Mapping[Key, Measurement],
) -> Term:
    """A part's voltage: read across it, of a source before connecting, or as a difference against a common node."""
    sign = -1 if step.forward else 1
    first, second = setup.connections[step.part]
    wanted = Target(VOLTAGE, across=(first, second), setup=setup.name)
    if first == second:
        return Term(step.part, sign, wanted, 0.0)
    if direct:
        return _term(step.part, sign, wanted, [direct], measurements)
    if run.parts[step.part].kind is Kind.VOLTAGE_SOURCE:
        for before in (Target(VOLTAGE, of=step.part, setup=setup.name), Target(VOLTAGE, of=step.part)):
            if before.setup is None and step.part in setup.values:
                continue
            if before.key in measurements and measurements[before.key].mean is not None:
                return _term(step.part, sign, wanted, [(before.key, 1.0)], measurements, tests_sag=True)
    for common in (setup.reference, *setup.nodes):
        if common in (first, second):
            continue
        upper, lower = (_across(node, common, setup.name, measurements) for node in (first, second))
        # Against the reference these are node potentials. Elsewhere two terms of this very loop are no third reading.
        if upper and lower and (common == setup.reference or not {upper[0], lower[0]} <= own_keys):
            return _term(step.part, sign, wanted, [upper, (lower[0], -lower[1])], measurements, derived=True)
    return Term(step.part, sign, wanted)


def _across(first: str, second: str, setup: str, measurements: Mapping[Key, Measurement]) -> tuple[Key, float] | None:
    """The target of V(first) − V(second) with its sign, if it was read."""
    target = Target(VOLTAGE, across=(first, second), setup=setup)
    measurement = measurements.get(target.key)
    if measurement is None or measurement.mean is None:
        return None
    return target.key, -1.0 if measurement.target.turned_against(target) else 1.0


def _current_terms(
    branch: loops.Branch, node: str, setup: Setup, run: Run, measurements: Mapping[Key, Measurement]
) -> list[Term]:
    """The branch's current at this junction, + into it, from the first of its parts that was read."""
    ends = [end for end, here in ((1, branch.end), (-1, branch.start)) if here == node]
    order = list(setup.connections)
    steps = sorted(branch.steps, key=lambda step: order.index(step.part))
    targets = {step: Target(CURRENT, through=step.part, setup=setup.name) for step in steps}
    read = [step for step in steps if (m := measurements.get(targets[step].key)) and m.mean is not None]
    step = (read or steps)[0]
    # A resistor's current is positive from first lead to second, a source's when it leaves the first.
    runs_to_end = step.forward != run.parts[step.part].kind.is_source
    coefficients = [(targets[step].key, 1.0)] if read else []
    return [_term(step.part, end if runs_to_end else -end, targets[step], coefficients, measurements) for end in ends]


def _term(
    part: str,
    sign: int,
    wanted: Target,
    combination: list[tuple[Key, float]],
    measurements: Mapping[Key, Measurement],
    *,
    derived: bool = False,
    tests_sag: bool = False,
) -> Term:
    """A term whose value is a linear combination of measured targets; without any it is still wanted."""
    if not combination:
        return Term(part, sign, wanted)
    value = math.fsum(factor * (measurements[key].mean or 0.0) for key, factor in combination)
    sources = tuple(sorted(index for key, _ in combination for index in measurements[key].indexes))
    return Term(part, sign, wanted, value, sources, dict(combination), derived, tests_sag)


def _close(
    law: str,
    setup: str,
    around: tuple[str, ...],
    at: str | None,
    terms: list[Term],
    measurements: Mapping[Key, Measurement],
    judge: Judge,
) -> Account:
    """Add the terms up and give the verdict."""
    missing = tuple({term.wanted.key: term.wanted for term in terms if term.value is None}.values())
    if missing:
        still = ", ".join(target.words() for target in missing)
        return Account(law, setup, around, at, tuple(terms), None, None, None, None, None, None, missing,
                       AccountVerdict.NEEDS_READINGS, f"Still to read: {still}.")  # fmt: skip
    signed = [term.sign * (term.value or 0.0) for term in terms]
    rises, drops = math.fsum(v for v in signed if v > 0), -math.fsum(v for v in signed if v < 0)
    residual = math.fsum(signed)
    collected: dict[Key, float] = {}
    for term in terms:
        for key, factor in term.coefficients.items():
            collected[key] = collected.get(key, 0.0) + term.sign * factor
    spread = math.sqrt(math.fsum((c * (measurements[k].uncertainty or 0.0)) ** 2 for k, c in collected.items()))
    margin = 2.0 * spread
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
        return (
            f"These readings cancel whatever they are; reading the {wanted[0].words()} directly would make it a check."
        )
    return "Every term is the same reading, taken between the same two nodes: nothing is left to check."


def _weigh(
    law: str, rises: float, drops: float, residual: float, margin: float, judge: Judge
) -> tuple[AccountVerdict, str]:
    unit = UNITS[law]
    by_percent = judge.by == PERCENT and rises > 0
    allowed = fraction(judge.limit) * rises if by_percent else margin
    names = ("rises", "drops") if law == VOLTAGE else ("in", "out")
    within = f"{judge.limit.value:f} % of {names[0]}" if by_percent else "their combined uncertainty"
    sums = f"{names[0]} {rounded(rises, margin or None, unit)}, {names[1]} {rounded(drops, margin or None, unit)}"
    if abs(residual) <= allowed * (1.0 + EDGE):
        return AccountVerdict.BALANCES, f"{sums}: balances within {within}."
    short = rounded(abs(residual), margin or None, unit)
    return AccountVerdict.OUT, f"{sums}: {names[residual > 0]} short by {short}, more than {within}."
