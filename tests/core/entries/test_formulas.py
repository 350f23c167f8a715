"""Formulas of values that were worked out by hand: what they come to, and what is refused at its place."""

from unittest import TestCase

from recensor.core.entries import FormulaError, evaluate


class Refused(TestCase):
    def test_what_is_no_number_is_refused_as_a_formula(self) -> None:
        for formula, said in {
            "OL/2": "“OL” is over-range",
            "2*(O.L)": "“O.L” is over-range",
            "9/0": "divided by zero",
            "(9": "not closed",
            "9/": "ends too early",
            "9V+1kΩ": "Two different units",
            "9/volts": "volts",
        }.items():
            with self.subTest(formula):
                self.assertRaisesRegex(FormulaError, said, evaluate, formula, "A")
