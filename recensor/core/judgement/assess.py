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

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from recensor.core.circuit import MEASURED, NOMINAL, PartAlone, Target
from recensor.core.figures import rounded
from recensor.core.judgement import comparisons
from recensor.core.judgement.calculated import calculate
from recensor.core.judgement.calculated_values import Calculated, Calculations, Warned
from recensor.core.judgement.claims import ClaimAssessment, assess_claims
from recensor.core.judgement.comparisons import SetupsCompared
from recensor.core.judgement.disagreements import Disagreement, disagreements
from recensor.core.judgement.drops_by_size import by_size
from recensor.core.judgement.laws import Account, assess_laws
from recensor.core.judgement.measurements import Measurement, Measurements, gather
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.parts import PartAssessment, assess_parts
from recensor.core.judgement.sanity import assess_sanity
from recensor.core.judgement.sanity_readings import SanityCheck
from recensor.core.judgement.verdicts import (
    Judged,
    Read,
    Verdict,
    judged,
    normalised_error,
    percent_error,
)
from recensor.core.meters import contradictions
from recensor.core.record import Reading, Run
from recensor.core.sentences import say, several
from recensor.core.standing import Rounds, Standing
from recensor.core.uncertainty import NO_SPREAD


@dataclass(frozen=True, slots=True)
class ReadingAssessment:
    """One reading by itself; `index` is its place in the run, `standing` how it stands in the books."""

    index: int
    standing: Standing
    judged: Judged


@dataclass(frozen=True)
class TargetAssessment:
    """A target by the mean of its readings: the verdict that counts."""

    measurement: Measurement
    judged: Judged


@dataclass(frozen=True)
class Assessment:
    """Everything that can be said of a run. `targets` are the ones that were read, by their key.

    `alone` has the parts again by what was read of them by itself, a source once for each setup that it was read for.
    """

    parts: dict[str, PartAssessment]
    alone: dict[PartAlone, PartAssessment]
    targets: dict[Target, TargetAssessment]
    laws: list[Account]
    sanity: list[SanityCheck]
    claims: list[ClaimAssessment]
    comparisons: list[SetupsCompared]
    disagreements: list[Disagreement]
    warnings: list[Warned]
    calculations: Calculations
    against: "_Against" = field(repr=False, compare=False)

    @cached_property
    def readings(self) -> list[ReadingAssessment]:
        """Each reading by itself; most of the work, and asked for by few."""
        return list(self.against.readings(self.targets))

    def expected(self, target: Target) -> Calculated | None:
        """What a target is to read, by what judges and with the sign that the leads have; None where nothing is known.

        Of targets that were read, looked at or asked for.
        """
        nominal, measured = self.against.calculated(target)
        first, second = (nominal, measured) if self.against.run.sheet.judge.against is NOMINAL else (measured, nominal)
        return next(
            (calculated for calculated in (first, second) if calculated.value is not None or calculated.open), None
        )

    @property
    def of_unmarked(self) -> dict[str, float]:
        """What unmarked parts were read to be, in SI units: all that is known of them; not a lamp cold."""
        parts, known = self.against.run.sheet.parts, ((name, part.measured) for name, part in self.parts.items())
        return {
            name: value
            for name, value in known
            if value is not None and parts[name].nominal is None and parts[name].kind.same_out_of_circuit
        }

    @cached_property
    def rounds(self) -> Rounds:
        """The round that is being read, and what was read in it."""
        return Rounds.of(self.against.run.sheet, self.against.run.readings)

    def is_read(self, target: Target) -> bool:
        """Whether a target was read; where everything is read in rounds, in the one that is being read."""
        if self.against.run.sheet.rounds == 1 or target.key not in self.targets:
            return target.key in self.targets
        return target.key in self.rounds.read

    def of(self, target: Target) -> TargetAssessment | None:
        """The assessment of a target, None while it is not read."""
        return self.targets.get(target.key)


