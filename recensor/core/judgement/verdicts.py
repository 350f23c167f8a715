"""The verdict on a reading or target: percent error against a limit, or normalised error at k = 2."""

from dataclasses import dataclass
from enum import StrEnum

from recensor.core.circuit import MEASURED, NOMINAL, Basis, Judge, JudgedBy
from recensor.core.figures import how_far, rounded
from recensor.core.judgement.calculated_values import Calculated
from recensor.core.judgement.outcome import Outcome
from recensor.core.judgement.slip_hints import hint
from recensor.core.quantity import RESISTANCE, Measurand, as_ratio
from recensor.core.sentences import say, several
from recensor.core.uncertainty import NO_SPREAD, Spread, expanded

# A little beyond its uncertainty one right reading in twenty lies: up to this much |E| nothing is said for sure.
BEYOND = 1.5

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
    AS_SET = "as set"
    OFF_SETTING = "off its setting"
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
    PartVerdict.AS_SET: Outcome.AGREES,
    PartVerdict.OFF_SETTING: Outcome.OUTSIDE,
    PartVerdict.CANNOT_TELL: Outcome.UNDECIDED,
    PartVerdict.UNREAD: Outcome.UNREAD,
}


@dataclass(frozen=True, slots=True)
class Judged:
    """A read value beside both calculated ones. SI units, uncertainties expanded (k = 2), errors in %.

    `outcome` is what the verdict comes to here: of a part that no such meter can prove, nothing.
    """

    value: float | None
    expanded: float | None
    nominal: Calculated
    measured: Calculated
    percent_error: dict[Basis, float | None]
    normalised_error: dict[Basis, float | None]
    verdict: Verdict | PartVerdict
    reason: str
    outcome: Outcome

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
    """What was read at a target: its value with what is uncertain about it, in the SI unit.

    The value is None for over-range, and `range` then the widest in which that was met. `digit` is one unit of the last
    typed digit.
    """

    value: float | None
    spread: Spread
    measurand: Measurand
    range: float | None = None
    digit: float = 0.0

    @property
    def unit(self) -> str:
        """The SI unit it was read in."""
        return self.measurand.unit

    @property
    def expanded(self) -> float | None:
        """The expanded uncertainty of the reading alone."""
        return None if self.value is None else expanded(self.spread.standard)


def percent_error(value: float | None, calculated: Calculated) -> float | None:
    """Percent error d/|calculated| × 100; None where either is missing or the calculated value counts as zero."""
    if value is None or calculated.value is None or calculated.zero or calculated.value == 0:
        return None
    return (value - calculated.value) / abs(calculated.value) * 100.0


def normalised_error(value: float | None, spread: Spread, calculated: Calculated) -> float | None:
    """Normalised error E = d/U of the difference at k = 2; None where something is unknown.

    What reading and calculated value have in common, such as a meter's gain, cancels as far as it does.
    """
    if value is None or calculated.value is None or calculated.spread is None:
        return None
    scale = 2.0 * spread.apart_from(calculated.spread)
    return (value - calculated.value) / scale if scale else None


def judged(read: Read, nominal: Calculated, measured: Calculated, judge: Judge) -> Judged:
    """Judge one read value against the calculated value that the run says, or the other where that is missing."""
    calculated = {NOMINAL: nominal, MEASURED: measured}
    percent = {basis: percent_error(read.value, c) for basis, c in calculated.items()}
    normalised = {basis: normalised_error(read.value, read.spread, c) for basis, c in calculated.items()}
    first = judge.against
    basis = next((b for b in (first, first.other) if calculated[b].value is not None or calculated[b].open), None)
    if basis is None:
        verdict: Verdict = Verdict.NOT_JUDGED
        reason: str = say("judgement.nothing_compare_with_no")
    else:
        verdict, reason = _verdict(read, calculated[basis], normalised[basis], judge)
        if basis != first:
            reason = several(reason, say("judgement.judged_against_the_other_basis", basis=basis, first=first))
    return Judged(read.value, read.expanded, nominal, measured, percent, normalised, verdict, reason, verdict.outcome)


def _verdict(read: Read, calculated: Calculated, normalised: float | None, judge: Judge) -> tuple[Verdict, str]:
    if calculated.open:
        return _against_open(read)
    if calculated.value is None:
        raise ValueError("a calculated value is needed to judge against")
    if read.value is None:
        return _over_range(read, calculated.value)
    if calculated.zero:
        return _against_zero(read, calculated)
    if judge.by is JudgedBy.PERCENT or normalised is None:
        return _by_percent(read, calculated, normalised, judge)
    return _by_uncertainty(read, calculated, normalised, judge)


