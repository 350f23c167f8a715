"""Reading again: what a new reading of a point is, beside what was read there before.

Nothing else having been read in between, a reading that differs by more than the digits can tell, or was taken more
finely, stands instead of the last; one that agrees is another trial. After others were read it is a later one. What
shows nothing yet (over-range, a zero or a single digit on a range far too large) is a look.
"""

from collections.abc import Callable, Sequence
from enum import StrEnum

from recensor.core.circuit import Target
from recensor.core.judgement import Calculated
from recensor.core.quantity import Quantity
from recensor.core.record import Reading

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
    LOOK = "look"


def standing_at(readings: Sequence[Reading], target: Target) -> int | None:
    """The place of the last reading of a point that counts; None where there is none."""
    key = target.key
    for k in range(len(readings) - 1, -1, -1):
        other = readings[k]
        if other.struck is None and other.counted is not False and other.target.key == key:
            return k
    return None


def classify_repeat(readings: Sequence[Reading], reading: Reading, calculated: Expected) -> Repeat:
    """What a new reading is beside those before it; what is calculated is asked for only where it matters."""
    if is_look(reading, calculated):
        return Repeat.LOOK
    place = standing_at(readings, reading.target)
    if place is None:
        return Repeat.FIRST
    if were_others_read(readings, place):
        return Repeat.LATER
    return Repeat.TRIAL if agree(readings[place], reading) else Repeat.INSTEAD


def were_others_read(readings: Sequence[Reading], since: int) -> bool:
    """Whether another point was read since the one at a place in the order."""
    key = readings[since].target.key
    return any(other.struck is None and other.target.key != key for other in readings[since + 1 :])


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


def is_look(reading: Reading, calculated: Expected) -> bool:
    """Whether a reading shows nothing yet: kept, never counted, and the point stays next."""
    if reading.value.value is None:
        found = calculated()
        return not (found and found.open)
    if not reading.target.in_circuit:
        return False
    size, digit = abs(float(reading.value.value)), finest(reading.value)
    if size > 0:
        return digit >= _COARSE * size
    found = calculated()
    return found is not None and found.value is not None and not found.zero and digit >= abs(found.value) > 0


def _named(reading: Reading) -> tuple[float | None, str]:
    """The range that was named and the unit that was written, as far as they were."""
    return (float(reading.range) if reading.range else None), reading.value.beside
