"""Judging a run: every reading, target, part, law and claim, by one pure function.

Examples
--------
>>> from recensor.core.circuit import RESISTOR, Part, PartAlone, Sheet
>>> from recensor.core.quantity import RESISTANCE, parse, parse_percent
>>> from recensor.core.record import Reading
>>> sheet = Sheet("One part", {"R1": Part("R1", RESISTOR, parse("1k"), tolerance=parse_percent("5%"))}, {})
>>> assess(Run(sheet, (Reading(PartAlone("R1", RESISTANCE), parse("987")),))).parts["R1"].verdict.value
'within tolerance'
"""

import math
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.circuit import MEASURED, NOMINAL, PartAlone, Target, TouchedLeads
from recensor.core.judgement.calculated import Calculated, Calculations, Warned, calculate
from recensor.core.judgement.claims import ClaimAssessment, assess_claims
from recensor.core.judgement.laws import Account, assess_laws
from recensor.core.judgement.measurements import LeadResistance, Measurement, gather, is_part_resistance
from recensor.core.judgement.parts import PartAssessment, assess_parts
from recensor.core.judgement.sanity import SanityCheck, assess_sanity
from recensor.core.judgement.verdicts import Judged, Read, Verdict, judged, normalised_error, percent_error
from recensor.core.record import Reading, Run


@dataclass(frozen=True)
class ReadingAssessment:
    """One reading by itself; `index` is its place in the run."""

    index: int
    judged: Judged


@dataclass(frozen=True)
class TargetAssessment:
    """A target by the mean of its readings: the verdict that counts."""

    measurement: Measurement
    judged: Judged


@dataclass(frozen=True)
class Assessment:
    """Everything that can be said of a run. `targets` are the ones that were read, by their key."""

    parts: dict[str, PartAssessment]
    readings: list[ReadingAssessment]
    targets: dict[Target, TargetAssessment]
    laws: list[Account]
    sanity: list[SanityCheck]
    claims: list[ClaimAssessment]
    warnings: list[Warned]
    calculations: Calculations

    def of(self, target: Target) -> TargetAssessment | None:
        """The assessment of a target, None while it is not read."""
        return self.targets.get(target.key)


def assess(run: Run) -> Assessment:
    """Judge a run that `record.check` accepts. Pure; unsolvable circuits are answered with warnings."""
    measurements = gather(run)
    wanted = [measurement.target for measurement in measurements.by_target.values()]
    wanted += [*run.sheet.asked, *(claim.target for claim in run.claims)]
    calculations = calculate(run.sheet, wanted, measurements)
    parts = assess_parts(run, measurements)
    against = _Against(run, parts, measurements.leads)
    targets: dict[Target, TargetAssessment] = {}
    readings: list[ReadingAssessment] = []
    for key, measurement in measurements.by_target.items():
        nominal, measured = calculations.both(measurement.target)
        targets[key] = TargetAssessment(measurement, against.target(measurement, nominal, measured))
        for index in measurement.indexes:
            reading = run.readings[index]
            turned = reading.target.turned_against(measurement.target)
            pair = (nominal.turned(), measured.turned()) if turned else (nominal, measured)
            readings.append(ReadingAssessment(index, against.reading(reading, *pair)))
    doubts = [
        Warned(f"readings[{k}].value", f"“{r.value.text}” was read as it stands. {r.value.doubt.question}")
        for k, r in enumerate(run.readings)
        if r.value.doubt and r.struck is None
    ]
    return Assessment(
        parts=parts,
        readings=sorted(readings, key=lambda reading: reading.index),
        targets=targets,
        laws=assess_laws(run, measurements),
        sanity=assess_sanity(run, measurements),
        claims=assess_claims(run, calculations),
        warnings=[*doubts, *calculations.warnings],
        calculations=calculations,
    )


@dataclass(frozen=True)
class _Against:
    """Holds what was read against what was calculated; a part by itself has its part's verdict."""

    run: Run
    parts: dict[str, PartAssessment]
    leads: LeadResistance

    def reading(self, reading: Reading, nominal: Calculated, measured: Calculated) -> Judged:
        """One reading by itself."""
        target = reading.target
        if reading.value.over_range:
            read = Read(None, None, target.measurand, float(reading.range) if reading.range else None)
            return self._judged(read, target, nominal, measured)
        standard = uncertainty.resolution_uncertainty(float(reading.value.resolution or 0))
        taken_off = self.leads if is_part_resistance(target, self.run.sheet) else LeadResistance()
        read = Read(float(reading.value), math.hypot(standard, taken_off.standard), target.measurand)
        return self._judged(read, target, nominal, measured, taken_off.value)

    def target(self, measurement: Measurement, nominal: Calculated, measured: Calculated) -> Judged:
        """A target by its mean."""
        ranges = [self.run.readings[k].range for k in measurement.indexes]
        widest = max((float(r) for r in ranges if r is not None), default=None)
        read = Read(measurement.mean, measurement.standard, measurement.target.measurand, widest)
        return self._judged(read, measurement.target, nominal, measured)

    def _judged(
        self, read: Read, target: Target, nominal: Calculated, measured: Calculated, leads: float = 0.0
    ) -> Judged:
        if not isinstance(target, PartAlone | TouchedLeads):
            return judged(read, nominal, measured, self.run.sheet.judge)
        by_itself = None if read.value is None else read.value - leads
        errors = {NOMINAL: percent_error(by_itself, nominal), MEASURED: None}
        normalised = {NOMINAL: normalised_error(by_itself, read.standard, nominal), MEASURED: None}
        expanded = uncertainty.expanded(read.standard)
        if isinstance(target, TouchedLeads):
            reason = "Taken off every part read by itself."
            return Judged(read.value, expanded, nominal, measured, errors, normalised, Verdict.NOT_JUDGED, reason)
        part = self.parts[target.part]
        return Judged(read.value, expanded, nominal, measured, errors, normalised, part.verdict, part.reason)
