"""The verdict on a reading or target: percent error against a limit, or normalised error at k = 2."""

from dataclasses import dataclass
from enum import StrEnum

from recensor.core.judgement.calculated import Calculated, basis_order
from recensor.core.judgement.hints import hint
from recensor.core.quantity import fraction, rounded, signed_percent
from recensor.core.record import MEASURED, NOMINAL, PERCENT, RESISTANCE, Judge
from recensor.core.uncertainty import expanded

# On the very edge of a limit a reading agrees: binary fractions must not push it over.
EDGE = 1e-9


class Verdict(StrEnum):
    """What can be said of a reading; `UNREAD` is for a point without one."""

    AGREES = "agrees"
    OUTSIDE = "outside"
    UNDECIDED = "undecided"
    NOT_JUDGED = "not judged"
    UNREAD = "unread"


@dataclass(frozen=True)
class Comparison:
    """A read value beside both calculated ones. SI units, uncertainties expanded (k = 2), errors in %."""

    value: float | None
    uncertainty: float | None
    nominal: Calculated
    measured: Calculated
    percent_error: dict[str, float | None]
    normalised_error: dict[str, float | None]
    verdict: str
    reason: str

    @property
    def over_range(self) -> bool:
        """Whether the meter showed over-range."""
        return self.value is None

    @property
    def open(self) -> bool:
        """Whether the circuit is open at this target."""
        return self.nominal.open or self.measured.open


@dataclass(frozen=True)
class Read:
    """What was read at a target: mean value, standard uncertainty, and the range in which an over-range was met."""

    value: float | None
    uncertainty: float | None
    quantity: str
    unit: str
    range: float | None = None


def percent_error(value: float | None, calculated: Calculated) -> float | None:
    """Percent error d/|calculated| × 100; None where either is missing or the calculated value counts as zero."""
    if value is None or calculated.value is None or calculated.zero or calculated.value == 0:
        return None
    return (value - calculated.value) / abs(calculated.value) * 100.0


def normalised_error(value: float | None, standard: float | None, calculated: Calculated) -> float | None:
    """Normalised error E = d/√(U_r² + U_c²) at k = 2; None where something is unknown."""
    if value is None or standard is None or calculated.value is None or calculated.uncertainty is None:
        return None
    scale = 2.0 * (standard**2 + calculated.uncertainty**2) ** 0.5
    return (value - calculated.value) / scale if scale else None


def compare(read: Read, nominal: Calculated, measured: Calculated, judge: Judge) -> Comparison:
    """Judge one read value against the calculated value that the run says, or the other where that is missing."""
    calculated = {NOMINAL: nominal, MEASURED: measured}
    percent = {basis: percent_error(read.value, c) for basis, c in calculated.items()}
    normalised = {basis: normalised_error(read.value, read.uncertainty, c) for basis, c in calculated.items()}
    first, second = basis_order(judge.against)
    basis = next((b for b in (first, second) if calculated[b].value is not None or calculated[b].open), None)
    if basis is None:
        verdict, reason = Verdict.NOT_JUDGED, "Nothing to compare with: no calculated value is known."
    else:
        verdict, reason = _verdict(read, calculated[basis], normalised[basis], judge)
        if basis != first:
            reason += f" Judged against the value from {basis} values: there is none from {first} ones."
    return Comparison(read.value, expanded(read.uncertainty), nominal, measured, percent, normalised, verdict, reason)


def _verdict(read: Read, calculated: Calculated, normalised: float | None, judge: Judge) -> tuple[Verdict, str]:
    if calculated.open:
        return _against_open(read)
    if calculated.value is None:
        raise ValueError("a calculated value is needed to judge against")
    if read.value is None:
        return _over_range(read, calculated.value)
    standard = read.uncertainty or 0.0
    margin = 2.0 * standard
    difference = abs(read.value - calculated.value)
    should = rounded(calculated.value, expanded(calculated.uncertainty), read.unit)
    if calculated.zero:
        return _against_zero(read, difference, margin, calculated, normalised)
    limit = fraction(judge.limit)
    allowed = limit * abs(calculated.value) * (1.0 + EDGE)
    error = (read.value - calculated.value) / abs(calculated.value) * 100.0
    sentence = f"{signed_percent(error)} from the calculated {should}"
    within, coarse = f"{judge.limit.value:f} %", margin > allowed
    good_to = rounded(margin, margin, read.unit)
    too_coarse = f"the reading is only good to ± {good_to} (resolution only), too coarse to decide {within}."
    slip = hint(read.value, calculated.value, allowed + margin, read.quantity)
    if judge.by == PERCENT or normalised is None:
        said = "" if judge.by == PERCENT else " By percent, since the calculated value's uncertainty is unknown."
        if difference > allowed + margin:
            return Verdict.OUTSIDE, f"{sentence}, outside {within}.{said}{slip}"
        if coarse:
            return Verdict.UNDECIDED, f"{sentence}; {too_coarse}{said}"
        if difference <= allowed:
            return Verdict.AGREES, f"{sentence}, within {within}.{said}"
        return Verdict.OUTSIDE, f"{sentence}, outside {within}.{said}{slip}"
    within_one = f"{sentence}, |E| = {abs(normalised):.2g}"
    if abs(normalised) > 1:
        return Verdict.OUTSIDE, f"{within_one}, more than the combined uncertainty explains.{slip}"
    if coarse:
        return Verdict.UNDECIDED, f"{within_one}, but {too_coarse}"
    return Verdict.AGREES, f"{within_one}, within the combined uncertainty (of the reading: resolution only)."


def _against_open(read: Read) -> tuple[Verdict, str]:
    if read.quantity != RESISTANCE:
        return Verdict.NOT_JUDGED, "Nothing joins the two nodes: a probe across the gap reads nothing definite."
    if read.value is None:
        return Verdict.AGREES, "Over-range, as an open circuit must read."
    return Verdict.OUTSIDE, "The circuit as drawn is open here and should read over-range."


def _over_range(read: Read, calculated: float) -> tuple[Verdict, str]:
    should = rounded(calculated, None, read.unit)
    if read.range is not None and abs(calculated) > read.range:
        return Verdict.AGREES, f"The calculated {should} is more than this range shows; take the next range up."
    return Verdict.NOT_JUDGED, f"Over-range where {should} is calculated: an open, or a range too small."


def _against_zero(
    read: Read, difference: float, margin: float, calculated: Calculated, normalised: float | None
) -> tuple[Verdict, str]:
    """A calculated zero leaves no percentage: the normalised error decides."""
    if calculated.uncertainty is None:
        if difference <= margin:
            return Verdict.AGREES, "Zero within the reading's uncertainty, as calculated."
        return Verdict.UNDECIDED, "Zero is calculated, but with an unknown uncertainty."
    if difference <= margin or (normalised is not None and abs(normalised) <= 1):
        return Verdict.AGREES, "Zero within the combined uncertainty, as calculated."
    return (
        Verdict.OUTSIDE,
        f"Zero is calculated; the reading is {_times(normalised)}the combined uncertainty away from it.",
    )


def _times(normalised: float | None) -> str:
    return "" if normalised is None else f"{abs(normalised):.2g} times "
