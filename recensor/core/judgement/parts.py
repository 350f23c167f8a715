"""Each part by itself against its nominal value: judged by its tolerance alone."""

from dataclasses import dataclass

from recensor.core.circuit import Part, PartAlone
from recensor.core.figures import rounded, stated
from recensor.core.judgement.hints import hint
from recensor.core.judgement.in_circuit import readings_in_circuit
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.verdicts import PartVerdict
from recensor.core.quantity import OHM, RESISTANCE, as_ratio
from recensor.core.record import Run
from recensor.core.resistors import bands_saying, lookalikes
from recensor.core.uncertainty import expanded


@dataclass(frozen=True)
class PartAssessment:
    """Nominal and measured value in SI units, error and tolerance in %, and the verdict with its reason."""

    name: str
    nominal: float | None
    measured: float | None
    percent_error: float | None
    tolerance_percent: float | None
    verdict: PartVerdict
    reason: str


def assess_parts(run: Run, measurements: Measurements) -> dict[str, PartAssessment]:
    """Judge every part of the run, in order."""
    return {
        name: _assess_part(part, measurements.of(PartAlone(name, part.kind.alone_as)), run)
        for name, part in run.sheet.parts.items()
    }


def _assess_part(part: Part, measurement: Measurement | None, run: Run) -> PartAssessment:
    nominal = float(part.nominal) if part.nominal else None
    tolerance = float(part.tolerance) if part.tolerance else None
    mean = measurement.mean if measurement else None
    error = None if nominal is None or mean is None or nominal == 0 else (mean - nominal) / abs(nominal) * 100.0
    if measurement is None:
        verdict, reason = PartVerdict.UNREAD, f"{part.name} has not been read by itself yet."
    elif mean is None:
        verdict, reason = _over_range(part, measurement, run)
    elif nominal is None:
        verdict, reason = PartVerdict.NO_NOMINAL, f"{part.name} has no nominal value; its reading is its value."
    elif tolerance is None or part.tolerance is None:
        verdict, reason = PartVerdict.NO_TOLERANCE, f"{part.name} has no stated tolerance to be judged by."
    else:
        margin = expanded(measurement.standard) or 0.0
        verdict, reason = _within(mean - nominal, as_ratio(part.tolerance) * abs(nominal), margin, part)
        if verdict is PartVerdict.OUT and part.kind.has_bands:
            reason += _explained(mean, margin, part, run)
    return PartAssessment(part.name, nominal, mean, error, tolerance, verdict, reason)


def _within(difference: float, allowed: float, margin: float, part: Part) -> tuple[PartVerdict, str]:
    unit = part.kind.unit
    off = (
        f"{rounded(abs(difference), margin, unit)} {'above' if difference > 0 else 'below'} nominal"
        if difference
        else "On nominal"
    )
    sentence = f"{off}; the tolerance allows ± {rounded(allowed, None, unit)}"
    if abs(abs(difference) - allowed) <= margin:
        return (
            PartVerdict.CANNOT_TELL,
            f"{sentence}, which lies inside the reading's own ± {rounded(margin, margin, unit)}.",
        )
    if abs(difference) < allowed:
        return PartVerdict.WITHIN, f"{sentence}."
    return PartVerdict.OUT, f"{sentence}."


def _explained(value: float, margin: float, part: Part, run: Run) -> str:
    """What would explain a resistor's reading out of tolerance; empty when nothing stands out."""
    if part.nominal is None or part.tolerance is None or part.nominal.value is None or part.tolerance.value is None:
        return ""
    tolerance = as_ratio(part.tolerance)
    said = hint(value, float(part.nominal), tolerance * float(part.nominal) + margin, RESISTANCE)
    bands = bands_saying(part.nominal.value, part.tolerance.value)
    for alike in lookalikes(bands) if bands else ():
        other = float(alike.coded.value)
        if abs(value - other) <= tolerance * other + margin:
            band = f"band {alike.band + 1} {alike.colour.word}, not {bands[alike.band].word}"
            said += f" Perhaps it is {stated(alike.coded.value, OHM)}: {band}."
            break
    for shown, how in readings_in_circuit(part, run.sheet):
        if shown < (1 - tolerance) * float(part.nominal) and abs(value - shown) <= tolerance * shown + margin:
            return f"{said} It fits {part.name} read {how}: take it out, other paths read in parallel."
    return said


def _over_range(part: Part, measurement: Measurement, run: Run) -> tuple[PartVerdict, str]:
    ranges = [run.readings[k].range for k in measurement.indexes]
    if part.nominal and any(r is not None and float(r) > 1.5 * float(part.nominal) for r in ranges):
        return PartVerdict.OUT, f"{part.name} reads over-range in a range that holds it: it is open."
    return PartVerdict.CANNOT_TELL, f"{part.name} reads over-range: take a higher range, or it is open."
