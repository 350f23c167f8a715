"""What fits elsewhere and not here: a total that its parts cannot make, a number of the point left or an open one."""

import math

from recensor.core.circuit import PartAlone
from recensor.core.entries.plausibility.entry_check import (
    AGAIN,
    AS_TYPED,
    UNKNOWN,
    Answer,
    AnswerKind,
    EntryCheck,
    Query,
)
from recensor.core.entries.plausibility.fitting import asked, fitting, is_tenfold, meant, written
from recensor.core.entries.repeat import DIGITS_THAT_TELL, finest
from recensor.core.figures import as_read
from recensor.core.judgement import Calculated
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.sentences import say
from recensor.core.slips import turned

# What does not fit here is off by so much, as a ratio.
_OFF = 0.15

# Amperes that no jack of a bench meter takes, 10 A being the usual largest (common practice, no source).
_LARGEST_JACK = 20.0


def not_of_its_parts(tried: EntryCheck) -> Query | None:
    """A total that the parts, as they were read, cannot make in any way: said of sealed runs too."""
    target = tried.target
    if not target.is_across or target.measurand is not RESISTANCE or not tried.size:
        return None
    setup = tried.sheet.setups[target.setup]
    read = []
    for name in setup.connections:
        part = tried.sheet.parts[name]
        if part.kind.is_source:
            continue
        assessment = tried.assessment.of(PartAlone(name, part.kind.measured_as))
        if assessment is None or assessment.measurement.mean is None or assessment.measurement.mean <= 0:
            return None
        read.append(assessment.measurement.mean)
    if not read:
        return None
    most, least = 1.2 * math.fsum(read), 0.8 / math.fsum(1.0 / value for value in read)
    if least <= tried.size <= most:
        return None
    why = say("entries.parts_you_read_them")
    expected = tried.calculated.value if tried.calculated else None
    return asked(why, meant(tried, expected, 0.15) if expected else (), tuple(fitting(tried)))


def fits_elsewhere(tried: EntryCheck) -> Query | None:
    """A number that fits the point just left, or another open one, to a few digits, and this one not at all."""
    calculated = tried.calculated
    if calculated is None or tried.source or tried.target.is_part_alone or not _is_far(tried, calculated):
        return None
    scale = tried.scale
    expected = abs(calculated.value or 0.0) * (scale or 1.0)
    belongs = tuple(fitting(tried))
    same_digits = meant(tried, expected, 0.3 if scale is None else 0.15) if expected else ()
    if not belongs and not same_digits:
        return None
    here = (
        say("entries.open_here")
        if calculated.open
        else say("entries.here_about_calculated", written=written(expected, tried.target))
    )
    return asked(here, same_digits, belongs)


def turned_again(tried: EntryCheck) -> Query | None:
    """The number that was just recorded with the other sign, typed where another quantity is read: leads turned there.

    Of the same quantity it fits the point just left anyway.
    """
    left, reading = tried.left, tried.reading
    if left is None or left.value.value is None or not tried.unit_is_default or tried.sealed:
        return None
    if left.target.measurand is tried.target.measurand or reading.value.value is None:
        return None
    digits, was = reading.value.text.lstrip("-−+ "), left.value.text.lstrip("-−+ ")
    if digits != was or (float(reading.value) < 0) is (float(left.value) < 0) or _is_expected(tried):
        return None
    turned_there = as_read(turned(left.value, left.target.unit), left.target.unit)
    return Query(say("entries.number_just_recorded"), (Answer(AnswerKind.BELONGS, turned_there, left.target), AS_TYPED))


def _is_expected(tried: EntryCheck) -> bool:
    """Whether the size of a reading is about what is to be read at its point."""
    target = tried.target
    if target.is_part_alone:
        stated = tried.sheet.alone(target.part, target.setup)
        expected = abs(float(stated)) if stated else 0.0
    else:
        expected = abs(tried.calculated.value or 0.0) if tried.calculated else 0.0
    return bool(expected) and abs(tried.size / expected - 1.0) <= _OFF


def of_another_size(tried: EntryCheck) -> Query | None:
    """Ohms ten times off what is calculated, amperes ten times above it, or more than any jack of a meter takes.

    A voltage is none: a fault in the circuit makes any up to that of the sources.
    """
    target, calculated = tried.target, tried.calculated
    if target.measurand is CURRENT and tried.size > _LARGEST_JACK:
        return Query(say("entries.no_jack_takes"), (AGAIN, AS_TYPED))
    if target.is_part_alone or target.measurand is VOLTAGE or calculated is None or not calculated.value:
        return None
    expected = abs(calculated.value) * (tried.scale or 1.0)
    digits = 2.0 * finest(tried.reading.value)
    size = tried.size - digits if tried.size > expected else tried.size + digits
    if not is_tenfold(size, expected) or (target.measurand is CURRENT and size < expected):
        return None
    return Query(say("entries.here_about_calculated", written=written(expected, target)), (AGAIN, AS_TYPED))


def _is_far(tried: EntryCheck, calculated: Calculated) -> bool:
    """Whether a reading is nowhere near what is calculated, even with what is uncertain about both."""
    if calculated.open:
        return True
    expected, scale = abs(calculated.value or 0.0), tried.scale
    low, high = UNKNOWN if scale is None else (scale * (1.0 - _OFF), scale * (1.0 + _OFF))
    own = DIGITS_THAT_TELL * finest(tried.reading.value) + 3.0 * (calculated.standard or 0.0)
    return not low * expected - own <= tried.size <= high * expected + own
