"""Resistance, power and current by Ohm's law from what was read: R = V/I, P = V·I, I = V/R.

For every part and for the whole, beside what its bands say and the ohmmeter read; often the only way in which a
resistance is asked for. Uncertainties by the linear combination of what voltage and current have in common.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Across, PartAlone, Setup, Sheet, Through, loops
from recensor.core.judgement.assess import Assessment
from recensor.core.judgement.measurements import Measurement
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.verdicts import BEYOND
from recensor.core.quantity import RESISTANCE, VOLTAGE, as_ratio
from recensor.core.uncertainty import COVERAGE_FACTOR, Spread


@dataclass(frozen=True)
class Derived:
    """A number worked out of readings, in SI units, with what is uncertain about it."""

    value: float
    spread: Spread

    @property
    def expanded(self) -> float:
        """Its expanded uncertainty."""
        return COVERAGE_FACTOR * self.spread.standard


@dataclass(frozen=True)
class ByOhmsLaw:
    """What a part, or with `part` None the whole between a source's terminals, comes to in a setup.

    `resistance` is V/I, `power` V·I, `current` V/R where the current was not read. `ohmmeter` is what it was read to be
    by itself, `nominal` what stands on it; both in ohms.
    """

    setup: str
    part: str | None
    resistance: Derived | None
    power: Derived | None
    current: Derived | None
    ohmmeter: float | None
    nominal: float | None
    outcome: Outcome


def by_ohms_law(sheet: Sheet, assessment: Assessment) -> Iterator[ByOhmsLaw]:
    """Every part, and every whole, whose voltage was read together with its current or its resistance."""
    for setup in sheet.setups.values():
        rows = _along_branches(setup)
        for name in setup.connections:
            part = sheet.parts[name]
            if part.kind.is_source:
                continue
            if part.kind.is_wire:
                continue
            measurements = assessment.against.measurements
            alone = measurements.of_part(PartAlone(name, part.kind.measured_as)) if part.kind.ohmic else None
            yield from _row(sheet, setup, name, rows[name], assessment, alone)
        driving = setup.driving(sheet.parts)
        if len(driving) == 1 and sheet.parts[driving[0]].kind.measured_as is VOLTAGE:
            total = assessment.of(Across(RESISTANCE, setup.connections[driving[0]], setup.name))
            read = total.measurement if total else None
            yield from _row(sheet, setup, None, rows[driving[0]], assessment, read)


@dataclass(frozen=True)
class _InRow:
    """A part, and the parts that it is in a row with, itself first, each with the way it is passed."""

    name: str
    passages: tuple[tuple[str, bool], ...]


def _along_branches(setup: Setup) -> dict[str, _InRow]:
    found = {name: _InRow(name, ((name, True),)) for name in setup.connections}
    for branch in loops.branches(setup.closed):
        passed = [(passage.part, passage.forward) for passage in branch.passages]
        for name, _ in passed:
            found[name] = _InRow(name, tuple(sorted(passed, key=lambda one: one[0] != name)))
    return found


def _row(
    sheet: Sheet, setup: Setup, part: str | None, along: _InRow, assessment: Assessment, read: Measurement | None
) -> Iterator[ByOhmsLaw]:
    volts = _volts(assessment, setup, along.name)
    amps = _amps(assessment, setup, along, sheet) if volts else None
    ohms = None if read is None or read.mean is None else Derived(read.mean, read.spread)
    if volts is None or (amps is None and (ohms is None or part is None)):
        return
    stated = setup.stated(sheet.parts[part]) if part and sheet.parts[part].kind.ohmic else None
    resistance = quotient(volts, amps) if amps else None
    yield ByOhmsLaw(
        setup=setup.name,
        part=part,
        resistance=resistance,
        power=product(volts, amps) if amps else None,
        current=quotient(volts, ohms) if amps is None and ohms else None,
        ohmmeter=ohms.value if ohms else None,
        nominal=float(stated) if stated else None,
        outcome=_outcome(resistance, ohms, float(stated) if stated else None, as_ratio(sheet.judge.limit)),
    )


def _outcome(derived: Derived | None, ohms: Derived | None, nominal: float | None, limit: float) -> Outcome:
    """Against the ohmmeter where it was read, else against the bands, within the run's limit."""
    if derived is None or (ohms is None and nominal is None):
        return Outcome.NEUTRAL
    expected = ohms.value if ohms else (nominal or 0.0)
    spread = derived.spread - ohms.spread if ohms else derived.spread
    apart, own, allowed = abs(derived.value - expected), COVERAGE_FACTOR * spread.standard, limit * abs(expected)
    if apart > allowed + own and apart > BEYOND * own:
        return Outcome.OUTSIDE
    return Outcome.AGREES if apart <= max(allowed, own) else Outcome.UNDECIDED


def quotient(first: Derived, second: Derived) -> Derived | None:
    """first/second; None where the second is zero."""
    if not second.value:
        return None
    value = first.value / second.value
    return Derived(value, first.spread.times(1.0 / second.value) - second.spread.times(value / second.value))


def product(first: Derived, second: Derived) -> Derived:
    """first·second."""
    return Derived(first.value * second.value, first.spread.times(second.value) + second.spread.times(first.value))


def _volts(assessment: Assessment, setup: Setup, name: str) -> Derived | None:
    """The voltage of a part, its own where that was read, from its first lead to its second."""
    for at in (name, None):
        target = Across(VOLTAGE, setup.connections[name], setup.name, at)
        target_assessment = assessment.of(target)
        if target_assessment and target_assessment.measurement.mean is not None:
            sign = -1.0 if target.reversed_against(target_assessment.measurement.target) else 1.0
            return Derived(sign * target_assessment.measurement.mean, target_assessment.measurement.spread.times(sign))
    return None


def _amps(assessment: Assessment, setup: Setup, along: _InRow, sheet: Sheet) -> Derived | None:
    """The current along a part, read at any part of its branch, in the direction in which the part counts it."""
    counted = {name: forward != sheet.parts[name].kind.is_source for name, forward in along.passages}
    for name in counted:
        for at in (None, *counted):
            target_assessment = assessment.of(Through(name, setup.name, at))
            if target_assessment and target_assessment.measurement.mean is not None:
                sign = 1.0 if counted[name] == counted[along.name] else -1.0
                return Derived(
                    sign * target_assessment.measurement.mean, target_assessment.measurement.spread.times(sign)
                )
    return None
