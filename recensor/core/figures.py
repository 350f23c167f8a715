"""Values as Recensor writes them: with the digits that were typed, or down to those that mean something."""

import math
from decimal import Decimal
from functools import lru_cache
from typing import NamedTuple

from recensor.core.quantity import AMPERE, OHM, VOLT, Quantity
from recensor.core.sentences import say

# Beyond this a percentage says less than how many times as large.
MOST_PERCENT = 999.0

# So many places are tried until the figures of a sum give its result.
_MORE_FIGURES = 4

_PREFIX_BY_EXPONENT = {-12: "p", -9: "n", -6: "µ", -3: "m", 0: "", 3: "k", 6: "M", 9: "G", 12: "T"}


def engineering(value: float | Decimal, resolution: float | Decimal, unit: str) -> str:
    """Write a value in engineering notation down to the digit named by `resolution` (same SI unit).

    Examples
    --------
    >>> engineering(0.00189, 1e-5, "A")
    '1.89 mA'
    >>> engineering(-1487, 1, "Ω")
    '−1.487 kΩ'
    >>> engineering(-1e-17, 0.01, "V")
    '0.00 V'
    """
    place = math.floor(math.log10(float(resolution)) + 1e-9)
    exact = Decimal(str(value)).quantize(Decimal(1).scaleb(place))
    exact = abs(exact) if exact == 0 else exact  # a zero has no sign
    return _engineering(exact, place, 3 * math.ceil(place / 3) if exact == 0 else 3 * (exact.adjusted() // 3), unit)


def _engineering(exact: Decimal, place: int, exponent: int, unit: str) -> str:
    exponent = min(max(exponent, -12), 12)
    mantissa = f"{exact.scaleb(-exponent):.{max(0, exponent - place)}f}".replace("-", "−")
    return f"{mantissa} {_PREFIX_BY_EXPONENT[exponent]}{unit}"


@lru_cache(maxsize=4096)
def rounded(value: float, uncertainty: float | None, unit: str) -> str:
    """Write a calculated value down to the second significant digit of its uncertainty (JCGM 100, 7.2.6).

    Without an uncertainty it is written with four significant digits.

    Examples
    --------
    >>> rounded(2.80813, 0.1118, "V"), rounded(2.80813, None, "V")
    ('2.81 V', '2.808 V')
    """
    if uncertainty:
        place = _leading(uncertainty) - 1
        if abs(value) > 1e-3 * uncertainty:  # anything smaller is zero in this company
            leading = _leading(value)
            place = min(max(place, leading - 5), leading)
    else:
        place = _leading(value) - 3 if value else 0
    return engineering(value, Decimal(1).scaleb(max(place, -15)), unit)


class SumFigures(NamedTuple):
    """Both sides of an account, what is left, and how far that may be off, as they are written."""

    rises: str
    drops: str
    left: str
    margin: str


def sum_figures(rises: float, drops: float, uncertainty: float, unit: str) -> SumFigures:
    """Write an account down to the digit at which the figures that are shown give the result that is shown.

    That is the second significant digit of its uncertainty, or a few more: so many that what is left is not lost, and
    that it is what the eye takes the one side to leave of the other.

    Examples
    --------
    >>> sum_figures(9.12, 8.109, 0.05, "V")
    SumFigures(rises='9.120 V', drops='8.109 V', left='1.011 V', margin='50 mV')
    >>> sum_figures(5.002, 5.0069, 0.2, "V")[:3]
    ('5.002 V', '5.007 V', '−5 mV')
    """
    left = rises - drops
    largest = max(abs(rises), abs(drops))
    leading = _leading(largest)
    place = _leading(uncertainty) - 1 if uncertainty else leading - 3
    place = max(place, leading - 5)
    if abs(left) > 1e-3 * uncertainty and abs(left) > 1e-9 * largest:
        place = min(place, _leading(left))
    for more in range(_MORE_FIGURES):
        digit = Decimal(1).scaleb(place - more)
        one, other, rest = (Decimal(str(value)).quantize(digit) for value in (rises, drops, left))
        if one - other == rest:
            break
    one_side, other_side, remainder = (engineering(value, digit, unit) for value in (rises, drops, left))
    return SumFigures(one_side, other_side, remainder, rounded(uncertainty, uncertainty or None, unit))


def _leading(value: float) -> int:
    """The place of a value's first digit, 0 of nothing."""
    return math.floor(math.log10(abs(value))) if value else 0


def signed_percent(percentage: float) -> str:
    """Write an error in % with its sign.

    Examples
    --------
    >>> signed_percent(-0.779), signed_percent(-0.001)
    ('−0.78 %', '+0.00 %')
    """
    return f"{round(percentage, 2) + 0.0:+.2f} %".replace("-", "−")


def how_far(percentage: float) -> str:
    """How far a value is from another: in %, and beyond ±999 % as what it is times the other.

    Examples
    --------
    >>> how_far(-0.779), how_far(86380.0), how_far(-1500.0)
    ('−0.78 % from', '865 times', '−14 times')
    """
    if abs(percentage) <= MOST_PERCENT:
        return say("figures.percent_from", percentage=signed_percent(percentage))
    return say("figures.times", value=f"{round(1.0 + percentage / 100.0)}".replace("-", "−"))


def as_read(quantity: Quantity, unit: str) -> str:
    """Write a reading with just the digits that were typed, or ``over-range``.

    Examples
    --------
    >>> from recensor.core.quantity import parse
    >>> as_read(parse("0.80"), "A"), as_read(parse("0.8"), "A")
    ('0.80 A', '0.8 A')
    """
    if quantity.value is None or quantity.resolution is None:
        return "over-range"
    return with_digits(quantity.value, quantity.resolution, unit)


def with_digits(value: float | Decimal, resolution: float | Decimal, unit: str) -> str:
    """Write a value that was read, or made of what was read, down to the digit `resolution` and no further.

    Examples
    --------
    >>> with_digits(0.8, 0.01, "Ω"), engineering(0.8, 0.01, "Ω")
    ('0.80 Ω', '800 mΩ')
    """
    place = math.floor(math.log10(float(resolution)) + 1e-9)
    exact = Decimal(str(value)).quantize(Decimal(1).scaleb(place))
    # The prefix may be so small at most that its last digit is the one that was read.
    smallest = 3 * math.ceil(place / 3)
    return _engineering(exact, place, max(3 * (exact.adjusted() // 3), smallest) if exact else smallest, unit)


def stated(value: Decimal, unit: str) -> str:
    """Write a stated value, such as a nominal one, with no needless zeros.

    Examples
    --------
    >>> stated(Decimal("4700"), "Ω"), stated(Decimal("0.47"), "Ω"), stated(Decimal("100.0"), "Ω")
    ('4.7 kΩ', '470 mΩ', '100 Ω')
    """
    digits = len(value.normalize().as_tuple().digits) if value else 1
    number, prefixed = engineering(value, Decimal(1).scaleb(value.adjusted() - digits + 1), unit).split(" ")
    return f"{number.rstrip('0').rstrip('.') if '.' in number else number} {prefixed}"


@lru_cache(maxsize=1024)
def plainly(value: float, unit: str) -> str:
    """A size that somebody stated, held as a float: a range, a fuse.

    Examples
    --------
    >>> plainly(0.2, "A"), plainly(2e6, "Ω")
    ('200 mA', '2 MΩ')
    """
    return stated(Decimal(f"{value:.6g}"), unit)


def prefixed_unit(magnitude: float, unit: str) -> str:
    """The unit with the prefix that a handheld meter shows a value of this size in, such as ``mA`` for 0.0019 A.

    Ranges of volts and amperes end at 200 (200 mV, 200 mA): 0.48 V is read in volts (common practice, no source).

    Examples
    --------
    >>> prefixed_unit(0.0019, "A"), prefixed_unit(0.48, "V"), prefixed_unit(0.12, "V"), prefixed_unit(470, "Ω")
    ('mA', 'V', 'mV', 'Ω')
    """
    if magnitude == 0:
        return unit
    begins = 1.0 if unit == OHM else 0.2
    exponent = 3 * math.floor(math.log10(abs(magnitude) / begins) / 3 + 1e-9)
    lowest, highest = {OHM: (0, 6), VOLT: (-3, 0), AMPERE: (-6, 0)}.get(unit, (0, 0))
    return _PREFIX_BY_EXPONENT[min(max(exponent, lowest), highest)] + unit


def to_four_figures(value: float, unit: str) -> Quantity:
    """A calculated value above zero as a quantity that a person could have stated.

    Examples
    --------
    >>> to_four_figures(2331.4159, "Ω").text
    '2.331kΩ'
    """
    place = math.floor(math.log10(value)) - 3
    exact = Decimal(str(value)).quantize(Decimal(1).scaleb(place))
    text = engineering(exact, Decimal(1).scaleb(place), unit).replace(" ", "")
    return Quantity(text, exact, Decimal(1).scaleb(place), unit)


def with_unit(quantity: Quantity, unit: str) -> str:
    """A stated quantity as typed, in one word that ends in its unit.

    Examples
    --------
    >>> with_unit(Quantity("9", Decimal(9), Decimal(1)), "V"), with_unit(Quantity("9 V", Decimal(9), Decimal(1)), "V")
    ('9V', '9V')
    """
    text = quantity.text.replace(" ", "")
    return text if text.endswith(unit) else f"{text}{unit}"
