"""Each part by itself against what it should be: by its tolerance, a source without one by the run's limit."""

from dataclasses import dataclass

from recensor.core.circuit import Part, PartAlone
from recensor.core.figures import rounded, stated
from recensor.core.judgement.in_circuit import InCircuit
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.slip_hints import hint
from recensor.core.judgement.verdicts import PartVerdict
from recensor.core.quantity import OHM, RESISTANCE, Quantity, as_ratio
from recensor.core.record import Run
from recensor.core.resistors import bands_saying, lookalikes
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
        for setup in run.sheet.setups.values() if part.kind.is_source or part.kind.adjustable_value else ():
            target = PartAlone(name, part.kind.measured_as, setup.name)
            if measurement := measurements.of(target):
                assessments[target] = _assess_part(part, setup.stated(part), measurement, run, in_circuit)
                read = read or (measurement if name not in setup.values else None)
        setting = run.sheet.only_setting(name) if part.kind.adjustable_value else None
        assessments[general] = _assess_part(
            part, setting.stated(part) if setting else part.marked, read, run, in_circuit
        )
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
    if measurement is None:
        verdict, reason = PartVerdict.UNREAD, f"{part.name} has not been read by itself yet."
    elif mean is None:
        verdict, reason = _over_range(part, measurement, run)
    elif not alike:
        verdict, reason = PartVerdict.NO_NOMINAL, _of_another_state(part)
    elif nominal is None:
        verdict, reason = PartVerdict.NO_NOMINAL, f"{part.name} has no nominal value; its reading is its value."
    elif part.tolerance or part.kind.is_source or part.kind.adjustable_value:
        margin = expanded(measurement.standard) or 0.0
        limit = None if part.kind.adjustable_value else part.tolerance
        allowed = as_ratio(limit or run.sheet.judge.limit) * abs(nominal)
        provable = margin <= allowed
        verdict, reason = _within(mean - nominal, allowed, margin, part)
        if verdict is PartVerdict.OUT and part.kind.has_bands:
            reason += _explained(mean, margin, part, in_circuit)
    else:
        verdict, reason = PartVerdict.NO_TOLERANCE, f"{part.name} has no stated tolerance to be judged by."
    return PartAssessment(part.name, nominal, mean, error, tolerance, verdict, reason, provable)


def _of_another_state(part: Part) -> str:
    """Why what a lamp, a diode or a wire reads by itself is not what it is at work."""
    if part.kind.has_cold:
        return f"{part.name} was read cold: lit it resists many times as much, and this reading says nothing of that."
    if part.kind.is_wire:
        return f"{part.name} is a {part.kind.word}: its reading says whether it joins."
    return f"What the meter sends through {part.name} decides what it reads: its drop is stated at another current."


def _within(difference: float, allowed: float, margin: float, part: Part) -> tuple[PartVerdict, str]:
    """A part against its tolerance; a source without one against the limit of the run."""
    unit, by_tolerance = part.kind.unit, part.tolerance is not None and not part.kind.adjustable_value
    side = "above" if difference > 0 else "below"
    what, allows = ("nominal", "the tolerance") if by_tolerance else ("its setting", "the run's limit")
    off = f"{rounded(abs(difference), margin, unit)} {side} {what}" if difference else f"On {what}"
    sentence = f"{off}; {allows} allows ± {rounded(allowed, None, unit)}"
    if abs(abs(difference) - allowed) <= margin:
        own = f"which lies inside the reading's own ± {rounded(margin, margin, unit)}"
        return PartVerdict.CANNOT_TELL, f"{sentence}, {own}."
    if abs(difference) < allowed:
        return PartVerdict.WITHIN if by_tolerance else PartVerdict.AS_SET, f"{sentence}."
    if by_tolerance:
        return PartVerdict.OUT, f"{sentence}."
    return PartVerdict.OFF_SETTING, f"{sentence}: set it again, or say what it is set to."


def _explained(value: float, margin: float, part: Part, in_circuit: InCircuit) -> str:
    """What would explain a resistor's reading out of tolerance; empty when nothing stands out."""
    if part.nominal is None or part.tolerance is None or part.nominal.value is None or part.tolerance.value is None:
        return ""
    tolerance = as_ratio(part.tolerance)
    text = hint(value, float(part.nominal), tolerance * float(part.nominal) + margin, RESISTANCE)
    bands = bands_saying(part.nominal.value, part.tolerance.value)
    for alike in lookalikes(bands) if bands else ():
        other = float(alike.coded.value)
        if abs(value - other) <= tolerance * other + margin:
            band = f"band {alike.band + 1} {alike.colour.word}, not {bands[alike.band].word}"
            text += f" Perhaps it is {stated(alike.coded.value, OHM)}: {band}."
            break
    for shown, how in in_circuit.readings(part):
        if shown < (1 - tolerance) * float(part.nominal) and abs(value - shown) <= tolerance * shown + margin:
            return f"{text} It fits {part.name} read {how}: take it out, other paths read in parallel."
    return text


def _over_range(part: Part, measurement: Measurement, run: Run) -> tuple[PartVerdict, str]:
    ranges = [run.readings[k].range for k in measurement.indexes]
    if part.nominal and any(r is not None and float(r) > 1.5 * float(part.nominal) for r in ranges):
        return PartVerdict.OUT, f"{part.name} reads over-range in a range that holds it: it is open."
    return PartVerdict.CANNOT_TELL, f"{part.name} reads over-range: take a higher range, or it is open."
