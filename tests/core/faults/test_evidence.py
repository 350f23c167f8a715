"""Evidence against a direct multivariate normal and against brute-force Monte Carlo; slopes against differences."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from scipy.stats import multivariate_normal

from recensor.core.faults.candidate import FaultContext
from recensor.core.faults.context import fault_context
from recensor.core.faults.hypotheses import HYPOTHESES
from recensor.core.faults.model.changes import (
    AmmeterBurden,
    Change,
    Fitted,
    IdealMeters,
    ResistanceIs,
    SourceResistance,
)
from recensor.core.faults.model.evidence import refined
from recensor.core.judgement import assess
from tests.core.faults.benches import drawn, read
from tests.samples import samples

SMALL = "9V 2%: 1k 5% + 2k2 5%"


def scene_of(line: str = SMALL, circuit: dict[str, float] | None = None) -> FaultContext:
    """The context of a run."""
    found = fault_context(assess(read(drawn(line), circuit)))
    if found is None:
        raise AssertionError("something was read")
    return found


def weighed(context: FaultContext, changes: tuple[Change, ...], *, start: int = 0) -> tuple[float, np.ndarray]:
    """The logarithm of the evidence, and the unknowns found."""
    batch = context.model.batch(1)
    for change in changes:
        change.write(batch, 0, start)
    found = refined(context.model, batch, steps=8)
    return float(found.log[0]), found.at[0]


class Evidence(TestCase):
    def test_it_is_that_of_the_multivariate_normal(self) -> None:
        """Where the model is all but linear: N(y; m, J Jᵀ + R), with the noise of what is predicted."""
        context = scene_of()
        log, at = weighed(context, (IdealMeters(),))
        batch = context.model.batch(1)
        IdealMeters().write(batch, 0, 0)
        there = context.model.predict(batch, at[None])
        slopes, variances = there.slopes[0], there.variances[0]
        mean = there.shown[0] - slopes @ at
        covariance = slopes @ slopes.T + np.diag(variances)
        size = np.sqrt(np.diag(covariance))  # amperes beside ohms would look singular
        left = (context.observed.values - mean) / size
        direct = multivariate_normal.logpdf(left, np.zeros(len(left)), covariance / np.outer(size, size))
        self.assertAlmostEqual(log, float(direct) - float(np.log(size).sum()), delta=0.05)

    def test_it_is_what_brute_force_finds(self) -> None:
        """Two unknowns that matter, drawn a hundred thousand times: the mean likelihood is the evidence."""
        context = scene_of(circuit={"R2": 1400.0})
        model, draw = context.model, np.random.default_rng(3)
        changes: tuple[Change, ...] = (
            IdealMeters(),
            ResistanceIs("R2", fitted=Fitted(-0.4, 0.3), out_of_circuit=False),
        )
        log, _ = weighed(context, changes)
        total, count = [], 400
        for _ in range(250):
            batch = model.batch(count)
            for change in changes:
                for h in range(count):
                    change.write(batch, h, 0)
            # Around the best, by importance: the posterior's own spread, twice as wide.
            best = refined(model, batch, steps=8)
            covariance = 2.0 * best.covariance[0]
            at = draw.multivariate_normal(best.at[0], covariance, count)
            there = model.predict(batch, at)
            left = batch.values - there.shown
            likelihood = -0.5 * (left**2 / there.variances + np.log(2 * np.pi * there.variances)).sum(axis=1)
            prior = -0.5 * (at**2).sum(axis=1) - 0.5 * at.shape[1] * math.log(2 * math.pi)
            drawn_from = multivariate_normal.logpdf(at, best.at[0], covariance, allow_singular=True)
            total.append(np.logaddexp.reduce(likelihood + prior - drawn_from))
            if len(total) == samples(12, 25):
                break
        sampled = float(np.logaddexp.reduce(total)) - math.log(count * len(total))
        self.assertAlmostEqual(log, sampled, delta=0.35)

    def test_slopes_are_those_of_finite_differences(self) -> None:
        """Of every hypothesis that changes something, by every unknown."""
        context = scene_of("9V 2%: 1k 5% + (2k2 5% | 3k3 5%)", {"R2": 1500.0})
        model = context.model
        tried = [c.changes for hypothesis in HYPOTHESES for c in list(hypothesis(context))[:2]]
        tried += [(SourceResistance("V1", Fitted(3.0, 1.0)),), (AmmeterBurden(Fitted(2.0, 1.0), same_ohms=True),)]
        batch = model.batch(len(tried))
        for h, changes in enumerate(tried):
            for change in changes:
                change.write(batch, h, 0)
        at, step = np.full((len(tried), model.unknowns), 0.1), 1e-4
        slopes = model.predict(batch, at).slopes
        for k in range(model.unknowns):
            more, less = at.copy(), at.copy()
            more[:, k] += step
            less[:, k] -= step
            differences = (model.predict(batch, more).shown - model.predict(batch, less).shown) / (2.0 * step)
            scale = np.abs(batch.values) + np.abs(differences) + 1e-6
            # What a meter meets is taken as it stands: how that changes is left out of the slopes.
            np.testing.assert_allclose(slopes[:, :, k] / scale, differences / scale, atol=1e-2)

    def test_noise_is_that_of_what_is_predicted_and_not_of_the_slip(self) -> None:
        context = scene_of()
        batch = context.model.batch(1)
        plain = context.model.predict(batch, context.model.start_of(batch)).variances
        batch.values[0, 0] *= 1000.0
        self.assertEqual(plain.tolist(), context.model.predict(batch, context.model.start_of(batch)).variances.tolist())

    def test_a_run_without_readings_says_nothing(self) -> None:
        run = replace(read(drawn(SMALL)), readings=())
        self.assertIsNone(fault_context(assess(run)))
