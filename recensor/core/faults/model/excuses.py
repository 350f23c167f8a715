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

# So many of these deviations is a mild oddity at most, a little more than by its limits.
_MILD_AT_MOST = 1.1 * math.sqrt(3.0)

# How likely it is beforehand that a bench is rough, or tidy, and how many of its readings are then mildly odd.
_BENCHES = ((0.3, 0.12), (0.7, 0.005))

# How likely one reading is wild, as a logarithm.
WILD = math.log(0.02)

# Where no excuse is worth its price alone, one more is tried: two may be worth theirs together.
_BEYOND = 1

_LOG_2PI = math.log(2.0 * math.pi)

Mask = NDArray[np.bool_]
Integers = NDArray[np.int64]


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

    `precision` is the inverse of the covariance of what is read; `left` what is left, multiplied by it; `log`
    (hypotheses,) is how likely what is read is, as a logarithm.
    """

    precision: Array
    left: Array
    log: Array

    @classmethod
    def of(cls, slopes: Array, weights: Array, ahead: Array) -> "Joint":
        """By slopes (hypotheses, readings, unknowns), the weights of the readings, and what is left with no unknown.

        A reading of weight 0 says nothing.
        """
        says = weights > 0
        scale = np.sqrt(np.where(says, weights, 1.0))  # in units of each reading's own noise, so that none is lost
        scaled = slopes * (scale * says)[:, :, None]
        ahead = ahead * scale * says
        covariance = scaled @ np.swapaxes(scaled, 1, 2)
        places = np.arange(slopes.shape[1])
        covariance[:, places, places] += 1.0
        logdet = 2.0 * np.log(np.diagonal(np.linalg.cholesky(covariance), axis1=1, axis2=2)).sum(axis=1)
        precision = np.linalg.inv(covariance)
        left = (precision @ ahead[:, :, None])[:, :, 0]
        log = -0.5 * ((left * ahead).sum(axis=1) + logdet + ((_LOG_2PI - 2.0 * np.log(scale)) * says).sum(axis=1))
        outer = (scale * says)[:, :, None] * scale[:, None, :]
        return cls(precision * outer, left * scale, log)

    def loosened(self, rows: Integers, spreads: Array) -> Array:
        """How the evidence of these changes where a reading is trusted only within so much more, as a logarithm.

        What lies farther from what all others say of it than a mild oddity is none.
        """
        own, left = self._own(rows), self.left[rows]
        looser = 1.0 + spreads**2 * own
        gained = 0.5 * ((spreads * left) ** 2 / looser - np.log(looser))
        return np.where(np.abs(left) <= own * _MILD_AT_MOST * spreads + np.sqrt(own), gained, -np.inf)

    def dropped(self, rows: Integers) -> Array:
        """The same where a reading says nothing."""
        own = np.maximum(self._own(rows), 1e-300)
        return np.asarray(0.5 * (_LOG_2PI - np.log(own) + self.left[rows] ** 2 / own))

    def _own(self, rows: Integers) -> Array:
        return np.maximum(np.diagonal(self.precision, axis1=1, axis2=2)[rows], 0.0)

    def excuse(self, rows: Integers, places: Integers, variances: Array) -> None:
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


def worth_excusing(joint: Joint, may: Excusable, counted: int, most: int) -> tuple[Array, list[Excuses]]:
    """Of each hypothesis what up to so many excuses add to its evidence, their price among it, and which they are."""
    count, readings = joint.left.shape
    table = prices(counted)
    mildly, wildly = np.zeros((count, readings), bool), np.zeros((count, readings), bool)
    gained = np.full(count, table[0])
    best, kept_mild, kept_wild = gained.copy(), mildly.copy(), wildly.copy()
    idle, rows = np.zeros(count, int), np.arange(count)
    for _ in range(min(most, max(1, readings // 2))):
        k, is_mild, is_wild = mildly[rows].sum(axis=1), mildly[rows], wildly[rows]
        step = (table[np.minimum(k + 1, counted)] - table[k])[:, None]
        back = np.where(is_mild, (table[np.maximum(k - 1, 0)] - table[k])[:, None], 0.0)
        mild = joint.loosened(rows, may.spreads[rows]) + step
        wild = joint.dropped(rows) + may.density + back
        both = np.concatenate([mild, wild], axis=1)
        both[~np.concatenate([may.mild[rows] & ~is_mild & ~is_wild, may.wild[rows] & ~is_wild], axis=1)] = -np.inf
        choice = np.argmax(both, axis=1)
        gain = both[np.arange(len(rows)), choice]
        goes_on = np.isfinite(gain)
        rows, choice, gain = rows[goes_on], choice[goes_on], gain[goes_on]
        if not len(rows):
            break
        places, gives_up = choice % readings, choice >= readings
        joint.excuse(rows, places, np.where(gives_up, np.inf, may.spreads[rows, places] ** 2))
        mildly[rows, places], wildly[rows, places] = ~gives_up, gives_up
        gained[rows] += gain
        better = rows[gained[rows] > best[rows]]
        idle[rows] += 1
        idle[better], best[better] = 0, gained[better]
        kept_mild[better], kept_wild[better] = mildly[better], wildly[better]
        rows = rows[idle[rows] <= _BEYOND]
    return best, [_excuses(one, other) for one, other in zip(kept_mild, kept_wild, strict=True)]


def _excuses(mild: Mask, wild: Mask) -> Excuses:
    if not (mild.any() or wild.any()):
        return NO_EXCUSES
    return Excuses(tuple(np.flatnonzero(mild).tolist()), tuple(np.flatnonzero(wild).tolist()))
