"""Each part by itself against what it should be: by its tolerance, a source without one by the run's limit."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Part, PartAlone, SourceType
from recensor.core.figures import plainly, rounded, stated, with_digits
from recensor.core.judgement.in_circuit import InCircuit
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.slip_hints import hint
from recensor.core.judgement.verdicts import PartVerdict
from recensor.core.quantity import OHM, RESISTANCE, Quantity, as_ratio
from recensor.core.record import Run
from recensor.core.resistors import bands_saying, lookalikes
from recensor.core.sentences import say, several
from recensor.core.uncertainty import expanded


@dataclass(frozen=True)
class PartAssessment:
    """Nominal and measured value in SI units, error and tolerance in %, and the verdict with its reason.

    `provable`: whether the meter is good enough to say that such a part lies within its tolerance.
    """

    name: str
    nominal: float | None
    measured: float | None
    percent_error: float | None
    tolerance_percent: float | None
    verdict: PartVerdict
    reason: str
    provable: bool = True

    @property
    def outcome(self) -> Outcome:
        """What it comes to; a part that no such meter can prove stays unmarked while it looks right."""
        allowed = self.tolerance_percent
        looks_right = allowed is not None and self.percent_error is not None and abs(self.percent_error) <= allowed
        if self.verdict is PartVerdict.CANNOT_TELL and not self.provable and looks_right:
            return Outcome.NEUTRAL
        return self.verdict.outcome


def assess_parts(run: Run, measurements: Measurements) -> dict[PartAlone, PartAssessment]:
    """Judge every part of the run by itself, in order; a source once more for each setup that it was read for.

    What stands for a part as a whole is its general reading; where there is none, the first for a setup that does
    not set it otherwise.
    """
    in_circuit = InCircuit(run.sheet)
    assessments: dict[PartAlone, PartAssessment] = {}
    for name, part in run.sheet.parts.items():
        general = PartAlone(name, part.kind.measured_as)
        read = measurements.of(general)
        for setup in run.sheet.setups.values() if part.kind.is_source or part.kind.differs_by_setup else ():
            target = PartAlone(name, part.kind.measured_as, setup.name)
            if measurement := measurements.of(target):
                assessments[target] = _assess_part(part, setup.stated(part), measurement, run, in_circuit)
                read = read or (measurement if name not in setup.values else None)
        assessments[general] = _assess_part(part, run.sheet.alone(name), read, run, in_circuit)
    return assessments


def _assess_part(
    part: Part, should: Quantity | None, measurement: Measurement | None, run: Run, in_circuit: InCircuit
) -> PartAssessment:
    nominal = float(should) if should else None
    tolerance = float(part.tolerance) if part.tolerance else None
    mean = measurement.mean if measurement else None
    alike = part.kind.same_out_of_circuit
    error = (
        None
        if not alike or nominal is None or mean is None or nominal == 0
        else (mean - nominal) / abs(nominal) * 100.0
    )
    provable = True
    reason: str
    if measurement is None:
        verdict, reason = PartVerdict.UNREAD, say("judgement.not_been_read_itself", part=part.name)
    elif mean is None:
        verdict, reason = _over_range(part, measurement, run)
    elif not alike:
        verdict, reason = PartVerdict.NO_NOMINAL, _of_another_state(part)
    elif nominal is None:
        verdict, reason = PartVerdict.NO_NOMINAL, say("judgement.no_nominal_value_reading", part=part.name)
    elif part.tolerance or part.kind.is_source or part.kind.adjustable_value:
        margin = expanded(measurement.standard) or 0.0
        limit = None if part.kind.adjustable_value else part.tolerance
        allowed = as_ratio(limit or run.sheet.judge.limit) * abs(nominal)
        provable = margin <= allowed
        verdict, reason = _within(mean - nominal, allowed, margin, part, measurement.resolution)
        if verdict is PartVerdict.OUT and part.kind.has_bands:
            reason = several(reason, *_explained(mean, margin, part, in_circuit))
    else:
        verdict, reason = PartVerdict.NO_TOLERANCE, say("judgement.no_stated_tolerance_judged", part=part.name)
    return PartAssessment(part.name, nominal, mean, error, tolerance, verdict, reason, provable)


def _of_another_state(part: Part) -> str:
    """Why what a lamp, a diode or a wire reads by itself is not what it is at work."""
    if part.kind.has_cold:
        return say("judgement.read_cold_lit_resists", part=part.name)
    if part.kind.is_wire:
        return say("judgement.reading_says_whether_joins", part=part.name, word=part.kind.word)
    return say("judgement.what_meter_sends_through", part=part.name)


def _within(difference: float, allowed: float, margin: float, part: Part, digit: float) -> tuple[PartVerdict, str]:
    """A part against its tolerance; a source without one against the limit of the run, where coarse is not undecided.

    `digit` is one unit of the last digit read.
    """
    unit, by_tolerance = part.kind.unit, part.tolerance is not None and not part.kind.adjustable_value
    side = "on" if not difference else "above" if difference > 0 else "below"
    values = {
        "off": with_digits(abs(difference), digit, unit) if digit else rounded(abs(difference), margin, unit),
        "allowed": plainly(float(f"{allowed:.3g}"), unit) if allowed else rounded(allowed, None, unit),
        "margin": rounded(margin, margin, unit),
    }
    kind = f"judgement.{side}_{'nominal' if by_tolerance else 'setting'}"
    is_coarse = not by_tolerance and abs(difference) <= allowed and digit <= 2.0 * allowed
    if abs(abs(difference) - allowed) <= margin and not is_coarse:
        return PartVerdict.CANNOT_TELL, say(f"{kind}_and_too_near", **values)
    if abs(difference) < allowed:
        return PartVerdict.WITHIN if by_tolerance else PartVerdict.AS_SET, say(kind, **values)
    if by_tolerance:
        return PartVerdict.OUT, say(kind, **values)
    if part.source in (SourceType.BATTERY, SourceType.PACK):
        return PartVerdict.OFF_SETTING, say(f"judgement.{side}_label_of_{part.source}", **values)
    return PartVerdict.OFF_SETTING, say(f"{kind}_set_it_again", **values)


def _explained(value: float, margin: float, part: Part, in_circuit: InCircuit) -> Iterator[str]:
    """What would explain a resistor's reading out of tolerance; nothing when nothing stands out."""
    if part.nominal is None or part.tolerance is None or part.nominal.value is None or part.tolerance.value is None:
        return
    tolerance = as_ratio(part.tolerance)
    yield hint(value, float(part.nominal), tolerance * float(part.nominal) + margin, RESISTANCE)
    bands = bands_saying(part.nominal.value, part.tolerance.value)
    for alike in lookalikes(bands) if bands else ():
        other = float(alike.coded.value)
        if abs(value - other) <= tolerance * other + margin:
            yield say(
                "judgement.perhaps_it_is",
                value=stated(alike.coded.value, OHM),
                band=alike.band + 1,
                colour=alike.colour.word,
                taken_for=bands[alike.band].word,
            )
            break
    for shown, how in in_circuit.readings(part):
        if shown < (1 - tolerance) * float(part.nominal) and abs(value - shown) <= tolerance * shown + margin:
            yield say("judgement.fits_read_take_out", part=part.name, how=how)
            return


def _over_range(part: Part, measurement: Measurement, run: Run) -> tuple[PartVerdict, str]:
    ranges = [run.readings[k].range for k in measurement.indexes]
    if part.nominal and any(r is not None and float(r) > 1.5 * float(part.nominal) for r in ranges):
        return PartVerdict.OUT, say("judgement.reads_over_range_in", part=part.name)
    return PartVerdict.CANNOT_TELL, say("judgement.reads_over_range_take", part=part.name)
