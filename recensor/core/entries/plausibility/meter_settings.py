"""What the meter or the supply, as they are set, cannot show: another range, other digits, power on or off."""

import math

from recensor.core.entries.plausibility.entry_check import AGAIN, AS_TYPED, Answer, AnswerKind, EntryCheck, Query
from recensor.core.figures import plainly
from recensor.core.meters import Profile, Range, ranges_of
from recensor.core.plan import stage_of
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say


def power(tried: EntryCheck) -> Query | None:
    """Ohms under power. Volts and amperes prove that it is on, whatever was said: nobody is asked."""
    if not tried.powered or tried.run.simulated or stage_of(tried.target, tried.sheet).power == "ON":
        return None
    answers = Answer(AnswerKind.SWITCHED), AGAIN
    if tried.target.measurand is RESISTANCE and tried.target.is_part_alone:
        return Query(say("entries.power_on_part_out"), answers, holds=True)
    return Query(say("entries.power_on_and_ohms"), answers, holds=True)


def beyond_its_range(tried: EntryCheck) -> Query | None:
    """More than the range that was named can show, or digits that it does not have."""
    reading, unit = tried.reading, tried.target.unit
    profile = tried.run.profile_of(reading)
    if reading.range is None:
        return _not_of_this_meter(tried, profile)
    full = float(reading.range)
    text = plainly(full, unit)
    taken = _named(full, tried, profile)
    if tried.size > full * (1 + 1e-9) if taken is None else round(tried.size / taken.step) >= round(full / taken.step):
        return Query(say("entries.in_range_would_over", text=text), (*_higher(tried, profile), AGAIN, AS_TYPED))
    if taken is not None and _finer(tried, taken.step):
        return Query(say("entries.range_shows_steps_no", text=text, step=plainly(taken.step, unit)), (AGAIN, AS_TYPED))
    return None


def _named(full: float, tried: EntryCheck, profile: Profile | None) -> Range | None:
    """The profile's range of this full scale."""
    known = profile.ranges.get(tried.target.measurand, ()) if profile else ()
    return next((taken for taken in known if math.isclose(taken.full, full, rel_tol=0.02)), None)


def _higher(tried: EntryCheck, profile: Profile | None) -> tuple[Answer, ...]:
    """The smallest range that holds it, as what was meant."""
    ranges = ranges_of(profile, tried.target.measurand) if profile and profile.ranges else ()
    held = [taken for taken in ranges if tried.size < taken.full and not _finer(tried, taken.step)]
    return (Answer(AnswerKind.RANGE, plainly(held[0].full, tried.target.unit)),) if held else ()


def _not_of_this_meter(tried: EntryCheck, profile: Profile | None) -> Query | None:
    """Digits that no range of the meter shows."""
    known = profile.ranges.get(tried.target.measurand, ()) if profile else ()
    holding = [taken for taken in known if tried.size < taken.full]
    if not known or any(not _finer(tried, taken.step) for taken in holding):
        return None
    if not holding:
        return Query(say("entries.more_than_meter_shows"), (AGAIN, AS_TYPED))
    step = plainly(holding[0].step, tried.target.unit)
    return Query(say("entries.meter_shows_steps_at", step=step), (AGAIN, AS_TYPED))


def _finer(tried: EntryCheck, step: float) -> bool:
    return float(tried.reading.value.resolution or step) < step * (1 - 1e-6)
