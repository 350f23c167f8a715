"""Preferred values of resistors, the E series of IEC 60063 (from memory).

E3 to E24 are rounded by tradition and stand as a table; E48 to E192 are the powers of the n-th root of
ten to three digits, with one known exception.
"""

from bisect import bisect_left
from decimal import Decimal
from functools import lru_cache

SERIES = (3, 6, 12, 24, 48, 96, 192)
_E24 = (100, 110, 120, 130, 150, 160, 180, 200, 220, 240, 270, 300,
        330, 360, 390, 430, 470, 510, 560, 620, 680, 750, 820, 910)  # fmt: skip
_EXCEPTIONS = {919: 920}  # the standard's E192 has 9.20 where the formula gives 9.19


@lru_cache
def mantissas(series: int) -> tuple[int, ...]:
    """The values of one decade as whole numbers from 100 up.

    Examples
    --------
    >>> mantissas(6)
    (100, 150, 220, 330, 470, 680)
    """
    if series not in SERIES:
        raise ValueError(f"there is no series E{series}; there are E{', E'.join(map(str, SERIES))}")
    if series <= 24:
        return _E24[:: 24 // series]
    steps = (round(100 * 10 ** (k / series)) for k in range(series))
    return tuple(_EXCEPTIONS.get(step, step) for step in steps)


def series_of(value: Decimal) -> int | None:
    """The coarsest series that has this value in ohms, None when no series has it.

    Examples
    --------
    >>> series_of(Decimal(4700)), series_of(Decimal("4.64")), series_of(Decimal(4710))
    (3, 48, None)
    """
    if value <= 0:
        return None
    digits = value.scaleb(2 - value.adjusted())
    return next((series for series in SERIES if digits in mantissas(series)), None)


def neighbours(value: Decimal, series: int) -> tuple[Decimal, Decimal]:
    """The preferred values at or below, and at or above, a positive value in ohms."""
    decade = value.adjusted() - 2
    digits = value.scaleb(-decade)
    steps = mantissas(series)
    at = bisect_left(steps, digits)
    if at < len(steps) and steps[at] == digits:
        return value, value
    above = Decimal(steps[at]) if at < len(steps) else Decimal(1000)
    return Decimal(steps[at - 1]).scaleb(decade), above.scaleb(decade)


def nearest(value: Decimal, series: int) -> Decimal:
    """The preferred value with the smallest ratio to a positive value in ohms.

    Examples
    --------
    >>> nearest(Decimal(4600), 12)
    Decimal('4.70E+3')
    """
    below, above = neighbours(value, series)
    return below if value / below <= above / value else above
