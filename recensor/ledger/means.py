"""What was read at a target, written out: a mean of several readings has one digit more than they have."""

from recensor.core.figures import with_digits
from recensor.core.judgement import Measurement


def mean_text(measurement: Measurement, unit: str) -> str:
    """The mean of a target's readings, or ``over-range``."""
    if measurement.mean is None:
        return "over-range"
    digit = measurement.resolution / 10 if measurement.count > 1 else measurement.resolution
    return with_digits(measurement.mean, digit, unit)
