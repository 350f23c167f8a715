"""What no source gives: a battery far off its label, more than all sources together, one that has moved meanwhile."""

from dataclasses import replace

from recensor.core.circuit import Part, PartAlone, SourceType, Through
from recensor.core.entries.plausibility.entry_check import (
    AGAIN,
    AS_TYPED,
    Answer,
    AnswerKind,
    EntryCheck,
    Query,
)
from recensor.core.entries.plausibility.fitting import DRIFT, asked, fitting, meant
from recensor.core.figures import as_read, with_digits
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.sentences import say

# How far below and above its label a source may be, as ratios: a wall pack without regulation gives half as much again
# with no load, any other a quarter (common practice, no source).
_LOWEST, _HIGHEST, _OF_A_PACK = 0.5, 1.25, 1.6


def off_its_label(tried: EntryCheck) -> Query | None:
    """A source too far off its label; below it only where it has no knob."""
    part = tried.source
    setup = tried.sheet.state_of(tried.target)
    stated = (setup.stated(part) if setup else part.nominal) if part else None
    if part is None or stated is None or not float(stated) or _is_confirmed_before(tried):
        return None
    label = abs(float(stated))
    low, high = _LOWEST, _highest(part)
    if tried.size > high * label or (tried.size < low * label and not part.has_knob):
        why = say("entries.give", part=part.name, stated=as_read(stated, part.kind.unit))
        belongs = tuple(fitting(tried))
        turning = (Answer(AnswerKind.TURNING),) if tried.size < low * label else ()
        return replace(asked(why, meant(tried, label, 0.3), belongs, turning), holds=tried.size > high * label)
    return None


def moved(tried: EntryCheck) -> Query | None:
    """A source that differs later by more than drift and sag make."""
    part, earlier = tried.source, tried.earlier
    if part is None or earlier is None or earlier.value.value is None or tried.target.step is not None:
        return None
    was = abs(float(earlier.value))
    if abs(tried.size - was) <= DRIFT * was:
        return None
    why = say("entries.before_and_other_points", part=part.name, earlier=as_read(earlier.value, part.kind.unit))
    anew = (Answer(AnswerKind.SET_ANEW),) if tried.target.setup or len(tried.sheet.setups) == 1 else ()
    return Query(why, (*meant(tried, was, DRIFT), *anew, AGAIN, AS_TYPED))


def above_the_sources(tried: EntryCheck) -> Query | None:
    """A voltage above all that the sources of its setup give together."""
    target = tried.target
    if not target.in_circuit or target.measurand is RESISTANCE:
        return None
    setup = tried.sheet.state_of(target)
    if setup is None:
        return None
    most = 0.0
    for name in setup.driving(tried.sheet.parts):
        part = tried.sheet.parts[name]
        stated = setup.stated(part)
        if part.kind.measured_as is not VOLTAGE or stated is None:
            return None
        most += max(_highest(part) * abs(float(stated)), 1.1 * _read_of(part, tried))
    if target.is_through:
        return _above_its_share(tried, target, most)
    if tried.size <= most:
        return None
    why = (
        say("entries.sources_give_at_most", most=with_digits(most / _HIGHEST, 0.01, "V"))
        if not tried.sealed
        else (say("entries.more_than_sources_can_give"))
    )
    expected = tried.calculated.value if tried.calculated else None
    same_digits = meant(tried, abs(expected), 0.1) if expected else ()
    return asked(why, same_digits, tuple(fitting(tried)))


def _above_its_share(tried: EntryCheck, target: Through, volts: float) -> Query | None:
    """A current above what all the sources together would push through that part alone."""
    part = tried.sheet.parts[target.part]
    read = tried.assessment.of(PartAlone(part.name, part.kind.measured_as))
    ohms = read.measurement.mean if read else None
    if ohms is None and part.nominal is not None and not tried.sealed:
        ohms = 0.8 * float(part.nominal)
    if part.kind.is_source or not ohms or tried.size <= volts / abs(ohms):
        return None
    why = say("entries.more_than_sources_can", part=part.name)
    expected = tried.calculated.value if tried.calculated else None
    same_digits = meant(tried, abs(expected), 0.3) if expected else ()
    return asked(why, same_digits, tuple(fitting(tried)))


def _read_of(part: Part, tried: EntryCheck) -> float:
    """The largest that a source was read to give, in volts."""
    found = (
        m.measurement.mean
        for key, m in tried.assessment.targets.items()
        if key.step == tried.target.step and tried.sheet.source_read_at(key) == part
    )
    return max((abs(mean) for mean in found if mean is not None), default=0.0)


def _highest(part: Part) -> float:
    return _OF_A_PACK if part.source is SourceType.PACK else _HIGHEST


def _is_confirmed_before(tried: EntryCheck) -> bool:
    """Whether what this source gives was said to be so already, near what is read now."""
    said = (
        abs(float(reading.value))
        for reading in tried.before
        if reading.confirmed
        and reading.value.value is not None
        and tried.sheet.source_read_at(reading.target) == tried.source
    )
    return any(abs(size - tried.size) <= 0.3 * tried.size for size in said)
