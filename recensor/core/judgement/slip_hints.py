"""What a reading that does not fit looks like: the commonest slips at the bench, in one sentence.

The causes are common practice, no source.
"""

from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand

_ZERO = {
    RESISTANCE: " Zero: the probes touch each other, both are on one node, or the range is far too large.",
    VOLTAGE: " Zero: probes in empty rows, an open elsewhere in the loop, or a range far too large.",
    CURRENT: " Zero: an open in this branch, both probes in one row, a blown meter fuse, or a range far too large.",
}


def hint(value: float, calculated: float, allowed: float, measurand: Measurand) -> str:
    """A sentence on what could explain a value outside, with a space before it; empty when nothing stands out.

    `allowed` is how far off `calculated` still agrees, in the same SI unit.
    """
    if value == 0.0:
        return _ZERO[measurand]
    if measurand is RESISTANCE and value < 0:
        return " A resistance below zero: the circuit was powered, or the meter's zero is off."
    if abs(value + calculated) <= allowed:
        return " The size fits and the sign is turned: the leads are swapped, or the direction really is so."
    return power_of_ten(value, calculated, allowed)


def power_of_ten(value: float, calculated: float, allowed: float) -> str:
    """A sentence on a value that is off by just a power of ten."""
    for exponent in (1, -1, 2, -2, 3, -3):
        if abs(value / 10.0**exponent - calculated) <= allowed:
            times = f"{10 ** abs(exponent)} times too {'large' if exponent > 0 else 'small'}"
            return f" It is {times}: a decimal point or a prefix."
    return ""
