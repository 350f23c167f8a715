"""Uncertainty against published figures, scipy and brute force."""

import math
from unittest import TestCase

import numpy as np
from scipy import stats

from recensor.core import uncertainty
from recensor.core.judgement import assess
from tests.written import chain, of, run, volts


class Published(TestCase):
    def test_simultaneous_resistance_and_reactance(self) -> None:
        """JCGM 100:2008, example H.2 (from memory): R = (V/I) cos φ from five simultaneous readings of each."""
        volts_read = [5.007, 4.994, 5.005, 4.990, 4.999]
        amperes_read = [19.663e-3, 19.639e-3, 19.640e-3, 19.685e-3, 19.678e-3]
        angles_read = [1.0456, 1.0438, 1.0468, 1.0428, 1.0433]
        observed = np.array([volts_read, amperes_read, angles_read])
        volt, ampere, angle = observed.mean(axis=1)
        self.assertAlmostEqual(volt, 4.9990)
        self.assertAlmostEqual(ampere, 19.6610e-3)
        self.assertAlmostEqual(angle, 1.04446)
        resistance = volt / ampere * math.cos(angle)
        self.assertAlmostEqual(resistance, 127.732, delta=0.0005)
        slopes = np.array([resistance / volt, -resistance / ampere, -volt / ampere * math.sin(angle)])
        self.assertAlmostEqual(uncertainty.propagate(slopes, np.cov(observed) / 5), 0.071, delta=0.0005)

    def test_students_factor_is_scipys(self) -> None:
        for count in range(2, 31):
            self.assertAlmostEqual(uncertainty.student_factor(count), stats.t.ppf(0.975, count - 1) / 2, places=3)
        self.assertEqual(uncertainty.student_factor(31), 1.0)


class Propagated(TestCase):
    def test_tolerances_against_a_monte_carlo_of_the_same_divider(self) -> None:
        """A second method: 200 000 draws from the rectangular distributions that the tolerances stand for."""
        parts, connections = chain("2.2k", "1k", source="5")
        _, target = assess(run(parts, connections, of("V1", "5.00"), volts("B", "gnd", "1.56"))).targets.values()
        draw = np.random.default_rng(20260301)
        r1, r2 = (nominal * draw.uniform(0.95, 1.05, 200_000) for nominal in (2200.0, 1000.0))
        source = draw.normal(5.0, 0.01 / math.sqrt(12), 200_000)
        spread = np.std(source * r2 / (r1 + r2))
        self.assertAlmostEqual(target.judged.measured.standard / spread, 1.0, delta=0.01)
