"""What a multimeter's display shows of a value.

Displays are those of handheld meters in general (common practice, no source).
"""

import math
from dataclasses import dataclass
from decimal import Decimal

from recensor.core.figures import as_read, engineering, plainly
from recensor.core.meters.profile import Range
from recensor.core.quantity import OHM, Measurand, Quantity

# How many steps a display counts through in one range, and the step in ohms of its lowest range.
DISPLAYS = {2000: 0.1, 4000: 0.1, 6000: 0.1, 20_000: 0.01, 50_000: 0.01}
USUAL_COUNTS = 2000


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


def unit_of(taken: Range, measurand: Measurand) -> str:
    """The unit beside the display in a range: that of its full scale.

    Examples
    --------
    >>> from recensor.core.meters import SHIPPED
    >>> [unit_of(taken, Measurand.CURRENT) for taken in SHIPPED["3½-digit manual"].ranges[Measurand.CURRENT]]
    ['mA', 'mA', 'mA', 'A']
    """
    return plainly(taken.full, measurand.unit).split(" ")[1]


@dataclass(frozen=True)
class Display:
    """What stands on a display: the digits, a minus before them for turned leads, and the unit beside them.

    `value` is in the SI unit, None for over-range.
    """

    digits: str
    unit: str
    value: float | None

    @property
    def text(self) -> str:
        """Digits and unit, as a person writes them."""
        return self.digits if self.value is None else f"{self.digits} {self.unit}".replace("-", "−")


def display(value: float, measurand: Measurand, taken: Range, over_range: str = "OL") -> Display:
    """The display for a true value in the SI unit: over-range, zeros on a range far too large, or its digits.

    Examples
    --------
    >>> from recensor.core.meters import SHIPPED
    >>> amps = SHIPPED["3½-digit manual"].ranges[Measurand.CURRENT]
    >>> [display(-0.00189, Measurand.CURRENT, taken, "1").digits for taken in amps]
    ['-1.890', '-1.89', '-1.9', '0.00']
    """
    unit = unit_of(taken, measurand)
    shown = shown_at(value, measurand, taken, over_range)
    if shown.value is None or shown.resolution is None:
        return Display(over_range, unit, None)
    power = Decimal(repr(taken.full)) / Decimal(plainly(taken.full, measurand.unit).split(" ")[0])
    decimals = max(0, -(shown.resolution / power).adjusted())
    return Display(f"{shown.value / power + 0:.{decimals}f}", unit, float(shown.value))


def shown_at(value: float, measurand: Measurand, taken: Range, over_range: str = "OL") -> Quantity:
    """What a display shows of `value`, in the SI unit, in one of its ranges.

    Examples
    --------
    >>> from recensor.core.meters import SHIPPED
    >>> volts = SHIPPED["3½-digit manual"].ranges[Measurand.VOLTAGE]
    >>> [shown_at(-2.8131, Measurand.VOLTAGE, taken).text for taken in volts]
    ['OL', 'OL', '-2.81', '-2.8', '-3']
    """
    steps = round(value / taken.step)
    if abs(steps) >= round(taken.full / taken.step):
        return Quantity(over_range, None, None, measurand.unit)
    step = Decimal(f"{taken.step:.3g}")
    exact = Quantity("", Decimal(steps) * step, step, measurand.unit)
    text = as_read(exact, measurand.unit).removesuffix(measurand.unit).replace("−", "-").replace(" ", "")
    return Quantity(text, exact.value, step, measurand.unit)
