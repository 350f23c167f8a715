"""Profiles: which range a reading is of, how far it may be off there, and what a display shows."""

from itertools import pairwise
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.meters import EXACT, ORDINARY_HANDHELD, SHIPPED, Accuracy, Profile, Range, shown_at
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse

SHIPPED_WITH_RANGES = [profile for profile in SHIPPED.values() if profile.ranges]


class Ranges(TestCase):
    def test_named_else_by_the_last_digit_else_the_smallest_that_holds_the_value(self) -> None:
        meter = SHIPPED["3½-digit manual"]
        for value, digit, named, full in [
            (2.83, 0.01, 20.0, 20.0), (2.83, 0.01, 200.0, 200.0), (2.83, 0.01, None, 20.0), (1.5, 0.001, None, 2.0),
            (1.5, 0.1, None, 200.0), (1.5, 0.5, None, 2.0), (1999.0, 1.0, None, 600.0), (2.83, 0.01, 7.0, None),
        ]:  # fmt: skip
            taken = meter.range_for(VOLTAGE, value, digit, named)
            self.assertEqual(taken and taken.full, full, (value, digit, named))

    def test_a_digit_is_the_step_of_the_range_or_the_last_one_typed(self) -> None:
        meter = SHIPPED["3½-digit manual"]
        self.assertEqual(meter.precision(VOLTAGE, 2.8, 0.1, 20.0).step, 0.01)
        self.assertEqual(ORDINARY_HANDHELD.precision(VOLTAGE, 2.8, 0.1, 20.0).step, 0.1)
        fine, coarse = (ORDINARY_HANDHELD.precision(VOLTAGE, 2.8, digit) for digit in (0.01, 0.1))
        self.assertNotEqual(fine.range, coarse.range)
        self.assertEqual(fine.range, ORDINARY_HANDHELD.precision(VOLTAGE, 9.1, 0.01).range)

    def test_of_a_function_that_nobody_described_a_handhelds_accuracy_is_taken(self) -> None:
        volts_only = Profile("volts", {VOLTAGE: (Range(4.0, 0.001, Accuracy(0.1, 1)),)})
        self.assertEqual(volts_only.precision(VOLTAGE, 1.0, 0.001).accuracy, Accuracy(0.1, 1))
        self.assertEqual(volts_only.precision(RESISTANCE, 1.0, 0.001).accuracy, Accuracy(1.0, 2))
        self.assertEqual(EXACT.precision(CURRENT, 1.0, 0.001).accuracy, Accuracy(0.0, 0))


class Shown(TestCase):
    @given(st.sampled_from(SHIPPED_WITH_RANGES), st.sampled_from([RESISTANCE, VOLTAGE, CURRENT]),
           st.floats(-1.2, 1.2), st.data())  # fmt: skip
    def test_what_is_shown_reads_back_within_half_a_digit(self, profile, measurand, share, data) -> None:
        taken = data.draw(st.sampled_from(profile.ranges[measurand]))
        value = share * taken.full
        shown = shown_at(value, measurand, taken, profile.over_range[0])
        if shown.over_range:
            self.assertGreaterEqual(abs(value), taken.full - taken.step)
            return
        read = parse(shown.text, measurand.unit)
        self.assertEqual((read.value, read.resolution), (shown.value, shown.resolution))
        self.assertLessEqual(abs(float(read) - value), taken.step * 0.500001)

    def test_every_shipped_profile_covers_its_functions_without_a_gap(self) -> None:
        for profile in SHIPPED_WITH_RANGES:
            for ranges in profile.ranges.values():
                for smaller, larger in pairwise(ranges):
                    self.assertLess(smaller.full, larger.full)
                    self.assertLessEqual(smaller.step, larger.step)
                self.assertLessEqual({taken.jack for taken in ranges}, set(profile.fuses))
