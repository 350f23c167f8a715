"""Straight lines against published data sets and an independent fitting package."""

from unittest import TestCase

import numpy as np
from scipy import odr

from recensor.core.sweeps import fit_line

# NIST Statistical Reference Datasets, "NoInt1": y = 60 … 70 over x; certified values from memory, marked as such.
NO_INT_1_X = np.arange(60.0, 71.0)
NO_INT_1_Y = np.arange(130.0, 141.0)

# NIST Statistical Reference Datasets, "NoInt2"; data and certified values from memory.
NO_INT_2 = (np.array([4.0, 5.0, 6.0]), np.array([3.0, 4.0, 4.0]))

# NIST Statistical Reference Datasets, "Norris"; data and certified values from memory.
NORRIS_Y = (
    0.1, 338.8, 118.1, 888.0, 9.2, 228.1, 668.5, 998.5, 449.1, 778.9, 559.2, 0.3, 0.1, 778.1, 668.8, 339.3, 448.9,
    10.8, 557.7, 228.3, 998.0, 888.8, 119.6, 0.3, 0.6, 557.6, 339.3, 888.0, 998.5, 778.9, 10.2, 117.6, 228.9, 668.4,
    449.2, 0.2,
)  # fmt: skip
NORRIS_X = (
    0.2, 337.4, 118.2, 884.6, 10.1, 226.5, 666.3, 996.3, 448.6, 777.0, 558.2, 0.4, 0.6, 775.5, 666.9, 338.0, 447.5,
    11.6, 556.0, 228.1, 995.8, 887.6, 120.2, 0.3, 0.3, 556.8, 339.1, 887.2, 999.0, 779.0, 11.1, 118.3, 229.2, 669.1,
    448.9, 0.5,
)  # fmt: skip

# JCGM 100:2008, H.3: the calibration of a thermometer, corrections over t − 20 °C; from memory.
H3_T = (21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511)
H3_B = (-0.171, -0.169, -0.166, -0.159, -0.164, -0.165, -0.156, -0.157, -0.159, -0.161, -0.160)


class Published(TestCase):
    def test_norris(self) -> None:
        found = fit_line(np.array(NORRIS_X), np.array(NORRIS_Y), origin=False)
        assert found is not None
        self.assertAlmostEqual(found.slope, 1.00211681802045, 11)
        self.assertAlmostEqual(found.intercept, -0.262323073774029, 10)
        self.assertAlmostEqual(found.slope_error or 0, 0.429796848199937e-03, 11)
        self.assertAlmostEqual(found.intercept_error or 0, 0.232818234301152, 10)
        self.assertAlmostEqual(found.r_squared or 0, 0.999993745883712, 12)

    def test_no_intercept_one(self) -> None:
        found = fit_line(NO_INT_1_X, NO_INT_1_Y, origin=True)
        assert found is not None
        self.assertAlmostEqual(found.slope, 2.07438016528926, 13)
        self.assertAlmostEqual(found.slope_error or 0, 0.0165289256198347, 13)
        self.assertAlmostEqual(found.r_squared or 0, 0.999365492298663, 13)

    def test_no_intercept_two(self) -> None:
        found = fit_line(*NO_INT_2, origin=True)
        assert found is not None
        self.assertAlmostEqual(found.slope, 0.727272727272727, 13)
        self.assertAlmostEqual(found.slope_error or 0, 0.0420827318078432, 13)
        self.assertAlmostEqual(found.r_squared or 0, 0.993348115299335, 12)

    def test_a_calibration_line(self) -> None:
        """JCGM 100, H.3: y1 = −0.1712(29) °C, y2 = 0.00218(67) about 20 °C (from memory)."""
        found = fit_line(np.array(H3_T) - 20.0, np.array(H3_B), origin=False)
        assert found is not None
        self.assertAlmostEqual(found.intercept, -0.1712, 4)
        self.assertAlmostEqual(found.intercept_error or 0, 0.0029, 4)
        self.assertAlmostEqual(found.slope, 0.00218, 5)
        self.assertAlmostEqual(found.slope_error or 0, 0.00067, 5)


class BothUncertain(TestCase):
    def test_against_orthogonal_distance_regression(self) -> None:
        """scipy.odr minimises orthogonal distances: slope, intercept and both errors agree where these are small."""
        draw = np.random.default_rng(12)
        for trial in range(12):
            true = draw.uniform(50, 2000)
            amps = np.linspace(1e-3, 9e-3, int(draw.integers(5, 12)))
            u_x, u_y = draw.uniform(1e-6, 2e-5, len(amps)), draw.uniform(1e-3, 2e-2, len(amps)) * true / 1e3
            x, y = amps + draw.normal(0, u_x), true * amps + draw.normal(0, u_y)
            for origin in (False, True):
                ours = fit_line(x, y, u_x, u_y, origin=origin)
                assert ours is not None
                model = odr.Model((lambda b, at: b[0] * at) if origin else (lambda b, at: b[0] * at + b[1]))
                start = [true] if origin else [true, 0.0]
                theirs = odr.ODR(odr.RealData(x, y, sx=u_x, sy=u_y), model, beta0=start, maxit=200).run()
                with self.subTest(trial=trial, origin=origin):
                    self.assertAlmostEqual(ours.slope / theirs.beta[0], 1.0, 4)
                    self.assertAlmostEqual((ours.slope_error or 0) / theirs.sd_beta[0], 1.0, 1)
                    if not origin:
                        apart = abs(ours.intercept - theirs.beta[1])
                        self.assertLess(apart, 0.05 * theirs.sd_beta[1] + 1e-9)

    def test_points_at_one_place_give_no_slope(self) -> None:
        same = np.array([2.0, 2.0, 2.0])
        self.assertIsNone(fit_line(same, same, origin=False))
        self.assertIsNone(fit_line(np.zeros(3), np.zeros(3), origin=True))
