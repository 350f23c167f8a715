"""Sorting a handful: where each part goes, and what a bin's parts say together."""

import math
from decimal import Decimal
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.meters import DISPLAYS, Accuracy, AccuracyError, display_step, parse_accuracy
from recensor.core.resistors.preferred_values import mantissas, nearest
from recensor.core.resistors.sorting import BinPlace, Bins, Tally

E12 = tuple(float(m * 10**decade) for decade in range(3) for m in mantissas(12))
BINS = Bins(E12, (0.05,) * len(E12))
READINGS = st.lists(st.tuples(st.floats(80, 1e5), st.sampled_from([0.1, 1.0, 10.0])), min_size=1, max_size=40)


class Places(TestCase):
    def test_a_part_goes_to_the_nearest_bin_within_tolerance(self) -> None:
        for value, place, nominal in [
            (470.0, BinPlace.WITHIN, 470),
            (492.0, BinPlace.WITHIN, 470),
            (493.5, BinPlace.CANNOT_TELL, 470),  # on the edge
            (500.0, BinPlace.OUT, 470),
            (89.0, BinPlace.STRAY, 100),
            (40.0, BinPlace.STRAY, 100),
            (5e6, BinPlace.STRAY, 82000),
        ]:
            placed = BINS.place(value, 1.0)
            self.assertEqual((placed.place, E12[placed.bin]), (place, nominal), value)
            self.assertAlmostEqual(placed.deviation, value / nominal - 1)

    @given(st.floats(100, 8e4))
    def test_the_nearest_bin_is_the_nearest_preferred_value(self, value: float) -> None:
        found = E12[BINS.place(value, 1.0).bin]
        wanted = float(nearest(Decimal(repr(value)), 12))
        # On the border between two bins either may be taken.
        self.assertTrue(math.isclose(found, wanted) or math.isclose(max(value / found, found / value),
                                                                    max(value / wanted, wanted / value)))  # fmt: skip

    def test_a_meter_that_is_known_widens_the_edge(self) -> None:
        known = Bins((1000.0,), (0.05,), Accuracy(0.8, 2))
        self.assertIs(known.place(1045.0, 1.0).place, BinPlace.CANNOT_TELL)
        self.assertIs(Bins((1000.0,), (0.05,)).place(1045.0, 1.0).place, BinPlace.WITHIN)


class Tallies(TestCase):
    @given(READINGS, READINGS)
    def test_taking_back_leaves_what_stood_before(self, kept: list, slips: list) -> None:
        tally, fresh = Tally(BINS), Tally(BINS)
        for value, step in kept + slips:
            tally.add([value], [step])
        tally.add(*zip(*slips, strict=True), times=-1)
        fresh.add(*zip(*kept, strict=True))
        self.assertEqual((tally.strays, tally.in_use), (fresh.strays, fresh.in_use))
        for which in fresh.in_use:
            one, other = tally.summary(which), fresh.summary(which)
            self.assertEqual((one.count, one.undecided, one.out, one.columns),
                             (other.count, other.undecided, other.out, other.columns))  # fmt: skip
            for name in ("mean", "deviation", "scatter", "meter"):
                mine, theirs = getattr(one, name), getattr(other, name)
                self.assertEqual(mine is None, theirs is None)
                if mine is not None:
                    self.assertAlmostEqual(mine, theirs, places=6)

    def test_mean_and_spread_are_numpys(self) -> None:
        values = np.random.default_rng(7).normal(1008.0, 9.0, 300).round(1)
        tally = Tally(BINS)
        tally.add(values, [0.1] * 300)
        summary = tally.summary(E12.index(1000.0))
        self.assertEqual((summary.count, sum(summary.columns), tally.strays), (300, 300, 0))
        self.assertAlmostEqual(summary.mean, values.mean() / 1000 - 1)
        self.assertAlmostEqual(summary.deviation, values.std(ddof=1) / 1000)
        self.assertEqual(list(summary.columns[1:-1]),
                         list(np.histogram(values / 1000 - 1, bins=12, range=(-0.05, 0.05))[0]))  # fmt: skip

    def test_a_shift_counts_only_beyond_scatter_and_meter(self) -> None:
        values = np.random.default_rng(7).normal(1008.0, 9.0, 300).round(1)
        for accuracy, is_shifted in [(None, True), (Accuracy(0.1, 1), True), (Accuracy(0.8, 2), False)]:
            tally = Tally(Bins((1000.0,), (0.05,), accuracy))
            tally.add(values, [0.1] * 300)
            self.assertEqual(tally.summary(0).is_shifted, is_shifted, accuracy)
        lone = Tally(BINS)
        lone.add([1040.0], [1.0])
        self.assertFalse(lone.summary(E12.index(1000.0)).is_shifted)


class Meters(TestCase):
    def test_the_display_shows_the_smallest_range_that_holds_the_value(self) -> None:
        for counts in DISPLAYS:
            for ohms in (0.0, 0.47, 199.94, 199.96, 1000.0, 1999.0, 2001.0, 4465.0, 59_999.0, 2.2e6):
                step = display_step(ohms, counts)
                self.assertLess(round(ohms / step), counts)
                if step > DISPLAYS[counts]:
                    self.assertGreaterEqual(round(ohms / (step / 10)), counts)

    def test_accuracies_as_sheets_state_them(self) -> None:
        for text in ("0.8 % + 2", "0.8%+2", "0,8 % + 2d", "0.8 % plus 2 digits", "0.8 + 2"):
            self.assertEqual(parse_accuracy(text), Accuracy(0.8, 2), text)
        self.assertEqual(parse_accuracy("1 %"), Accuracy(1.0, 0))
        for text in ("", "good", "−1 % + 2", "0.8 % + many", "50 %"):
            with self.assertRaises(AccuracyError):
                parse_accuracy(text)


class OnTheLimit(TestCase):
    def test_a_part_just_on_its_limit_is_drawn_between_the_limits(self) -> None:
        """The histogram's last inner column holds it; one digit more lies outside."""
        for value, column in [(1050.0, 12), (1050.5, 13), (950.0, 1), (949.5, 0)]:
            tally = Tally(Bins((1000.0,), (0.05,)))
            tally.add([value], [0.1])
            columns = tally.summary(0).columns
            self.assertEqual([k for k, count in enumerate(columns) if count], [column], value)
