"""Reading again: what a new reading of a point is, beside what was read there before.

Nothing else having been read in between, a reading that differs by more than the digits can tell, or was taken more
finely, stands instead of the last; one that agrees is another trial, also where a source was read in between. After
others were read the newest stands, and the ones before are kept with their times. A coarser reading that what stands
lies within only confirms it; another meter's stands beside. What shows nothing yet (over-range, a zero, a single digit
on a range far too large) is a look.
"""

from collections.abc import Callable, Sequence
from enum import StrEnum

from recensor.core.circuit import Sheet
from recensor.core.judgement import Calculated
from recensor.core.quantity import Quantity
from recensor.core.record import Reading
from recensor.core.standing import confirms, only_turned, others_read, standing_at

# Two readings agree as far as so many of their digits can tell (common practice, no source).
DIGITS_THAT_TELL = 3

# A single digit that stands for so much of its reading is of a range far too large.
_COARSE = 0.25


# What is calculated at a point, worked out when it is asked for; None where it must not be made use of.
Expected = Callable[[], Calculated | None]


def nothing() -> None:
    """Nothing that is calculated is to be made use of."""


class Repeat(StrEnum):
    """What a new reading is beside what stands at its point."""

    FIRST = "first"
    INSTEAD = "instead"
    TRIAL = "trial"
    LATER = "later"
    CONFIRMS = "confirms"
    BESIDE = "beside"
    LOOK = "look"


def classify_repeat(readings: Sequence[Reading], reading: Reading, sheet: Sheet, calculated: Expected) -> Repeat:
    """What a new reading is beside those before it, in its round; what is calculated is asked for where it matters."""
    place = standing_at(readings, reading.target, reading.round)
    stands = None if place is None else readings[place]
    if is_look(reading, calculated, stands):
        return Repeat.LOOK
    if place is None or stands is None:
        return Repeat.FIRST
    if reading.meter != stands.meter:
        return Repeat.BESIDE
    if only_turned(stands, reading):
        return Repeat.INSTEAD
    if confirms(stands, reading):
        return Repeat.CONFIRMS
    between = others_read(readings, place)
    if agree(stands, reading) and all(sheet.source_read_at(target) for target in between):
        return Repeat.TRIAL
    return Repeat.LATER if between else Repeat.INSTEAD


def agree(before: Reading, after: Reading) -> bool:
    """Whether a reading says nothing else than the one before: as fine, in the same range and unit, the same digits."""
    if before.value.value is None or after.value.value is None:
        return before.value.over_range and after.value.over_range
    if finest(after.value) < finest(before.value) or _named(before) != _named(after):
        return False
    turned = after.target.reversed_against(before.target)
    apart = float(before.value.value) - (-1 if turned else 1) * float(after.value.value)
    return abs(apart) <= DIGITS_THAT_TELL * max(finest(before.value), finest(after.value)) * (1 + 1e-9)


def finest(value: Quantity) -> float:
    """The last typed digit in the SI unit."""
    return float(value.resolution or 0)


def is_look(reading: Reading, calculated: Expected, stands: Reading | None = None) -> bool:
    """Whether a reading shows nothing yet: kept, never counted, and the point stays next.

    So does a zero where a good reading stands and something is calculated: it is no answer to what was read.
    """
    if reading.value.value is None:
        found = calculated()
        return not (found and found.open)
    if not reading.target.in_circuit:
        return False
    size, digit = abs(float(reading.value.value)), finest(reading.value)
    if size > 0:
        return digit >= _COARSE * size
    found = calculated()
    if found is None or not found.value or found.zero:
        return False
    return digit >= abs(found.value) or (stands is not None and bool(stands.value.value))


def _named(reading: Reading) -> tuple[float | None, str]:
    """The range that was named and the unit that was written, as far as they were."""
    return (float(reading.range) if reading.range else None), reading.value.beside
