"""Formulas of values that were worked out by hand: what they come to, and what is refused at its place."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import Across, PartAlone, Through, asking_everything, one_line
from recensor.core.entries import FormulaError, Named, evaluate, names_of, worked_out
from recensor.core.judgement import Calculated, assess
from recensor.core.quantity import AMPERE, OHM, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run

KNOWN = {"V1": Named(9.0, "V"), "R1": Named(1000.0, "Ω"), "R2": Named(2000.0, "Ω"), "B": Named(6.0, "V")}
SHEET = asking_everything(one_line.read("9V: 1k + 2k; 5%"))
AMPS, DROP = Through("V1", "main"), Across(VOLTAGE, ("A", "B"), "main")
NO_NAMES = {}, {}


class Worked(TestCase):
    def test_what_they_come_to(self) -> None:
        for formula, unit, value in [
            ("V1/(R1+R2)", "A", 3e-3),
            ("I = V1/(R1 + R2)", "A", 3e-3),
            ("v1 / (r1+r2)", "A", 3e-3),
            ("R1 || R2", "Ω", 2000 / 3),
            ("R1//R2 ∥ 1k", "Ω", 400),
            ("1/(1/1k + 1/2k)", "Ω", 2000 / 3),
            ("3m^2 * R2", "W", 0.018),
            ("(3 mA)² · 2 kΩ", "W", 0.018),
            ("6^2/2000", "W", 0.018),
            ("9·R2/(R1+R2)", "V", 6.0),
            ("V1 - B", "V", 3.0),
            ("3e-3 × R2", "V", 6.0),
            ("3E-3*2e3", "V", 6.0),
            ("1k + 5%", "Ω", 1050),
            ("1k − 5%", "Ω", 950),
            ("5% * 1k", "Ω", 50),
            ("-3m*R2", "V", -6.0),
            ("4k7 + 0R47", "Ω", 4700.47),
            ("2.2 kilo ohms + 300 ohm", "Ω", 2500),
        ]:
            with self.subTest(formula):
                self.assertAlmostEqual(evaluate(formula, unit, KNOWN).value, value, delta=1e-9 * abs(value))

    @given(st.integers(1, 999), st.integers(1, 999), st.integers(1, 999))
    def test_it_is_what_python_makes_of_it(self, a: int, b: int, c: int) -> None:
        for formula in (
            f"{a}+{b}*{c}",
            f"({a}+{b})*{c}",
            f"{a}-{b}-{c}",
            f"{a}/{b}/{c}",
            f"{a}*{b}^2/{c}",
            f"-{a}+{b}",
        ):
            value = eval(formula.replace("^", "**"))  # noqa: S307 (made here)
            self.assertAlmostEqual(evaluate(formula, "V").value, value, delta=1e-9 * max(1.0, abs(value)))
        self.assertAlmostEqual(1 / evaluate(f"{a}||{b}||{c}", "Ω").value, 1 / a + 1 / b + 1 / c)

    def test_every_step_is_checked(self) -> None:
        for formula, wrong in [
            ("V1/(R1+R2) = 9/3k = 3m", []),
            ("2k*1k/3k = 667", []),
            ("2k*1k/3k = 670 = 667", []),
            ("9/3k = 4m = 3m", ["“4m” is", "“3m” is"]),
        ]:
            unit = "Ω" if "2k" in formula else "A"
            target = PartAlone("R1", RESISTANCE) if unit == "Ω" else AMPS
            value = parse("667" if unit == "Ω" else "3.00m", unit)
            said = [r.text for r in worked_out(value, formula, target, None, (KNOWN, KNOWN)) if r.holds is False]
            self.assertEqual(len(said), len(wrong), (formula, said))
            for text, begins in zip(said, wrong, strict=True):
                self.assertTrue(text.startswith(begins), text)

    def test_names_are_what_was_read_or_what_is_marked_and_it_says_which(self) -> None:
        readings = [(PartAlone("R1", RESISTANCE), "1.02k"), (Across(VOLTAGE, ("B", "gnd"), "main"), "5.95")]
        run = Run(SHEET, tuple(Reading(target, parse(text, target.unit)) for target, text in readings))
        names = names_of(SHEET, assess(run), "main")
        for text, formula, known in [
            ("2.980m", "V1/(R1+R2)", "With V1 as marked, R1 as read, R2 as marked."),
            ("3.000m", "V1/(R1+R2)", "With V1 as marked, R1 as marked, R2 as marked."),
            ("2.975m", "B/R2", "With B as read, R2 as marked."),
        ]:
            remarks = worked_out(parse(text, "A"), formula, AMPS, None, names)
            self.assertEqual([r.holds for r in remarks], [True, True], [r.text for r in remarks])
            self.assertEqual(remarks[-1].text, known)


class OwnWork(TestCase):
    def test_formulas_as_people_write_them(self) -> None:
        for formula, unit, value in [
            ("9.02/4.7k", AMPERE, 9.02 / 4700), ("9,02 ÷ 4k7", AMPERE, 9.02 / 4700), ("1k+2k2·2", OHM, 5400),
            ("(1k + 2k2)/2", OHM, 1600), ("1k|1k", OHM, 500), ("-(2k - 1k)", OHM, -1000), ("9V/4.5kΩ", AMPERE, 0.002),
            ("2mA × 3k", "V", 6.0), ("3 V * 2 mA", "W", 0.006), ("= 5", "V", 5.0),
        ]:  # fmt: skip
            with self.subTest(formula):
                self.assertAlmostEqual(evaluate(formula, unit).value, value)
        for wrong in ("", "9/", "(9", "9)", "9/0", "x", "9V/2V", "1k+1V", "((((", "9" * 500, "OL/2", "9 9"):
            with self.subTest(wrong), self.assertRaises((FormulaError, ValueError)):
                evaluate(wrong, AMPERE)

    @given(st.text(max_size=40))
    def test_whatever_is_typed_is_worked_out_or_refused(self, formula: str) -> None:
        try:
            evaluate(formula, AMPERE)
        except FormulaError:
            return

    def test_rounding_is_told_from_dropping(self) -> None:
        for text, holds in [("1.92m", True), ("1.91m", False), ("1.919m", True), ("2.5m", False)]:
            (remark,) = worked_out(parse(text), "9.02/4.7k", AMPS, None, NO_NAMES)
            self.assertEqual(remark.holds, holds, text)
        self.assertEqual(worked_out(parse("2.80"), "", DROP, Calculated(2.8031), NO_NAMES), [])
        (dropped,) = worked_out(parse("2.80"), "", DROP, Calculated(2.8091), NO_NAMES)
        self.assertIn("dropped rather than rounded: 2.81 V", dropped.text)
        self.assertEqual(worked_out(parse("OL"), "1/0", DROP, None, NO_NAMES), [])


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
            "9/R9": "“R9” is no part or node",
            "9/R47": "0R9",
            "V1*R1": "comes out in no unit",
            "V1": "comes out in V, and A is asked for",
            "9^0.5": "whole number",
            "9^": "whole number",
            "9 = ": "ends too early",
            "9/3k = V1": "comes out in V",
        }.items():
            with self.subTest(formula):
                self.assertRaisesRegex(FormulaError, said, evaluate, formula, "A", KNOWN)
