"""The verdict on a reading or target: percent error against a limit, or normalised error at k = 2."""

from dataclasses import dataclass
from enum import StrEnum

from recensor.core.circuit import MEASURED, NOMINAL, Basis, Judge, JudgedBy
from recensor.core.figures import rounded, signed_percent
from recensor.core.judgement.calculated import Calculated
from recensor.core.judgement.hints import hint
from recensor.core.judgement.outcome import Outcome
from recensor.core.quantity import RESISTANCE, Measurand, as_ratio
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

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""
        return Outcome.NEUTRAL if self is Verdict.NOT_JUDGED else Outcome(self.value)


class PartVerdict(StrEnum):
    """What can be said of a part by itself."""

    WITHIN = "within tolerance"
    OUT = "out of tolerance"
    CANNOT_TELL = "cannot tell"
    UNREAD = "unread"
    NO_NOMINAL = "no nominal"
    NO_TOLERANCE = "no tolerance"

    @property
    def outcome(self) -> Outcome:
        """What it comes to."""
        return _PART_OUTCOMES.get(self, Outcome.NEUTRAL)


_PART_OUTCOMES = {
    PartVerdict.WITHIN: Outcome.AGREES,
    PartVerdict.OUT: Outcome.OUTSIDE,
    PartVerdict.CANNOT_TELL: Outcome.UNDECIDED,
    PartVerdict.UNREAD: Outcome.UNREAD,
}


@dataclass(frozen=True)
class Judged:
    """A read value beside both calculated ones. SI units, uncertainties expanded (k = 2), errors in %."""

    value: float | None
    expanded: float | None
    nominal: Calculated
    measured: Calculated
    percent_error: dict[Basis, float | None]
    normalised_error: dict[Basis, float | None]
    verdict: Verdict | PartVerdict
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
    standard: float | None
    measurand: Measurand
    range: float | None = None

    @property
    def unit(self) -> str:
        """The SI unit it was read in."""
        return self.measurand.unit


def percent_error(value: float | None, calculated: Calculated) -> float | None:
    """Percent error d/|calculated| × 100; None where either is missing or the calculated value counts as zero."""
    if value is None or calculated.value is None or calculated.zero or calculated.value == 0:
        return None
    return (value - calculated.value) / abs(calculated.value) * 100.0


def normalised_error(value: float | None, standard: float | None, calculated: Calculated) -> float | None:
    """Normalised error E = d/√(U_r² + U_c²) at k = 2; None where something is unknown."""
    if value is None or standard is None or calculated.value is None or calculated.standard is None:
        return None
    scale = 2.0 * (standard**2 + calculated.standard**2) ** 0.5
    return (value - calculated.value) / scale if scale else None


def judged(read: Read, nominal: Calculated, measured: Calculated, judge: Judge) -> Judged:
    """Judge one read value against the calculated value that the run says, or the other where that is missing."""
    calculated = {NOMINAL: nominal, MEASURED: measured}
    percent = {basis: percent_error(read.value, c) for basis, c in calculated.items()}
    normalised = {basis: normalised_error(read.value, read.standard, c) for basis, c in calculated.items()}
    first = judge.against
    basis = next((b for b in (first, first.other) if calculated[b].value is not None or calculated[b].open), None)
    if basis is None:
        verdict: Verdict = Verdict.NOT_JUDGED
        reason = "Nothing to compare with: no calculated value is known."
    else:
        verdict, reason = _verdict(read, calculated[basis], normalised[basis], judge)
        if basis != first:
            reason += f" Judged against the value from {basis} values: there is none from {first} ones."
    return Judged(read.value, expanded(read.standard), nominal, measured, percent, normalised, verdict, reason)


def _verdict(read: Read, calculated: Calculated, normalised: float | None, judge: Judge) -> tuple[Verdict, str]:
    if calculated.open:
        return _against_open(read)
    if calculated.value is None:
        raise ValueError("a calculated value is needed to judge against")
    if read.value is None:
        return _over_range(read, calculated.value)
    standard = read.standard or 0.0
    margin = 2.0 * standard
    difference = abs(read.value - calculated.value)
    should = rounded(calculated.value, expanded(calculated.standard), read.unit)
    if calculated.zero:
        return _against_zero(read, difference, margin, calculated, normalised)
    limit = as_ratio(judge.limit)
    allowed = limit * abs(calculated.value) * (1.0 + EDGE)
    error = (read.value - calculated.value) / abs(calculated.value) * 100.0
    sentence = f"{signed_percent(error)} from the calculated {should}"
    within, coarse, slip = f"{judge.limit.value:f} %", margin > allowed, ""
    if difference > allowed or (normalised is not None and abs(normalised) > 1):
        slip = hint(read.value, calculated.value, allowed + margin, read.measurand)
    too_coarse = _too_coarse(margin, read.unit, within) if coarse else ""
    if judge.by is JudgedBy.PERCENT or normalised is None:
        by_choice = judge.by is JudgedBy.PERCENT
        said = "" if by_choice else " By percent, since the calculated value's uncertainty is unknown."
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


def _too_coarse(margin: float, unit: str, within: str) -> str:
    good_to = rounded(margin, margin, unit)
    return f"the reading is only good to ± {good_to} (resolution only), too coarse to decide {within}."


def _against_open(read: Read) -> tuple[Verdict, str]:
    if read.measurand is not RESISTANCE:
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
    if calculated.standard is None:
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