def _by_percent(read: Read, calculated: Calculated, normalised: float | None, judge: Judge) -> tuple[Verdict, str]:
    """|d| against the limit L and the reading's own uncertainty; a coarse display within L agrees as displayed."""
    margin, allowed, difference = _sizes(read, calculated, judge)
    within = f"{judge.limit.value:f} %"
    sentence = _sentence(read, calculated)
    by_percent = "" if judge.by is JudgedBy.PERCENT else say("judgement.by_percent_all_the_same")
    if difference > allowed + margin:
        if (calculated.small or calculated.grouped) and normalised is not None and abs(normalised) <= 1:
            known = rounded(expanded(calculated.standard) or 0.0, None, read.unit)
            kind = "judgement.calculated_value_is_small" if calculated.small else "judgement.calculated_of_a_group"
            reason = say(kind, sentence=sentence, known=known)
            return Verdict.UNDECIDED, several(reason, by_percent)
        reason = say("judgement.outside", sentence=sentence, within=within)
        return Verdict.OUTSIDE, several(reason, by_percent, _slip(read, calculated, allowed + margin))
    if margin > allowed and (difference > allowed or read.digit > 2.0 * allowed):
        coarse = _too_coarse("judgement.too_coarse_by_percent", sentence, margin, read.unit, within)
        return Verdict.UNDECIDED, several(coarse, by_percent)
    if difference <= allowed:
        kind = "judgement.within_as_displayed" if margin > allowed else "judgement.within"
        return Verdict.AGREES, several(say(kind, sentence=sentence, within=within), by_percent)
    sure = margin / abs(calculated.value or 1.0) * 100.0
    reason = say("judgement.on_neither_side_of_limit", sentence=sentence, sure=sure, within=within)
    return Verdict.UNDECIDED, several(reason, by_percent)


def _by_uncertainty(read: Read, calculated: Calculated, normalised: float, judge: Judge) -> tuple[Verdict, str]:
    """|E| against 1, and against a little more."""
    margin, allowed, _ = _sizes(read, calculated, judge)
    sentence = say("judgement.with_normalised_error", sentence=_sentence(read, calculated), error=abs(normalised))
    if abs(normalised) > BEYOND:
        reason = say("judgement.more_than_combined_uncertainty", sentence=sentence)
        return Verdict.OUTSIDE, several(reason, _slip(read, calculated, allowed + margin))
    if abs(normalised) > 1.0 + EDGE:
        return Verdict.UNDECIDED, say("judgement.just_beyond_one_right", sentence=sentence)
    if margin > allowed:
        limit = f"{judge.limit.value:f} %"
        return Verdict.UNDECIDED, _too_coarse("judgement.too_coarse_by_uncertainty", sentence, margin, read.unit, limit)
    return Verdict.AGREES, say("judgement.within_combined_uncertainty", sentence=sentence)


def _sizes(read: Read, calculated: Calculated, judge: Judge) -> tuple[float, float, float]:
    """The reading's own uncertainty, how far off is allowed, and how far off it is."""
    value = calculated.value or 0.0
    allowed = as_ratio(judge.limit) * abs(value) * (1.0 + EDGE)
    return read.expanded or 0.0, allowed, abs((read.value or 0.0) - value)


def _sentence(read: Read, calculated: Calculated) -> str:
    sure = expanded(calculated.standard)
    # No coarser than the reading, so that whoever works the error out by hand comes to it.
    should = rounded(calculated.value or 0.0, min(sure, 10.0 * read.digit) if sure and read.digit else sure, read.unit)
    return say(
        "judgement.calculated", percent_error=how_far(percent_error(read.value, calculated) or 0.0), should=should
    )


def _slip(read: Read, calculated: Calculated, allowed: float) -> str:
    return hint(read.value or 0.0, calculated.value or 0.0, allowed, read.measurand)


def _too_coarse(kind: str, sentence: str, margin: float, unit: str, within: str) -> str:
    return say(kind, sentence=sentence, good_to=rounded(margin, margin, unit), within=within)


def _against_open(read: Read) -> tuple[Verdict, str]:
    if read.measurand is not RESISTANCE:
        return Verdict.NOT_JUDGED, say("judgement.nothing_joins_two_nodes")
    if read.value is None:
        return Verdict.AGREES, say("judgement.over_range_open_circuit")
    return Verdict.OUTSIDE, say("judgement.circuit_drawn_open_here")


def _over_range(read: Read, calculated: float) -> tuple[Verdict, str]:
    should = rounded(calculated, None, read.unit)
    if read.range is not None and abs(calculated) > read.range:
        return Verdict.AGREES, say("judgement.calculated_more_than_range", should=should)
    return Verdict.NOT_JUDGED, say("judgement.over_range_where_calculated", should=should)


def _against_zero(read: Read, calculated: Calculated) -> tuple[Verdict, str]:
    """A calculated zero leaves no percentage: the difference's own uncertainty decides."""
    difference = abs((read.value or 0.0) - (calculated.value or 0.0))
    margin = 2.0 * read.spread.apart_from(calculated.spread or NO_SPREAD)
    if difference <= margin:
        return Verdict.AGREES, say("judgement.zero_within_uncertainty_calculated")
    if calculated.spread is None:
        return Verdict.UNDECIDED, say("judgement.zero_calculated_but_with")
    times = difference / margin
    if difference <= BEYOND * margin:
        return Verdict.UNDECIDED, say("judgement.zero_calculated_reading_just", times=times)
    return Verdict.OUTSIDE, say("judgement.zero_calculated_reading", times=times)
