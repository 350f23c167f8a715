"""The same digits otherwise: with the other sign, another prefix or point, or two of them transposed."""

from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal
from itertools import pairwise

from recensor.core.figures import as_read
from recensor.core.quantity import FINEST, Quantity, QuantityError, parse

# What a bench meter shows lies between these, in the SI unit.
_LEAST, _MOST = Decimal("1e-9"), Decimal("1e9")


def turned(value: Quantity, unit: str) -> Quantity:
    """The same digits with the other sign, as if the leads had been the other way round.

    Examples
    --------
    >>> from recensor.core.quantity import VOLT
    >>> turned(parse("−2.83", VOLT), VOLT).text
    '2.83'
    """
    bare = value.text.strip().lstrip("+-−–")
    negative = value.value is not None and value.value < 0
    return parse(bare if negative else f"-{bare}", unit, value.beside)


def scaled(value: Quantity, power: int, unit: str) -> Quantity | None:
    """The same digits times a power of ten, written with their unit; None beyond what a bench meter shows.

    Examples
    --------
    >>> from recensor.core.quantity import AMPERE
    >>> scaled(parse("1.89", AMPERE), -3, AMPERE).text
    '1.89 mA'
    """
    if value.value is None or value.resolution is None or not value.value:
        return None
    factor = Decimal(10) ** power
    if not _LEAST < abs(value.value * factor) < _MOST:
        return None
    if value.resolution * factor < FINEST:
        return None  # no meter shows so many digits, and no text of them is read
    exact = replace(value, value=value.value * factor, resolution=value.resolution * factor)
    return parse(as_read(exact, unit).replace("−", "-"), unit)


def one_digit_other(value: Quantity, unit: str) -> Iterator[Quantity]:
    """The same text with one digit another; the first figure does not become a zero, which no display would show.

    Examples
    --------
    >>> from recensor.core.quantity import VOLT
    >>> len(list(one_digit_other(parse("2.83", VOLT), VOLT)))
    27
    """
    text = value.text
    digits = [k for k, character in enumerate(text) if character.isdigit()]
    for k in digits:
        for other in "0123456789":
            if other == text[k] or (k == digits[0] and other == "0" and len(digits) > 1 and text[k + 1 : k + 2] != "."):
                continue
            try:
                found = parse(f"{text[:k]}{other}{text[k + 1 :]}", unit, value.beside)
            except QuantityError:
                continue
            if found.value:
                yield found


def transposed(value: Quantity, unit: str) -> Iterator[Quantity]:
    """The same text with two neighbouring digits the other way round, for every two that differ.

    Examples
    --------
    >>> from recensor.core.quantity import VOLT
    >>> [one.text for one in transposed(parse("2.83", VOLT), VOLT)]
    ['8.23', '2.38']
    """
    text = value.text
    digits = [k for k, character in enumerate(text) if character.isdigit()]
    for one, other in pairwise(digits):
        if other - one > 2 or text[one] == text[other]:
            continue
        swapped = f"{text[:one]}{text[other]}{text[one + 1 : other]}{text[one]}{text[other + 1 :]}"
        try:
            yield parse(swapped, unit, value.beside)
        except QuantityError:
            continue
