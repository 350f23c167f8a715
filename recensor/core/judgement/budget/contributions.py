"""What makes up the uncertainty of a value: each contribution by itself, largest first (JCGM 100, 8.1 and H.1)."""

from collections.abc import Hashable, Iterator
from dataclasses import dataclass
from decimal import Decimal

from recensor.core import figures
from recensor.core.circuit import NOMINAL, Across, PartAlone, Target, Through
from recensor.core.judgement.assess import Assessment
from recensor.core.judgement.laws import Account
from recensor.core.judgement.precision import Gain, Own
from recensor.core.judgement.starting_values import values_of
from recensor.core.sentences import say
from recensor.core.solving import NetworkError, Values, dead, operate, resistance_between, stated
from recensor.core.uncertainty import COVERAGE_FACTOR

# What adds less than this share of the whole is not told.
_LEAST = 1e-4


@dataclass(frozen=True)
class Contribution:
    """One contribution: its words, its standard uncertainty in the SI unit, and its share of the variance."""

    words: str
    standard: float
    share: float


@dataclass(frozen=True)
class Budget:
    """The expanded uncertainty of a value in the SI unit, and what it is made of."""

    value: float
    expanded: float
    contributions: tuple[Contribution, ...]


def of_reading(assessment: Assessment, target: Target) -> Budget | None:
    """The budget of what was read at a target; None where nothing was."""
    target_assessment = assessment.of(target)
    if target_assessment is None or target_assessment.measurement.mean is None:
        return None
    spread = target_assessment.measurement.spread
    return _budget(target_assessment.measurement.mean, {_words(v, target): u for v, u in spread.shares.items()})


def of_calculated(assessment: Assessment, target: Target) -> Budget | None:
    """The budget of what a target is calculated to be, by what judges; None where that is not known."""
    run = assessment.against.run
    calculated = assessment.expected(target)
    if calculated is None or calculated.value is None or not target.in_circuit:
        return None
    setup = run.sheet.state_of(target) or run.sheet.setups[target.setup]
    values = values_of(run.sheet, setup, assessment.against.measurements, run.sheet.judge.against)
    try:
        slopes = _slopes(assessment, target, values)
    except NetworkError:
        return None
    shares = {
        name: slopes[name] * value.standard
        for name, value in values.parts.items()
        if value.standard is not None and name in slopes
    }
    return _budget(calculated.value, {f"{name}, {_known(assessment, name)}": share for name, share in shares.items()})


def of_account(account: Account) -> Budget | None:
    """The budget of what a loop or a node leaves, without what its terms share; None of one not closed."""
    if account.residual is None or not account.spread.shares:
        return None
    return _budget(account.residual, {_words(v): u for v, u in account.spread.shares.items()})


def worst_case(assessment: Assessment, target: Target) -> tuple[float, float] | None:
    """The lowest and the highest that tolerances allow at a target, from nominal values, every part at its edge.

    By the slopes at the nominal values; None where a value or a tolerance is not known.
    """
    run = assessment.against.run
    if not target.in_circuit:
        return None
    setup = run.sheet.state_of(target) or run.sheet.setups[target.setup]
    values = stated(run.sheet, setup)
    nominal = assessment.calculations.of(target, NOMINAL)
    try:
        slopes = _slopes(assessment, target, values)
    except NetworkError:
        return None
    edges = [abs(slopes[n]) * (v.standard or 0.0) * 3.0**0.5 for n, v in values.parts.items() if n in slopes]
    if nominal.value is None or nominal.zero or not any(edges):
        return None
    return nominal.value - sum(edges), nominal.value + sum(edges)


def _slopes(assessment: Assessment, target: Across | Through, values: Values) -> dict[str, float]:
    """The derivative of a target by every part's value."""
    sheet = assessment.against.run.sheet
    setup = sheet.state_of(target) or sheet.setups[target.setup]
    if target.is_across and target.needs_dead_circuit:
        (seen,) = resistance_between(dead(setup, sheet.parts, values.known), [target.nodes])
        return seen[1] if seen else {}
    return operate(sheet, setup, values.known, [target]).solution.sensitivities(target)


def _known(assessment: Assessment, name: str) -> str:
    """How a part's value is known."""
    kind = assessment.against.run.sheet.parts[name].kind
    read = assessment.of(PartAlone(name, kind.measured_as))
    return (
        say("judgement.as_it_was_read")
        if read and read.measurement.mean is not None
        else say("judgement.within_tolerance")
    )


def _budget(value: float, shares: dict[str, float]) -> Budget:
    whole = sum(share * share for share in shares.values())
    return Budget(value, COVERAGE_FACTOR * whole**0.5, tuple(_contributions(shares, whole)))


def _contributions(shares: dict[str, float], whole: float) -> Iterator[Contribution]:
    for words, share in sorted(shares.items(), key=lambda one: -abs(one[1])):
        if whole and share * share > _LEAST * whole:
            yield Contribution(words, abs(share), share * share / whole)


def _words(variable: Hashable, target: Target | None = None) -> str:
    """A variable in words, beside a reading of this target."""
    if isinstance(variable, Gain):
        return _gain_in_words(variable)
    if not isinstance(variable, Own) or variable.target == target:
        return say("judgement.digits_scatter_and_what_readings")
    if variable.target.is_leads:
        return say("judgement.touched_leads")
    return say("judgement.digits_scatter_and_what", target=variable.target.words)


def _gain_in_words(gain: Gain) -> str:
    """The gain of a range, by its full scale, or by its last digit where no more is known."""
    meter = gain.meter or say("judgement.ordinary_handheld")
    kind, of = "judgement.gain", ""
    match gain.range:
        case None:
            pass
        case ("digit", str(digit)):
            kind, of = "judgement.gain_with_digits", figures.stated(Decimal(digit), gain.measurand.unit)
        case float(full) | ("named", float(full)):
            size = Decimal(f"{full:.6g}")
            kind, of = "judgement.gain_in_range", figures.stated(size, gain.measurand.unit)
        case other:
            kind, of = "judgement.gain_in_range", str(other)
    return say(kind, measurand=gain.measurand, meter=meter, of=of)
