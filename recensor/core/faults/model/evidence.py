"""How well each hypothesis explains what was read: Gaussian evidence, by Laplace's method at the best unknowns.

The unknowns are few and their slopes known, so that the evidence of a hypothesis is a determinant and a sum of squares
(MacKay, 1992, "Bayesian interpolation", from memory). The determinant is what keeps flexible hypotheses honest.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from recensor.core.faults.model.batch import Batch
from recensor.core.faults.model.excuses import MILD_SPREAD, Excusable, Excuses, Joint, worth_excusing
from recensor.core.faults.model.prediction import FaultModel, Predicted
from recensor.core.solving import OPEN_OHMS
from recensor.core.uncertainty import Array

# An over-range is met where the value is beyond the range, and hardly anywhere else.
_OVER, _NOT_OVER = np.log(0.99), np.log(0.005)

# How sure it is what is seen of a light.
_SEEN, _NOT_SEEN = np.log(0.95), np.log(0.05)

# No unknown is looked for farther away than this, in standard deviations, nor moved farther in one step.
_FARTHEST, _LONGEST_STEP = 6.0, 3.0

# What one reading can say of an unknown at most: the square of so many standard deviations to one.
_STEEPEST = 1e9

# At a glance every reading may be off by this share more, and one that is off by more than enough says no more.
_ROUGH, _ENOUGH = 0.02, 1e4

# For a first impression so many readings are excused at most.
_EXCUSED_AT_FIRST = 6

_LOG_2PI = np.log(2.0 * np.pi)


@dataclass(frozen=True)
class Evidence:
    """Of each hypothesis: the logarithm of its evidence, the unknowns and what they predict.

    `covariance` (hypotheses, unknowns, unknowns) is that of the unknowns afterwards; all in standard deviations.
    """

    log: Array
    at: Array
    covariance: Array
    predicted: Predicted

    @property
    def by_unknowns(self) -> Array:
        """The variances of what is predicted by what is still not known, (hypotheses, readings)."""
        slopes = self.predicted.slopes
        return np.asarray(((slopes @ self.covariance) * slopes).sum(axis=2))

    def misfits(self, batch: Batch) -> Array:
        """How far each reading lies from what is predicted of it, in standard deviations, (hypotheses, readings).

        0 of a reading that says nothing.
        """
        own = self.plain_variances(batch)
        away = (batch.values - self.predicted.shown) / np.sqrt(own + self.by_unknowns)
        return np.where(batch.counts, away, 0.0)

    def plain_variances(self, batch: Batch) -> Array:
        """What is each reading's own where none is excused."""
        return np.asarray(self.predicted.variances - (batch.loose * np.abs(self.predicted.shown)) ** 2)

    def worth_excusing(self, batch: Batch, density: Array, *, wild: NDArray[np.bool_]) -> tuple[Array, list[Excuses]]:
        """What excuses would be worth to each hypothesis, by the slopes where it came to; `wild`: who may have such."""
        own, predicted = self.plain_variances(batch), self.predicted
        weights = _weights(batch.counts, predicted.slopes, own)
        ahead = batch.values - predicted.shown + (predicted.slopes @ self.at[:, :, None])[:, :, 0]
        may = _excusable(batch, MILD_SPREAD * np.abs(predicted.shown), density, wild)
        return worth_excusing(Joint.of(predicted.slopes, weights, ahead), may, len(density), len(density))


@dataclass(frozen=True)
class Whitening:
    """What makes readings independent that have much in common while nothing is wrong: (readings, readings)."""

    inverse: Array

    @classmethod
    def of(cls, model: FaultModel) -> "Whitening":
        """By one factorisation for every hypothesis that is glanced at."""
        batch = model.batch(1)
        predicted = model.predict(batch, model.start_of(batch), common=True)
        slopes, values = predicted.slopes[0], model.observed.values
        own = predicted.variances[0] + (_ROUGH * values) ** 2
        covariance = slopes @ slopes.T + np.diag(np.maximum(own, 1e-24))
        return cls(np.linalg.inv(np.linalg.cholesky(covariance)))


def prefilter(batch: Batch, shown: Array, whitening: Whitening) -> Array:
    """How well the readings fit what would be `shown`, as a logarithm; only for choosing what to screen."""
    return likeness(np.where(batch.says, batch.values - shown, 0.0), whitening)


def likeness(left: Array, whitening: Whitening) -> Array:
    """How likely it is that so much is left of each reading, (hypotheses, readings), as a logarithm."""
    return np.asarray(-0.5 * np.minimum((left @ whitening.inverse.T) ** 2, _ENOUGH).sum(axis=1))