def assess(run: Run, beside: Sequence[Target] = ()) -> Assessment:
    """Judge a run that `record.check` accepts. Pure; unsolvable circuits are answered with warnings.

    What `beside` is expected to read is worked out too, though nobody asks for it.
    """
    run = by_size(run) if run.by_size else run
    measurements = gather(run)
    wanted = dict.fromkeys(measurement.target for measurement in measurements.by_target.values())
    turned = dict.fromkeys(
        run.readings[k].target for k, s in enumerate(measurements.standings) if s is Standing.LOOK
    )  # a look has no measurement where nothing else was read
    wanted |= turned | dict.fromkeys([*run.sheet.asked, *(claim.target for claim in run.claims)])
    wanted |= dict.fromkeys([*comparisons.wanted(run.sheet), *beside])
    calculations = calculate(run.sheet, wanted, measurements)
    alone = assess_parts(run, measurements)
    against = _Against(run, alone, measurements, calculations)
    targets = {key: against.target(measurement) for key, measurement in measurements.by_target.items()}
    sanity, unsaid = assess_sanity(run, measurements)
    disagreeing = disagreements(run, measurements)
    unexplained = [Warned(f"readings[{one.index}].value", one.text) for one in disagreeing if one.is_open]
    return Assessment(
        parts={name: alone[PartAlone(name, part.kind.measured_as)] for name, part in run.sheet.parts.items()},
        alone=alone,
        targets=targets,
        laws=assess_laws(run, measurements),
        sanity=sanity,
        claims=assess_claims(run, calculations, measurements),
        comparisons=comparisons.hold(run.sheet, measurements, calculations),
        disagreements=disagreeing,
        warnings=[*_doubts(run, measurements, alone), *calculations.warnings, *unsaid, *unexplained],
        calculations=calculations,
        against=against,
    )


def _is_unproved(part: PartAssessment, measurement: Measurement | None) -> bool:
    """Whether no such meter tells a part's tolerance; that few digits were written down is not its fault."""
    if part.provable or not part.tolerance_percent or measurement is None:
        return False
    return measurement.resolution <= part.tolerance_percent / 100.0 * abs(part.nominal or 0.0)


def _doubts(run: Run, measurements: Measurements, alone: dict[PartAlone, PartAssessment]) -> Iterator[Warned]:
    """What is to be said of the readings before anything is calculated."""
    if any(reading.struck is None and measurements.meters.is_assumed(reading) for reading in run.readings):
        yield Warned("meters", say("judgement.ordinary_handheld_assumed_name"))
    unproved = {p.tolerance_percent or 0.0 for target, p in alone.items() if _is_unproved(p, measurements.of(target))}
    if unproved:
        classes = " and ".join(f"{tolerance:g} %" for tolerance in sorted(unproved))
        yield Warned("meters", say("judgement.meter_cannot_prove_parts", classes=classes))
    for name, profile in run.meters.items():
        yield from (
            Warned(f"meters.{name}.{contradiction.place}", contradiction.text)
            for contradiction in contradictions(profile)
        )
    for k, reading in enumerate(run.readings):
        if reading.value.ambiguity and reading.struck is None:
            yield Warned(
                f"readings[{k}].value",
                say("judgement.read_stands", reading=reading.value.text, question=reading.value.ambiguity.question),
            )
        if reading.value.over_range and reading.value.text.strip().isdigit() and reading.struck is None:
            yield Warned(f"readings[{k}].value", say("judgement.what_meter_shows_beyond", reading=reading.value.text))
        if measurements.standings[k] is Standing.LOOK and reading.counted is None:
            yield Warned(
                f"readings[{k}].value",
                say("judgement.taken_look_kept_and", reading=reading.value.text),
            )
    for measurement in measurements.by_target.values():
        for k in measurement.far:
            yield Warned(f"readings[{k}].value", _far_from_the_others(k, measurement, run))


def _far_from_the_others(k: int, measurement: Measurement, run: Run) -> str:
    text, mean = run.readings[k].value.text, rounded(measurement.mean or 0.0, None, measurement.target.unit)
    if len(measurement.far) > 1:
        apart = rounded(max(measurement.values) - min(measurement.values), None, measurement.target.unit)
        return say("judgement.one_two_trials_lie", text=text, apart=apart, mean=mean)
    return say("judgement.lies_far_from_other", text=text, count=measurement.count - 1, mean=mean)


