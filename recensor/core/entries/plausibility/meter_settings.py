"""What the meter or the supply, as they are set, cannot show: another range, other digits, power on or off."""

import math

from recensor.core.entries.plausibility.entry_check import AGAIN, AS_TYPED, Answer, AnswerKind, EntryCheck, Query
from recensor.core.figures import plainly
from recensor.core.meters import Profile, Range, ranges_of
from recensor.core.plan import stage_of
from recensor.core.quantity import RESISTANCE


def power(tried: EntryCheck) -> Query | None:
    """Volts and amperes without power, ohms under it."""
    if tried.powered is None or tried.run.simulated:
        return None
    needs = stage_of(tried.target, tried.sheet).power == "ON"
    if needs == tried.powered:
        return None
    answers = Answer(AnswerKind.SWITCHED), AGAIN
    if needs:
        return Query("Power is off, as far as was said. Was it on when this was read?", answers)
    if tried.target.measurand is RESISTANCE and tried.target.is_part_alone:
        return Query("Power is on. Was this part out of the circuit, and power off?", answers)
    return Query("Power is on, and ohms under power mean nothing. Was it off when this was read?", answers)


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
        return Query(f"In the {text} range this would be over-range.", (*_higher(tried, profile), AGAIN, AS_TYPED))
    if taken is not None and _finer(tried, taken.step):
        return Query(f"The {text} range shows steps of {plainly(taken.step, unit)}, no finer.", (AGAIN, AS_TYPED))
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
        return Query("It is more than this meter shows in any range.", (AGAIN, AS_TYPED))
    step = plainly(holding[0].step, tried.target.unit)
    return Query(f"This meter shows steps of {step} at best here.", (AGAIN, AS_TYPED))


def _finer(tried: EntryCheck, step: float) -> bool:
    return float(tried.reading.value.resolution or step) < step * (1 - 1e-6)
