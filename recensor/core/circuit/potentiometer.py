"""A potentiometer: one part of three legs, in a setup two rheostats, from an end to its slider and on from there.

What it is set to is its lower part, from the slider to the second end, and the rest of the whole is its upper one.
"""

from collections.abc import Mapping
from decimal import Decimal

from recensor.core.circuit.kinds import RHEOSTAT
from recensor.core.circuit.parts import Part
from recensor.core.quantity import OHM, Quantity, QuantityError
from recensor.core.sentences import say

# What its name begins with, and the word for it where a circuit is written.
LETTER, WORD = "P", "pot"

# The two rheostats of each potentiometer, by its name: the upper, and the lower.
Halves = Mapping[str, tuple[str, str]]


def halves_called(name: str) -> tuple[str, str]:
    """The names of both rheostats of a potentiometer."""
    return f"{name}a", f"{name}b"


def two_parts(name: str, whole: Quantity, tolerance: Quantity | None = None) -> dict[str, Part]:
    """Both rheostats of a potentiometer, each of which goes as far as the whole."""
    return {half: Part(half, RHEOSTAT, whole, tolerance) for half in halves_called(name)}


def settings(name: str, lower: Quantity, whole: Quantity) -> dict[str, Quantity]:
    """What both rheostats are set to where the lower part is. Raises `QuantityError` for no place of the slider."""
    if not 0 < float(lower) < float(whole):
        raise QuantityError(say("circuit.slider_lies_between", whole=whole.text))
    rest = (whole.value or Decimal(0)) - (lower.value or Decimal(0))
    upper, below = halves_called(name)
    return {upper: Quantity(f"{rest.normalize():f}", rest, lower.resolution, OHM), below: lower}
