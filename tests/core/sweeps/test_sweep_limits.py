"""Every limit of a V–I table's line: on it, one step inside, one outside. Second opinions by numpy's polynomials."""

from unittest import TestCase

import numpy as np

from recensor.core.sweeps import FittedLine
from recensor.core.uncertainty import COVERAGE_FACTOR
from tests.core.sweeps.test_sweeps import METER, STRAIGHT, line_of, read

# A meter of many digits: what it explains is more than half a percent of the largest.
RESTLESS = {**METER, "functions": {
    "voltage": [{"full": "20V", "step": "1mV", "accuracy": "0.5% + 40", "input": "10M"}],
    "current": [{"full": "20mA", "step": "1uA", "accuracy": "1% + 40", "burden": "1", "jack": "mA"}],
}}  # fmt: skip


def line(volts: np.ndarray, amps: np.ndarray, places: int = 6, **more: object) -> FittedLine:
    rows = [(f"{v:.{places}f}", f"{1e3 * a:.{places}f}m") for v, a in zip(volts, amps, strict=True)]
    return line_of(read(rows, **more))


def squares_left(x: np.ndarray, y: np.ndarray, degree: int) -> float:
    return float(((y - np.polyval(np.polyfit(x, y, degree), x)) ** 2).sum())


class Limits(TestCase):
    def test_half_of_the_rows_against_the_other_half_are_nobodys_fault(self) -> None:
        for reversed_rows, left_out in ((1, 1), (2, 0)):
            rows = [(v, f"-{a}" if k < reversed_rows else a) for k, (v, a) in enumerate(STRAIGHT[:4])]
            self.assertEqual(len(line_of(read(rows)).left_out), left_out)
        rows = [(v, f"-{a}" if k < 2 else a) for k, (v, a) in enumerate(STRAIGHT)]
        self.assertEqual(len(line_of(read(rows)).left_out), 2)

    def test_a_curve_is_clearly_better_from_a_tenth_of_the_squares_of_four_points_from_a_hundredth(self) -> None:
        for count, limit in ((8, 0.1), (4, 0.01)):
            x = np.linspace(1e-3, 9e-3, count)
            wave = np.cos(np.pi * np.arange(count))
            wave -= np.polyval(np.polyfit(x, wave, 2), x)  # what no curve takes away
            curve = 60.0 * (x - x.mean()) ** 2 * 1e2
            found = []
            for share in (0.9 * limit, 1.1 * limit):
                bow = squares_left(x, curve, 1)
                y = 1e3 * x + curve + wave * np.sqrt(share / (1 - share) * bow / (wave**2).sum())
                self.assertAlmostEqual(squares_left(x, y, 2) / squares_left(x, y, 1), share, 3)
                found.append(line(y, x).straight)
            self.assertEqual(found[0], False, (count, found))
            self.assertIsNot(found[1], False)

    def test_a_point_is_stray_from_five_times_the_farthest_of_the_others(self) -> None:
        x = np.linspace(1e-3, 9e-3, 9)
        ripple = 2e-2 * np.array([1, -1, 1, -1, 0, -1, 1, -1, 1])
        others = np.arange(9) != 4
        fit = np.polyfit(x[others], (1e3 * x + ripple)[others], 1)
        farthest = np.abs((1e3 * x + ripple - np.polyval(fit, x))[others]).max()
        for times, stray in ((4.8, None), (5.2, 4)):
            y = 1e3 * x + ripple
            y[4] = np.polyval(fit, x[4]) + times * farthest * 4
            scale = line(y, x)
            self.assertEqual(scale.stray, 4)  # far beyond the limit it is told
            y[4] = np.polyval(fit, x[4]) + times * farthest
            self.assertEqual(line(y, x).stray, stray, times)

    def test_scatter_is_the_meters_up_to_four_times_its_variance(self) -> None:
        """The fit's own χ² says where the limit lies: four for each of the n − 2 that are free."""
        x = np.linspace(1e-3, 9e-3, 6)
        wave = np.array([1.0, -1.0, 1.0, 1.0, -1.0, 1.0])
        wave -= np.polyval(np.polyfit(x, wave, 1), x)
        seen = set()
        for size in np.linspace(0.03, 0.2, 35):
            found = line(1e3 * x + size * wave, x, 3, meters={"bench": RESTLESS})
            assert found.with_intercept is not None
            within = found.with_intercept.chi_squared <= 4.0 * (len(x) - 2)
            close = np.abs(found.with_intercept.residuals).max() <= 0.005 * 9.0
            seen.add(within)
            if not close:
                self.assertEqual(found.straight is True, bool(within), size)
        self.assertEqual(seen, {True, False})

    def test_the_slopes_uncertainty_has_both_gains_and_no_offset_that_both_share(self) -> None:
        """Digits shrink with the rows; of 0.5 % and 1 %, rectangular, the root of the sum of squares stays."""
        x = np.linspace(1e-3, 9e-3, 9)
        found = line(1018.0 * x, x, 3, meters={"bench": METER})
        assert found.spread is not None
        self.assertGreater(COVERAGE_FACTOR * found.spread.standard / 1018.0, 0.0125)
