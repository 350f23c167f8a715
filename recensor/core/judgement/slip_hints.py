"""What a reading that does not fit looks like: the commonest slips at the bench, in one sentence.

The causes are common practice, no source.
"""

from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.sentences import say

_ZERO = {
    RESISTANCE: say("judgement.zero_ohms"),
    VOLTAGE: say("judgement.zero_volts"),
    CURRENT: say("judgement.zero_amperes"),
}


def hint(value: float, calculated: float, allowed: float, measurand: Measurand) -> str:
    """A sentence on what could explain a value outside; empty when nothing stands out.

    `allowed` is how far off `calculated` still agrees, in the same SI unit.
    """
    if value == 0.0:
        return _ZERO[measurand]
    if measurand is RESISTANCE and value < 0:
        return say("judgement.resistance_below_zero")
    if abs(value + calculated) <= allowed:
        return say("judgement.size_fits_and_sign_is_turned")
    return power_of_ten(value, calculated, allowed)


def power_of_ten(value: float, calculated: float, allowed: float) -> str:
    """A sentence on a value that is off by just a power of ten; empty for any other."""
    for exponent in (1, -1, 2, -2, 3, -3):
        if abs(value / 10.0**exponent - calculated) <= allowed:
            kind = "judgement.times_too_large" if exponent > 0 else "judgement.times_too_small"
            return say(kind, times=10 ** abs(exponent))
    return ""
