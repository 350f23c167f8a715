"""Readings that a hypothesis gives up, at a price: mildly odd ones, trusted within some percent, and wild ones.

How rough a bench is nobody knows beforehand: a tidy bench hardly has an odd reading, a rough one has one in eight. So
the first mild excuse costs much and the next ones little. A wild one could be anything of the size of what is read.
What to excuse is found for many hypotheses at once, one reading of each after the other, by the change of the evidence
in closed form; it is as good as the place at which the slopes were taken, so it is asked again where that has moved.
"""

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from recensor.core.uncertainty import Array

# A mild oddity lies within so much of what is predicted, as a ratio; and its standard deviation.
MILD = 0.05
MILD_SPREAD = MILD / math.sqrt(3.0)

# How likely it is beforehand that a bench is rough, or tidy, and how many of its readings are then mildly odd.
_BENCHES = ((0.3, 0.12), (0.7, 0.005))

# How likely one reading is wild, as a logarithm.
WILD = math.log(0.02)

# Where no excuse is worth its price alone, so many more are tried: two may be worth theirs together.
_BEYOND = 2

_LOG_2PI = math.log(2.0 * math.pi)

Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Excuses:
    """The places of the readings that a hypothesis gives up."""

    mild: tuple[int, ...] = ()
    wild: tuple[int, ...] = ()

    @property
    def places(self) -> tuple[int, ...]:
        """All of them."""
        return (*self.mild, *self.wild)

    def without(self, places: frozenset[int]) -> "Excuses":
        """Those that are not at these places."""
        mild, wild = (tuple(k for k in some if k not in places) for some in (self.mild, self.wild))
        return Excuses(mild, wild)


NO_EXCUSES = Excuses()


@cache
def prices(readings: int) -> Array:
    """The logarithm of the chance of 0, 1, … mild oddities among so many readings."""
    k = np.arange(readings + 1)
    benches = [math.log(share) + k * math.log(odd) + (readings - k) * math.log1p(-odd) for share, odd in _BENCHES]
    return np.asarray(np.logaddexp(*benches), np.float64)


@dataclass
class Joint:
    """What is left of each reading, and how it hangs together: of many hypotheses, (hypotheses, readings[, readings]).

    `precision` is the inverse of the covariance of what is read; `left` what is left, multiplied by it.
    """

    precision: Array
    left: Array

    @classmethod
    def of(cls, slopes: Array, weights: Array, ahead: Array) -> "Joint":
        """By slopes (hypotheses, readings, unknowns), the weights of the readings, and what is left with no unknown."""
        weighted = slopes * weights[:, :, None]
        matrix = np.swapaxes(slopes, 1, 2) @ weighted
        matrix[:, range(matrix.shape[1]), range(matrix.shape[1])] += 1.0
        precision = -weighted @ np.linalg.solve(matrix, np.swapaxes(weighted, 1, 2))
        places = np.arange(slopes.shape[1])
        precision[:, places, places] += weights
        return cls(precision, (precision @ ahead[:, :, None])[:, :, 0])

    def loosened(self, spreads: Array) -> Array:
        """How the evidence changes where a reading is trusted only within so much more, as a logarithm."""
        looser = 1.0 + spreads**2 * self._own()
        return np.asarray(0.5 * ((spreads * self.left) ** 2 / looser - np.log(looser)))

    def dropped(self) -> Array:
        """The same where a reading says nothing."""
        own = np.maximum(self._own(), 1e-300)
        return np.asarray(0.5 * (_LOG_2PI - np.log(own) + self.left**2 / own))

    def _own(self) -> Array:
        return np.maximum(np.diagonal(self.precision, axis1=1, axis2=2), 0.0)

    def excuse(self, rows: NDArray[np.int64], places: NDArray[np.int64], variances: Array) -> None:
        """Add so much variance to a reading of each of these hypotheses; infinitely much where it says nothing."""
        column = self.precision[rows, :, places]
        own = np.maximum(column[np.arange(len(rows)), places], 1e-300)
        factor = np.where(np.isinf(variances), 1.0 / own, 1.0 / (1.0 / np.maximum(variances, 1e-300) + own))
        left = self.left[rows, places]
        self.precision[rows] -= factor[:, None, None] * column[:, :, None] * column[:, None, :]
        self.left[rows] -= (factor * left)[:, None] * column


@dataclass(frozen=True)
class Excusable:
    """What may be excused of whom, (hypotheses, readings).

    `spreads` are the standard deviations of mild oddities in the unit of each reading, `density` the logarithm of the
    chance of a wild one.
    """

    spreads: Array
    density: Array
    mild: Mask
    wild: Mask


def worth_excusing(joint: Joint, may: Excusable, counted: int) -> tuple[Array, list[Excuses]]:
    """Of each hypothesis what excuses add to its evidence, their price among it, and which they are."""
    count, readings = joint.left.shape
    table = prices(counted)
    rows = np.arange(count)
    mildly, wildly = np.zeros((count, readings), bool), np.zeros((count, readings), bool)
    gained = np.full(count, table[0])
    best, kept_mild, kept_wild = gained.copy(), mildly.copy(), wildly.copy()
    idle = np.zeros(count, int)
    for _ in range(max(1, readings // 2)):
        k = mildly.sum(axis=1)
        step = table[np.minimum(k + 1, counted)] - table[k]
        mild = np.where(may.mild & ~mildly & ~wildly, joint.loosened(may.spreads) + step[:, None], -np.inf)
        back = np.where(mildly, (table[np.maximum(k - 1, 0)] - table[k])[:, None], 0.0)
        wild = np.where(may.wild & ~wildly, joint.dropped() + may.density + back, -np.inf)
        both = np.concatenate([mild, wild], axis=1)
        choice = np.argmax(both, axis=1)
        gain = both[rows, choice]
        goes_on = np.isfinite(gain) & (idle <= _BEYOND)
        if not goes_on.any():
            break
        chosen, is_wild = rows[goes_on], choice[goes_on] >= readings
        places = choice[goes_on] % readings
        variances = np.where(is_wild, np.inf, may.spreads[chosen, places] ** 2)
        joint.excuse(chosen, places, variances)
        gained[chosen] += gain[goes_on]
        mildly[chosen, places], wildly[chosen, places] = ~is_wild, is_wild
        better = gained > best
        idle = np.where(better, 0, idle + 1)
        best = np.where(better, gained, best)
        kept_mild[better], kept_wild[better] = mildly[better], wildly[better]
    excuses = [
        Excuses(tuple(np.flatnonzero(one).tolist()), tuple(np.flatnonzero(other).tolist()))
        for one, other in zip(kept_mild, kept_wild, strict=True)
    ]
    return best, excuses
