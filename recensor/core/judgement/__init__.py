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

from dataclasses import dataclass

from recensor.core import uncertainty
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
from recensor.core.record import LEADS, MEASURED, NOMINAL, Reading, Run, Target

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


def assess(run: Run) -> Assessment:
    """Judge a run that `record.check` accepts. Pure; unsolvable circuits are answered with warnings."""
    measurements = gather(run)
    calculator = Calculator(run, measurements)
    parts = assess_parts(run, measurements)
    leads = lead_resistance(run)
    doubts = [Warned(f"readings[{k}].value", f"“{r.value.text}” was read as it stands. {r.value.doubt.question}")
              for k, r in enumerate(run.readings) if r.value.doubt and r.struck is None]  # fmt: skip
    readings = [ReadingAssessment(index, _compare_reading(reading, run, parts, calculator, leads))
                for index, reading in enumerate(run.readings) if reading.struck is None]  # fmt: skip
    targets = {key: TargetAssessment(m, _compare_target(m, run, parts, calculator)) for key, m in measurements.items()}
    asked = {
        target.key: (calculator.calculated(target, NOMINAL), calculator.calculated(target, MEASURED))
        for target in run.asked
    }
    return Assessment(
        parts=parts,
        readings=readings,
        targets=targets,
        laws=assess_laws(run, measurements),
        sanity=assess_sanity(run, measurements),
        claims=assess_claims(run, calculator),
        warnings=doubts + calculator.warnings,
        asked=asked,
    )


def _compare_reading(
    reading: Reading, run: Run, parts: dict[str, PartAssessment], calculator: Calculator, leads: LeadResistance
) -> Comparison:
    target = reading.target
    if reading.value.over_range:
        read = Read(None, None, target.quantity, target.unit, float(reading.range) if reading.range else None)
        return _compare(read, target, run, parts, calculator)
    value, standard = float(reading.value), uncertainty.resolution_uncertainty(float(reading.value.resolution or 0))
    if not is_part_resistance(target, run):
        return _compare(Read(value, standard, target.quantity, target.unit), target, run, parts, calculator)
    standard = (standard**2 + leads.uncertainty**2) ** 0.5
    return _compare(Read(value, standard, target.quantity, target.unit), target, run, parts, calculator, leads.value)


def _compare_target(
    measurement: Measurement, run: Run, parts: dict[str, PartAssessment], calculator: Calculator
) -> Comparison:
    target = measurement.target
    ranges = [run.readings[k].range for k in measurement.indexes]
    known = [float(r) for r in ranges if r is not None]
    read = Read(measurement.mean, measurement.uncertainty, target.quantity, target.unit, max(known, default=None))
    return _compare(read, target, run, parts, calculator)


def _compare(
    read: Read, target: Target, run: Run, parts: dict[str, PartAssessment], calculator: Calculator, leads: float = 0.0
) -> Comparison:
    """A reading of a circuit by `compare`; a part by itself has its part's verdict."""
    nominal, measured = calculator.calculated(target, NOMINAL), calculator.calculated(target, MEASURED)
    if target.of is None:
        return compare(read, nominal, measured, run.judge)
    by_itself = None if read.value is None else read.value - leads
    errors = {NOMINAL: percent_error(by_itself, nominal), MEASURED: None}
    normalised = {NOMINAL: normalised_error(by_itself, read.uncertainty, nominal), MEASURED: None}
    if target.of == LEADS and LEADS not in parts:
        verdict, reason = str(Verdict.NOT_JUDGED), "Taken off every part read by itself."
    else:
        verdict, reason = str(parts[target.of].verdict), parts[target.of].reason
    return Comparison(read.value, uncertainty.expanded(read.uncertainty), nominal, measured, errors,
                      normalised, verdict, reason)  # fmt: skip
