"""How far each reading of a run may be off by the meter that it was taken with, as variables that readings share."""

import math
from collections.abc import Hashable
from dataclasses import dataclass

from recensor.core.circuit import Target
from recensor.core.meters import ORDINARY_HANDHELD
from recensor.core.quantity import Measurand
from recensor.core.record import Reading, Run
from recensor.core.uncertainty import COVERAGE_FACTOR, resolution_uncertainty

# Of the square of a gain's uncertainty this share is each reading's own; the rest is in equal shares the function's
# and the range's, the same in every reading taken with them (our own split, for want of what makers do not say).
_OWN_GAIN = 1.0 / 16.0
SHARED_GAIN = math.sqrt((1.0 - _OWN_GAIN) / 2.0 / 3.0)


@dataclass(frozen=True)
class Own:
    """The variable of what is a target's own in its readings: digits, scatter, and a share of the gain."""

    target: Target


@dataclass(frozen=True)
class InGroup:
    """The variable of which one of its group a part is."""

    part: str


@dataclass(frozen=True)
class Gain:
    """The variable of a meter's gain for a function, or for one range of it; None is the meter nobody described."""

    meter: str | None
    measurand: Measurand
    range: Hashable = None


def is_common(variable: Hashable) -> bool:
    """Whether other readings have a share of a variable too: gains, and the touched leads."""
    return isinstance(variable, Gain) or (isinstance(variable, Own) and variable.target.is_leads)


@dataclass(frozen=True, slots=True)
class ReadingPrecision:
    """How far a reading in one range may be off; all in the SI unit.

    `gain` is the accuracy's percent as a ratio, `gains` the variables that share it. `by_digits` is the standard
    uncertainty of the digits; trials that lie no farther apart than `apart` say no more than the meter does of itself.
    """

    gain: float
    gains: tuple[Gain, ...]
    by_digits: float
    apart: float

    def own(self, value: float) -> float:
        """The standard uncertainty of what is a reading's own."""
        return math.sqrt(self.by_digits**2 + _OWN_GAIN * (self.gain * value) ** 2 / 3.0)

    def shared(self, value: float) -> float:
        """The share that each of the gains has in a reading."""
        return SHARED_GAIN * self.gain * value

    @property
    def expanded_digits(self) -> float:
        """The expanded uncertainty of the digits alone."""
        return COVERAGE_FACTOR * self.by_digits


class RunMeters:
    """The meters of a run, asked for each of its readings."""

    def __init__(self, run: Run) -> None:
        self.run = run
        self._only = next(iter(run.meters)) if len(run.meters) == 1 else None
        self._kept: dict[Hashable, ReadingPrecision] = {}

    def name(self, reading: Reading) -> str | None:
        """The name of a reading's meter: of the only one where none is named, None where nobody described it."""
        return self._only if reading.meter is None else reading.meter

    def is_assumed(self, reading: Reading) -> bool:
        """Whether nobody described the meter of a reading, in this function at least."""
        profile = self.run.profile_of(reading)
        return profile is None or not profile.reads(reading.target.measurand)

    def there(self, reading: Reading) -> float:
        """What is there where a reading shows a number, in the SI unit, by what was found of its meter."""
        profile, shown = self.run.profile_of(reading), float(reading.value)
        return profile.found.there(shown, reading.target.measurand) if profile else shown

    def of(self, reading: Reading) -> ReadingPrecision:
        """How far a reading that shows a number may be off."""
        profile, meter, measurand = self.run.profile_of(reading), self.name(reading), reading.target.measurand
        resolution, value = float(reading.value.resolution or 0), reading.value.value
        named = float(reading.range) if reading.range else None
        # Without a named range it may hang on the value which range it was.
        depends = profile is not None and named is None and measurand in profile.ranges
        place = (meter, measurand, resolution, named, value if depends else None)
        if place not in self._kept:
            stated = (profile or ORDINARY_HANDHELD).precision(measurand, float(value or 0), resolution, named)
            a, d = stated.accuracy.ratio, stated.accuracy.digits
            gains = (Gain(meter, measurand), Gain(meter, measurand, stated.range)) if a else ()
            by_digits = math.hypot(d * stated.step / math.sqrt(3.0), resolution_uncertainty(resolution))
            self._kept[place] = ReadingPrecision(a, gains, by_digits, (2 * d + 1) * max(stated.step, resolution))
        return self._kept[place]
