"""A wanted value made from two parts, against brute force."""

import itertools
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.resistors import Arrangement, Stocked, combinations

VALUES = st.lists(st.sampled_from([10.0, 15.0, 22.0, 33.0, 47.0, 68.0, 100.0, 470.0, 1000.0]), max_size=7, unique=True)


class Combinations(TestCase):
    @given(st.floats(1, 3000), VALUES, st.sampled_from([None, 1, 2]))
    def test_the_best_are_those_of_brute_force(self, wanted: float, values: list[float], count: int | None) -> None:
        at_hand = values if count == 1 else values * 2  # a lone part is not paired with itself
        made = list(values)
        for a, b in itertools.combinations(at_hand, 2):
            made += [a + b, 1 / (1 / a + 1 / b)]
        best = sorted({round(abs(value - wanted) / wanted, 9) for value in made})
        found = combinations(wanted, [Stocked(value, 0.05, count) for value in values], most=200)
        self.assertEqual(sorted({round(abs(one.error), 9) for one in found}), best)
        self.assertEqual([abs(one.error) for one in found], sorted(abs(one.error) for one in found))

    def test_tolerance_is_that_of_the_worst_corners(self) -> None:
        stock = [Stocked(1000.0, 0.05), Stocked(470.0, 0.01)]
        for one in combinations(1000.0, stock):
            corners = []
            for signs in itertools.product((-1, 1), repeat=len(one.parts)):
                x, *y = (part.value * (1 + sign * part.tolerance) for part, sign in zip(one.parts, signs, strict=True))
                corners.append(x if not y else x + y[0] if one.joined is Arrangement.SERIES else x * y[0] / (x + y[0]))
            self.assertAlmostEqual(one.limits[0], min(corners))
            self.assertAlmostEqual(one.limits[1], max(corners))
            self.assertGreaterEqual(one.value * (1 + one.tolerance) + 1e-9, max(corners))

    def test_what_nobody_has_is_not_offered(self) -> None:
        self.assertEqual(combinations(100.0, [Stocked(100.0, 0.05, 0)]), [])
        self.assertEqual([one.value for one in combinations(100.0, [Stocked(100.0, 0.05, 1)])], [100.0])
        for wanted in (0.0, -5.0, float("nan")):
            with self.assertRaises(ValueError):
                combinations(wanted, [])
