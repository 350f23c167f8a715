"""Measurement uncertainty by the rules of JCGM 100:2008 (GUM).

Standard uncertainties unless *expanded* is said; the expanded one is U = 2u.
"""

import math
from collections.abc import Hashable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

COVERAGE_FACTOR = 2.0

# Student's t for 95 % two-sided, by degrees of freedom from 1 on (JCGM 100, table G.2, with the usual third decimal).
_STUDENT_95 = (
    12.706, 4.303, 3.182, 2.776, 2.571, 2.447, 2.365, 2.306, 2.262, 2.228, 2.201, 2.179, 2.160, 2.145, 2.131,
    2.120, 2.110, 2.101, 2.093, 2.086, 2.080, 2.074, 2.069, 2.064, 2.060, 2.056, 2.052, 2.048, 2.045,
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Spread:
    """How far a number may be off, by the variables that cause it: a standard deviation with a sign for each.

    What two numbers share, such as a meter's gain, is one variable in both. In their difference its shares are
    added before anything is squared, so that it cancels as far as it is common (JCGM 100, 5.2).

    Examples
    --------
    >>> first, second = Spread({"gain": 3.0, "digits of one": 1.0}), Spread({"gain": 3.0, "digits of two": 1.0})
    >>> round((first - second).standard, 3), round((first + second).standard, 3)
    (1.414, 6.164)
    """

    shares: Mapping[Hashable, float]

    @property
    def standard(self) -> float:
        """The standard uncertainty."""
        return math.sqrt(sum(share * share for share in self.shares.values()))

    def apart_from(self, other: "Spread") -> float:
        """The standard uncertainty of the difference of two numbers: that of ``self - other``."""
        mine, others = self.shares, other.shares
        squares = sum((share - others.get(variable, 0.0)) ** 2 for variable, share in mine.items())
        return math.sqrt(squares + sum(share * share for variable, share in others.items() if variable not in mine))

    def times(self, factor: float) -> "Spread":
        """That of the number times an exact factor."""
        return Spread({variable: factor * share for variable, share in self.shares.items()})

    def __add__(self, other: "Spread") -> "Spread":
        shares = dict(self.shares)
        for variable, share in other.shares.items():
            shares[variable] = shares.get(variable, 0.0) + share
        return Spread(shares)

    def __sub__(self, other: "Spread") -> "Spread":
        return self + other.times(-1.0)


NO_SPREAD = Spread({})


def resolution_uncertainty(resolution: float) -> float:
    """Standard uncertainty of a digital reading whose last digit steps by `resolution` (JCGM 100, F.2.2.1)."""
    return resolution / math.sqrt(12.0)


def tolerance_uncertainty(nominal: float, tolerance: float) -> float:
    """Standard uncertainty of a part within ± `tolerance` (a ratio) of `nominal`, rectangular (JCGM 100, 4.3.7)."""
    return abs(nominal) * tolerance / math.sqrt(3.0)


def scatter_uncertainty(deviation: float, count: int) -> float:
    """Standard uncertainty of a mean from the sample standard deviation of `count` trials.

    It is widened by Student's factor, so that twice it still covers about 95 %.
    """
    return deviation / math.sqrt(count) * student_factor(count)


def student_factor(count: int) -> float:
    """Student's t for 95 % over the coverage factor for 2 to 30 trials; 1 beyond.

    Examples
    --------
    >>> round(student_factor(4), 3)
    1.591
    """
    return _STUDENT_95[count - 2] / COVERAGE_FACTOR if count < 2 + len(_STUDENT_95) else 1.0


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
