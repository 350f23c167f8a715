"""Judging a run: every reading, target, part, law and claim, by one pure function.

Examples
--------
>>> from recensor.core.circuit import Kind, Part, Setup
>>> from recensor.core.quantity import parse
>>> from recensor.core.record import Reading, Run, Target
>>> run = Run("One part", {"R1": Part("R1", Kind.RESISTOR, parse("1k"), tolerance=parse("5%"))}, {},
...           (Reading(Target("resistance", of="R1"), parse("987")),))
>>> assess(run).parts["R1"].verdict.value
'within tolerance'
"""

import math
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.circuit import Setup
from recensor.core.judgement.calculated import Calculated, Calculator, Warned
from recensor.core.judgement.claims import ClaimAssessment, assess_claims
from recensor.core.judgement.laws import Account, assess_laws
from recensor.core.judgement.measurements import (
    Key,
    LeadResistance,
    Measurement,
    gather,
    is_part_resistance,
    lead_resistance,
)
from recensor.core.judgement.parts import PartAssessment, assess_parts
from recensor.core.judgement.sanity import SanityCheck, assess_sanity
from recensor.core.judgement.verdicts import Comparison, Read, Verdict, compare, normalised_error, percent_error
from recensor.core.record import MEASURED, NOMINAL, Reading, Run, Target

__all__ = ["Account", "Assessment", "PartAssessment", "ReadingAssessment", "TargetAssessment", "Verdict", "assess"]


@dataclass(frozen=True)
class ReadingAssessment:
    """One reading by itself; `index` is its place in the run."""

    index: int
    comparison: Comparison


@dataclass(frozen=True)
class TargetAssessment:
    """A target by the mean of its readings: the verdict that counts."""

    measurement: Measurement
    comparison: Comparison


@dataclass(frozen=True)
class Assessment:
    """Everything that can be said of a run."""

    parts: dict[str, PartAssessment]
    readings: list[ReadingAssessment]
    targets: dict[Key, TargetAssessment]
    laws: list[Account]
    sanity: list[SanityCheck]
    claims: list[ClaimAssessment]
    warnings: list[Warned]
    asked: dict[Key, tuple[Calculated, Calculated]]


def values(run: Run, setup: Setup, basis: str) -> dict[str, float | None]:
    """What a calculation of one setup starts from, by part, in SI units: nominal or measured values."""
    return Calculator(run, gather(run)).values(setup, basis)


def assess(run: Run) -> Assessment:
    """Judge a run that `record.check` accepts. Pure; unsolvable circuits are answered with warnings."""
    measurements = gather(run)
    calculator = Calculator(run, measurements)
    parts = assess_parts(run, measurements)
    bench = _Bench(run, parts, lead_resistance(run))
    targets: dict[Key, TargetAssessment] = {}
    readings: list[ReadingAssessment] = []
    for key, measurement in measurements.items():
        target = measurement.target
        nominal, measured = calculator.calculated(target, NOMINAL), calculator.calculated(target, MEASURED)
        targets[key] = TargetAssessment(measurement, bench.target(measurement, nominal, measured))
        for index in measurement.indexes:
            turned = run.readings[index].target.turned_against(target)
            pair = (nominal.turned(), measured.turned()) if turned else (nominal, measured)
            readings.append(ReadingAssessment(index, bench.reading(run.readings[index], *pair)))
    doubts = [
        Warned(f"readings[{k}].value", f"“{r.value.text}” was read as it stands. {r.value.doubt.question}")
        for k, r in enumerate(run.readings)
        if r.value.doubt and r.struck is None
    ]
    asked = {
        target.key: (calculator.calculated(target, NOMINAL), calculator.calculated(target, MEASURED))
        for target in run.asked
    }
    return Assessment(
        parts=parts,
        readings=sorted(readings, key=lambda reading: reading.index),
        targets=targets,
        laws=assess_laws(run, measurements),
        sanity=assess_sanity(run, measurements),
        claims=assess_claims(run, calculator),
        warnings=doubts + calculator.warnings,
        asked=asked,
    )


@dataclass(frozen=True)
class _Bench:
    """Compares what was read, by `compare`; a part by itself has its part's verdict."""

    run: Run
    parts: dict[str, PartAssessment]
    leads: LeadResistance

    def reading(self, reading: Reading, nominal: Calculated, measured: Calculated) -> Comparison:
        """One reading by itself."""
        target = reading.target
        if reading.value.over_range:
            read = Read(None, None, target.quantity, target.unit, float(reading.range) if reading.range else None)
            return self._compare(read, target, nominal, measured)
        standard = uncertainty.resolution_uncertainty(float(reading.value.resolution or 0))
        taken_off = self.leads if is_part_resistance(target, self.run) else LeadResistance()
        standard = math.hypot(standard, taken_off.uncertainty)
        read = Read(float(reading.value), standard, target.quantity, target.unit)
        return self._compare(read, target, nominal, measured, taken_off.value)

    def target(self, measurement: Measurement, nominal: Calculated, measured: Calculated) -> Comparison:
        """A target by its mean."""
        ranges = [self.run.readings[k].range for k in measurement.indexes]
        widest = max((float(r) for r in ranges if r is not None), default=None)
        target = measurement.target
        read = Read(measurement.mean, measurement.uncertainty, target.quantity, target.unit, widest)
        return self._compare(read, target, nominal, measured)

    def _compare(
        self, read: Read, target: Target, nominal: Calculated, measured: Calculated, leads: float = 0.0
    ) -> Comparison:
        if target.of is None:
            return compare(read, nominal, measured, self.run.judge)
        by_itself = None if read.value is None else read.value - leads
        errors = {NOMINAL: percent_error(by_itself, nominal), MEASURED: None}
        normalised = {NOMINAL: normalised_error(by_itself, read.uncertainty, nominal), MEASURED: None}
        if target.of in self.parts:
            verdict, reason = str(self.parts[target.of].verdict), self.parts[target.of].reason
        else:
            verdict, reason = str(Verdict.NOT_JUDGED), "Taken off every part read by itself."
        expanded = uncertainty.expanded(read.uncertainty)
        return Comparison(read.value, expanded, nominal, measured, errors, normalised, verdict, reason)