def linear_score(model: FaultModel, batch: Batch, variances: Array, density: Array) -> tuple[Array, list[Excuses]]:
    """The logarithm of the evidence by one linear step from where the search begins; for choosing what to refine.

    `variances` (readings,) are taken from the readings themselves, the same for every hypothesis. What each excuses
    comes with it.
    """
    at = model.start_of(batch)
    predicted = model.predict(batch, at, common=True)
    weights = _weights(batch.says, predicted.slopes, variances)
    ahead = batch.values - predicted.shown + (predicted.slopes @ at[:, :, None])[:, :, 0]
    joint = Joint.of(predicted.slopes, weights, ahead)
    log = joint.log + batch.extra + _over_range(model, batch, predicted)
    may = _excusable(batch, MILD_SPREAD * np.abs(batch.values), density, np.ones(len(batch), bool))
    gained, excuses = worth_excusing(joint, may, len(density), _EXCUSED_AT_FIRST)
    return log + gained, excuses


def _excusable(batch: Batch, spreads: Array, density: Array, wild: NDArray[np.bool_]) -> Excusable:
    """What may be excused: what a hypothesis says of a reading stands, within a mild oddity."""
    return Excusable(spreads, density, batch.counts & ~batch.firm, wild[:, None] & ~batch.is_rewritten)


def _weights(counts: NDArray[np.bool_], slopes: Array, variances: Array) -> Array:
    """The weight of each reading; of one that hangs on an open more steeply than can be counted with it is less."""
    steepest = (slopes**2).max(axis=2)
    return np.asarray(np.where(counts, 1.0 / np.maximum(variances, steepest / _STEEPEST), 0.0))


def refined(model: FaultModel, batch: Batch, *, steps: int = 4, begin: Array | None = None) -> Evidence:
    """The evidence at the best unknowns, found by so many Gauss–Newton steps from where the search begins.

    `begin` are unknowns to go on from, (hypotheses, unknowns).

    The noise is that of what is predicted, never of the reading, which may be what is wrong.
    """
    at = model.start_of(batch) if begin is None else begin
    best_log, best = np.full(len(batch), -np.inf), at
    for step in range(steps + 1):
        predicted = model.predict(batch, at)
        log, target, covariance = _laplace(model, batch, at, predicted)
        better = log > best_log
        if step == 0:
            best_log, best, kept, spread = log, at.copy(), predicted, covariance
        elif better.any():
            best_log = np.where(better, log, best_log)
            best = np.where(better[:, None], at, best)
            spread = np.where(better[:, None, None], covariance, spread)
            kept = _chosen(better, predicted, kept)
        if step < steps:
            move = np.clip(target - at, -_LONGEST_STEP, _LONGEST_STEP)
            at = np.clip(at + move, -_FARTHEST, _FARTHEST)
    return Evidence(best_log, best, spread, kept)


def _laplace(model: FaultModel, batch: Batch, at: Array, predicted: Predicted) -> tuple[Array, Array, Array]:
    """The evidence at a place, where the next step leads, and the covariance there."""
    slopes = predicted.slopes
    weights = _weights(batch.says, slopes, predicted.variances)
    left = batch.values - predicted.shown
    weighted = slopes * weights[:, :, None]
    matrix = np.swapaxes(slopes, 1, 2) @ weighted
    matrix[:, range(matrix.shape[1]), range(matrix.shape[1])] += 1.0
    ahead = left + (slopes @ at[:, :, None])[:, :, 0]
    covariance = np.asarray(np.linalg.inv(matrix), np.float64)
    target = (covariance @ (np.swapaxes(weighted, 1, 2) @ ahead[:, :, None]))[:, :, 0]
    logdet = 2.0 * np.log(np.diagonal(np.linalg.cholesky(matrix), axis1=1, axis2=2)).sum(axis=1)
    spread = np.where(batch.says, np.log(predicted.variances) + _LOG_2PI, 0.0).sum(axis=1)
    squares = (left**2 * weights).sum(axis=1) + (at**2).sum(axis=1)
    log = -0.5 * (squares + logdet + spread) + batch.extra + _over_range(model, batch, predicted)
    return log, target, covariance


def _over_range(model: FaultModel, batch: Batch, predicted: Predicted) -> Array:
    """What the over-range readings say, and what was seen of lights."""
    found = np.zeros(len(batch))
    for k, over_range in enumerate(model.observed.over_range):
        there = np.abs(predicted.at_points[:, over_range.row])
        beyond = (there > over_range.limit) | (there > OPEN_OHMS)
        found += np.where(batch.is_over[:, k], np.where(beyond, _OVER, _NOT_OVER), _OVER)
    for seen in model.observed.seen:
        watts = np.abs(predicted.at_points[:, seen.volts] * predicted.at_points[:, seen.amperes])
        found += np.where((watts < seen.watts) == seen.is_dark, _SEEN, _NOT_SEEN)
    return found


def _chosen(which: NDArray[np.bool_], predicted: Predicted, other: Predicted) -> Predicted:
    """For each hypothesis the one prediction or the other."""
    return Predicted(
        np.where(which[:, None], predicted.shown, other.shown),
        np.where(which[:, None, None], predicted.slopes, other.slopes),
        np.where(which[:, None], predicted.variances, other.variances),
        np.where(which[:, None], predicted.at_points, other.at_points),
    )
