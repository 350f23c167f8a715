"""How far a meter may be off, as its sheet states it.

Accuracies are those of handheld meters in general (common practice, no source).
"""

import math
import re
from dataclasses import dataclass

import numpy as np

from recensor.core.errors import Refused
from recensor.core.sentences import say
from recensor.core.uncertainty import Array

_ACCURACY = re.compile(r"(?P<percent>[0-9]+(?:[.,][0-9]+)?) ?%?(?: ?(?:\+|plus|and) ?(?P<digits>[0-9]{1,3}) ?d?.*)?")


class AccuracyError(Refused):
    """The text is no accuracy as a meter's sheet states it."""


@dataclass(frozen=True)
class Accuracy:
    """± (`percent` % of the reading + `digits` steps of the last digit)."""

    percent: float
    digits: int

    @property
    def ratio(self) -> float:
        """The gain's share as a ratio: 0.8 % is 0.008."""
        return self.percent / 100.0

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
        raise AccuracyError(say("meters.no_accuracy_write_meters", text=text[:40]))
    percent = float(match["percent"].replace(",", "."))
    if percent > 20:
        raise AccuracyError(say("meters.no_meter_only_good", percent=percent))
    return Accuracy(percent, int(match["digits"] or 0))
