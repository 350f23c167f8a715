"""What a multimeter's display shows of a value, and how far it may be off.

Displays and accuracies are those of handheld meters in general (common practice, no source).
"""

import math
import re
from dataclasses import dataclass
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from recensor.core.quantity import OHM, engineering

Array = NDArray[np.float64]

# How many steps a display counts through in one range, and the step in ohms of its lowest range.
DISPLAYS = {2000: 0.1, 4000: 0.1, 6000: 0.1, 20_000: 0.01, 50_000: 0.01}
USUAL_COUNTS = 2000

_ACCURACY = re.compile(r"(?P<percent>[0-9]+(?:[.,][0-9]+)?) ?%?(?: ?(?:\+|plus|and) ?(?P<digits>[0-9]{1,3}) ?d?.*)?")


class AccuracyError(ValueError):
    """The text is no accuracy as a meter's sheet states it."""


def display_step(ohms: float, counts: int) -> float:
    """The last digit, in ohms, of the smallest range of a `counts` display that holds a resistance.

    Examples
    --------
    >>> display_step(4465.0, 2000), display_step(4465.0, 6000)
    (10.0, 1.0)
    """
    step = DISPLAYS[counts]
    while round(ohms / step) >= counts:
        step *= 10.0
    return step


def displayed_limits(low: float, high: float, counts: int) -> tuple[str, str]:
    """The smallest and the largest that a `counts` display shows of a resistance from `low` to `high` ohms.

    Examples
    --------
    >>> displayed_limits(4465.0, 4935.0, 2000), displayed_limits(4465.0, 4935.0, 6000)
    (('4.47 kΩ', '4.93 kΩ'), ('4.465 kΩ', '4.935 kΩ'))
    """
    shown = []
    for limit, inward in ((low, math.ceil), (high, math.floor)):
        step = display_step(limit, counts)
        steps = inward(round(limit / step, 6))  # binary fractions must not push a limit off its own digit
        shown.append(engineering(Decimal(steps) * Decimal(repr(step)), Decimal(repr(step)), OHM))
    return shown[0], shown[1]


@dataclass(frozen=True)
class Accuracy:
    """± (`percent` % of the reading + `digits` steps of the last digit)."""

    percent: float
    digits: int

    def standard_uncertainty(self, values: Array, resolutions: Array) -> Array:
        """Standard uncertainties of readings, the limits taken as rectangular (JCGM 100, 4.3.7); shapes (n,)."""
        return np.asarray((np.abs(values) * self.percent / 100.0 + self.digits * resolutions) / math.sqrt(3.0))


def parse_accuracy(text: str) -> Accuracy:
    """Read an accuracy such as ``0.8 % + 2``. Raises `AccuracyError`.

    Examples
    --------
    >>> parse_accuracy("0.8 % + 2")
    Accuracy(percent=0.8, digits=2)
    """
    match = _ACCURACY.fullmatch(text.strip())
    if not match:
        raise AccuracyError(f"“{text[:40]}” is no accuracy; write it as the meter's sheet does, for example 0.8 % + 2.")
    percent = float(match["percent"].replace(",", "."))
    if percent > 20:
        raise AccuracyError(f"No meter is only good to {percent:g} %; write for example 0.8 % + 2.")
    return Accuracy(percent, int(match["digits"] or 0))
