"""Measurement uncertainty by the rules of JCGM 100:2008 (GUM).

Standard uncertainties unless *expanded* is said; the expanded one is U = 2u.
"""

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

COVERAGE_FACTOR = 2.0

# Student's t for 95 % two-sided, by degrees of freedom (JCGM 100, table G.2).
_STUDENT_95 = {1: 12.706, 2: 4.303, 3: 3.182, 4: 2.776, 5: 2.571, 6: 2.447, 7: 2.365, 8: 2.306}


def resolution_uncertainty(resolution: float) -> float:
    """Standard uncertainty of a digital reading whose last digit steps by `resolution` (JCGM 100, F.2.2.1)."""
    return resolution / math.sqrt(12.0)


def tolerance_uncertainty(nominal: float, tolerance: float) -> float:
    """Standard uncertainty of a part within ± `tolerance` (a ratio) of `nominal`, rectangular (JCGM 100, 4.3.7)."""
    return abs(nominal) * tolerance / math.sqrt(3.0)


def meter_uncertainty(resolutions: Sequence[float]) -> float:
    """Standard uncertainty that the meter puts on the mean of readings with these last digits.

    From resolution only. The meter's share is common to all trials and does not shrink with their number.
    """
    return sum(resolution_uncertainty(resolution) for resolution in resolutions) / len(resolutions)


def scatter_uncertainty(deviation: float, count: int) -> float:
    """Standard uncertainty of a mean from the sample standard deviation of `count` trials.

    Below ten trials it is widened by Student's factor, so that twice it still covers about 95 %.
    """
    return deviation / math.sqrt(count) * student_factor(count)


def student_factor(count: int) -> float:
    """Student's t for 95 % over the coverage factor for 2 ≤ `count` < 10 trials; 1 from ten on.

    Examples
    --------
    >>> round(student_factor(4), 3)
    1.591
    """
    return _STUDENT_95[count - 1] / COVERAGE_FACTOR if count < 10 else 1.0


def propagate(sensitivities: Array, covariance: Array) -> Array:
    """Combined standard uncertainty √(s · C · s) (JCGM 100, 5.2.2).

    `sensitivities` has shape (n,), or (answers, n) for several answers at once, which gives one uncertainty each;
    `covariance` has shape (n, n), or (n,) for variances of independent quantities.
    """
    weighted = sensitivities * covariance if covariance.ndim == 1 else sensitivities @ covariance
    return np.asarray(np.sqrt(np.maximum(0.0, (sensitivities * weighted).sum(axis=-1))))


def expanded(standard: float | None) -> float | None:
    """Expanded uncertainty U = 2u; None stays None."""
    return None if standard is None else COVERAGE_FACTOR * standard