class _Against:
    """Holds what was read against what was calculated; a part by itself has its part's verdict."""

    def __init__(
        self,
        run: Run,
        alone: dict[PartAlone, PartAssessment],
        measurements: Measurements,
        calculations: Calculations,
    ) -> None:
        self.run = run
        self.alone = alone
        self.measurements = measurements
        self.calculations = calculations
        # The same digits at the same point come to the same, however often they were read.
        self._kept: dict[tuple[Target, str, str, str, str | None, int], Judged] = {}

    def readings(self, targets: dict[Target, TargetAssessment]) -> Iterator[ReadingAssessment]:
        """Every reading that is not struck, by itself; the only one of its target is judged as that was."""
        alone = {t.measurement.indexes[0]: t.judged for t in targets.values() if self._is_all(t.measurement)}
        for index, standing in enumerate(self.measurements.standings):
            if standing in (Standing.STRUCK, Standing.REPLACED):
                continue
            reading = self.run.readings[index]
            if index in alone:
                yield ReadingAssessment(index, standing, _as_shown(alone[index], reading))
                continue
            own = id(self.calculations.at.get(index))  # the same one where the sources gave the same
            named = reading.range.text if reading.range else ""
            place = (reading.target, reading.value.text, reading.value.beside, named, reading.meter, own)
            if place not in self._kept:
                self._kept[place] = self._reading(index)
            judged_so = self._kept[place]
            if standing is Standing.LOOK:
                judged_so = _as_look(judged_so)
            yield ReadingAssessment(index, standing, judged_so)

    def _is_all(self, measurement: Measurement) -> bool:
        """Whether what a measurement comes to is one reading, with its leads where the measurement has them."""
        first = self.run.readings[measurement.indexes[0]].target
        return len(measurement.indexes) == 1 and not first.reversed_against(measurement.target)

    def _reading(self, index: int) -> Judged:
        reading = self.run.readings[index]
        nominal, measured = self.calculated(reading.target)
        measured = self.calculations.at.get(index, measured)
        taken = self.measurements.taken(index)
        if taken is None:
            widest = float(reading.range) if reading.range else None
            return self._judged(
                Read(None, NO_SPREAD, reading.target.measurand, widest), reading.target, nominal, measured
            )
        digit = float(reading.value.resolution or 0)
        read = Read(taken.value, taken.spread, reading.target.measurand, digit=digit)
        return _as_shown(self._judged(read, reading.target, nominal, measured), reading)

    def target(self, measurement: Measurement) -> TargetAssessment:
        """A target by its mean."""
        ranges = [self.run.readings[k].range for k in measurement.indexes]
        widest = max((float(r) for r in ranges if r is not None), default=None)
        read = Read(
            measurement.mean, measurement.spread, measurement.target.measurand, widest, digit=measurement.resolution
        )
        found = self._judged(read, measurement.target, *self.calculated(measurement.target))
        if measurement.far:
            places = " and ".join(f"“{self.run.readings[k].value.text}”" for k in measurement.far)
            kind = "judgement.lie_far_apart" if len(measurement.far) > 1 else "judgement.lies_far_from_other_trials"
            found = replace(found, reason=several(found.reason, say(kind, places=places)))
        return TargetAssessment(measurement, found)

    def calculated(self, target: Target) -> tuple[Calculated, Calculated]:
        """Both calculated values, with the sign that the leads have here."""
        measurement = self.measurements.of(target)
        asked = measurement.target if measurement else target
        nominal, measured = self.calculations.both(asked)
        return (nominal.turned(), measured.turned()) if target.reversed_against(asked) else (nominal, measured)

    def _judged(self, read: Read, target: Target, nominal: Calculated, measured: Calculated) -> Judged:
        if target.in_circuit:
            found = judged(read, nominal, measured, self.run.sheet.judge)
            sets_row = target.is_across and found.verdict is Verdict.NOT_JUDGED and self.run.sheet.is_free(target)
            return replace(found, reason=say("judgement.volts_set_their_row")) if sets_row else found
        errors = {NOMINAL: percent_error(read.value, nominal), MEASURED: None}
        normalised = {NOMINAL: normalised_error(read.value, read.spread, nominal), MEASURED: None}
        if target.is_leads:
            verdict, outcome = Verdict.NOT_JUDGED, Outcome.NEUTRAL
            reason = say("judgement.taken_off_every_resistance")
            return Judged(read.value, read.expanded, nominal, measured, errors, normalised, verdict, reason, outcome)
        part = self.alone.get(target) or self.alone[replace(target, setup=None)]
        return Judged(
            read.value,
            read.expanded,
            nominal,
            measured,
            errors,
            normalised,
            part.verdict,
            part.reason,
            part.outcome,
        )


def _as_shown(judged_so: Judged, reading: Reading) -> Judged:
    """What came of a reading, with the value that the meter showed, its leads included."""
    shown = None if reading.value.value is None else float(reading.value.value)
    return judged_so if judged_so.value == shown else replace(judged_so, value=shown)


def _as_look(judged_so: Judged) -> Judged:
    """A look is kept and says nothing."""
    reason = say("judgement.look_kept_and_not")
    return replace(judged_so, verdict=Verdict.NOT_JUDGED, reason=reason, outcome=Outcome.NEUTRAL)
