"""Which range to take: the smallest that holds the value, of those that manual meters usually have."""

from recensor.core.meters.profile import SHIPPED, Profile
from recensor.core.quantity import Measurand

_USUAL = SHIPPED["3½-digit manual"]


def usual_range(measurand: Measurand, value: float, profile: Profile = _USUAL) -> float:
    """The full scale of the smallest range that holds a value, both in the SI unit; the largest where none does.

    Examples
    --------
    >>> usual_range(Measurand.CURRENT, 0.00247), usual_range(Measurand.VOLTAGE, 9.0)
    (0.02, 20.0)
    """
    ranges = profile.ranges[measurand]
    return next((one.full for one in ranges if one.full > abs(value)), ranges[-1].full)
