"""Quantities as typed. Letter-coded values follow IEC 60062 (from memory); the rest is the project's own rule."""

from decimal import Decimal
from unittest import TestCase

from hypothesis import example, given
from hypothesis import strategies as st

from recensor.core import quantity
from recensor.core.figures import as_read, engineering, rounded, stated, sum_figures
from recensor.core.quantity import AMPERE, OHM, VOLT, QuantityError, parse, parse_percent


class TypedTexts(TestCase):
    def test_every_documented_form(self) -> None:
        for text, unit, value, resolution in [
            ("4.7k", OHM, "4700", "100"),
            ("4k7", OHM, "4700", "100"),
            ("4R7", OHM, "4.7", "0.1"),
            ("0R47", OHM, "0.47", "0.01"),
            ("R47", OHM, "0.47", "0.01"),
            ("1M5", OHM, "1500000", "100000"),
            ("2.2 kΩ", OHM, "2200", "100"),
            ("12.4mA", AMPERE, "0.0124", "0.0001"),
            ("0.0124 A", AMPERE, "0.0124", "0.0001"),
            ("14m", VOLT, "0.014", "0.001"),
            ("-9.83", VOLT, "-9.83", "0.01"),
            ("−9,83", VOLT, "-9.83", "0.01"),
            ("1e3", OHM, "1000", "1000"),
            ("470", OHM, "470", "1"),
            ("470.", OHM, "470", "1"),
            ("4.70k", OHM, "4700", "10"),
            ("1 000", OHM, "1000", "1"),
            ("3V3", VOLT, "3.3", "0.1"),
            (".5", VOLT, "0.5", "0.1"),
            ("2.2kohm", OHM, "2200", "100"),
            ("10µA", AMPERE, "0.00001", "0.000001"),
            ("1meg", OHM, "1000000", "1000000"),
            ("0.36 kilo ohms", OHM, "360", "10"),
            ("1.5k ohm", OHM, "1500", "100"),
            ("10 k Ω", OHM, "10000", "1000"),
            ("2.5 milliampere", AMPERE, "0.0025", "0.0001"),
            ("\u20115.0", VOLT, "-5.0", "0.1"),
            ("\uff0d5.0 Volts", VOLT, "-5.0", "0.1"),
        ]:
            with self.subTest(text):
                read = parse(text, unit)
                self.assertEqual((read.value, read.resolution, read.unit), (Decimal(value), Decimal(resolution), unit))
                self.assertEqual(read.text, text)

    def test_over_range_as_meters_show_it(self) -> None:
        for text in ("OL", "O.L", "0L", "ol", "O.L.", "-OL", "OL MΩ"):
            self.assertTrue(parse(text, OHM).over_range, text)
        self.assertFalse(parse("1", OHM).over_range)
        self.assertTrue(parse("1", OHM, one_is_over_range=True).over_range)

    def test_what_is_not_understood_says_so_with_an_example(self) -> None:
        for text in (
            "",
            "  ",
            "abc",
            "1.2.3",
            "1,000.5",
            "--5",
            "4k7k",
            "10 00",
            "1234 567",
            "1 0000",
            "1 2345",
            "12 34567",
            "1 0000k",
            "5 x",
            "٣",
            "1e",
            "nan",
            "∞",
            "10²",
            "1_000",
            "4.7kV5",
            "9" * 41,
            "x" * 10_000,
            "1e400",
            "1e-40",
            "0.0000000000001",
        ):
            with self.subTest(text[:20]), self.assertRaises(QuantityError) as caught:
                parse(text, OHM)
            self.assertLess(len(str(caught.exception)), 200)
        with self.assertRaisesRegex(QuantityError, r"for example 4\.7k or 4k7"):
            parse("four", OHM)

    def test_units_beside_and_inside_must_agree(self) -> None:
        self.assertEqual(parse("1.89", AMPERE, "mA").value, Decimal("0.00189"))
        self.assertEqual(parse("1.89m", AMPERE, "mA").value, Decimal("0.00189"))
        self.assertEqual(parse("1.89mA", AMPERE, "A").value, Decimal("0.00189"))
        for text, unit, beside in [
            ("2.83V", AMPERE, ""),
            ("2.83", AMPERE, "V"),
            ("2.83V", VOLT, "A"),
            ("1.89k", AMPERE, "mA"),
            ("1.89A", AMPERE, "mA"),
            ("5", VOLT, "furlong"),
        ]:
            with self.subTest(text), self.assertRaises(QuantityError):
                parse(text, unit, beside)

    def test_two_way_readings_are_asked_about(self) -> None:
        for text, unit, meanings in [
            ("1,000", OHM, ("1.000", "1000")),
            ("-1,250", VOLT, ("-1.250", "-1250")),
            ("4.7m", OHM, ("0.0047Ω", "4.7MΩ")),
            ("12M", AMPERE, ("12000000A", "12mA")),
            ("2,500 V", VOLT, ("2.500V", "2500V")),
            ("1,500 volts", VOLT, ("1.500V", "1500V")),
            ("1,000 ohm", OHM, ("1.000Ω", "1000Ω")),
            ("1,000R", OHM, ("1.000Ω", "1000Ω")),
        ]:
            ambiguity = parse(text, unit).ambiguity
            self.assertIsNotNone(ambiguity, text)
            self.assertEqual(ambiguity.meanings, meanings)
            for meaning in meanings:
                self.assertIsNone(parse(meaning, unit).ambiguity, f"{meaning} must be beyond doubt")
        for text, unit in [
            ("1,00", OHM),
            ("1,0000", OHM),
            ("1,000k", OHM),
            ("0,125", VOLT),
            ("4.7M", OHM),
            ("12m", AMPERE),
        ]:
            self.assertIsNone(parse(text, unit).ambiguity, text)

    def test_percentages(self) -> None:
        self.assertEqual(parse_percent("0,5 %").value, Decimal("0.5"))
        for text in ("5", "0.05", "-1 %", "101 %", "OL", "5 V", "%"):
            with self.subTest(text), self.assertRaises(QuantityError):
                parse_percent(text)

    @given(st.integers(0, 10**9), st.integers(1, 10))
    def test_digits_in_groups_are_digits_and_nothing_else(self, number: int, at: int) -> None:
        """Grouped in threes a number reads as itself; with a space anywhere else it is refused."""
        grouped = f"{number:,}".replace(",", " ")
        self.assertEqual(parse(grouped, OHM).value, number)
        text = str(number)
        spaced = f"{text[:at]} {text[at:]}"
        if at < len(text) and spaced != grouped and not (len(text) - at == 3 and at <= 3):
            with self.assertRaises(QuantityError):
                parse(spaced, OHM)

    @given(st.decimals(-1000, 1000, places=4), st.integers(0, 4), st.sampled_from(["", "k", "m", "M"]))
    def test_a_reading_is_shown_with_just_the_digits_that_were_typed(self, number, places, prefix) -> None:
        typed = parse(f"{number:.{places}f}{prefix}", VOLT)
        again = parse(as_read(typed, VOLT), VOLT)
        self.assertEqual((again.value, again.resolution), (typed.value, typed.resolution))

    @given(st.text(max_size=60), st.sampled_from([OHM, VOLT, AMPERE, None]))
    def test_any_text_is_a_quantity_or_an_error_of_ours(self, text: str, unit: str | None) -> None:
        try:
            read = parse(text, unit)
        except QuantityError:
            return
        self.assertTrue(read.over_range or abs(read.value) <= quantity.LARGEST)

    @given(st.integers(-(10**6), 10**6), st.integers(-9, 5))
    def test_what_is_shown_reads_back_as_the_same_value_and_resolution(self, digits: int, exponent: int) -> None:
        value, resolution = Decimal(digits).scaleb(exponent), Decimal(1).scaleb(exponent)
        shown = engineering(value, resolution, VOLT)
        read = parse(shown, VOLT)
        self.assertEqual(read.value, value)
        if read.resolution != resolution:  # digits before the point cannot say that the last of them is not one
            self.assertGreater(resolution, read.resolution)
            self.assertNotIn(".", shown)


class ShownValues(TestCase):
    def test_stated_values_keep_all_their_digits(self) -> None:
        for text, shown in [("4569.338", "4.569338 kV"), ("4700", "4.7 kV"), ("0", "0 V"), ("100.0", "100 V")]:
            self.assertEqual(stated(Decimal(text), VOLT), shown)

    def test_second_significant_digit_of_the_uncertainty(self) -> None:
        """JCGM 100:2008, 7.2.6 (from memory): the uncertainty to two digits, the value to the same place."""
        self.assertEqual(rounded(10.05762, 0.027, OHM), "10.058 Ω")
        self.assertEqual(rounded(127.732, 0.071, OHM), "127.732 Ω")
        self.assertEqual(rounded(4787.0, 190.5, OHM), "4.79 kΩ")
        self.assertEqual(rounded(0.0, 0.001, VOLT), "0.0 mV")
        self.assertEqual(rounded(999.96, None, OHM), "1.0000 kΩ")


class Sums(TestCase):
    """Whoever takes the one side of an account from the other gets what stands below them."""

    @given(
        st.lists(st.decimals("0.001", "30", places=3), min_size=1, max_size=4),
        st.lists(st.decimals("0.001", "30", places=3), min_size=1, max_size=4),
        st.floats(1e-3, 3.0),
    )
    @example([Decimal("5.002")], [Decimal("5.007")], 0.2)
    def test_the_figures_that_are_shown_give_the_result_that_is_shown(
        self, rises: list[Decimal], drops: list[Decimal], uncertainty: float
    ) -> None:
        shown = sum_figures(float(sum(rises)), float(sum(drops)), uncertainty, "V")
        one, other, left = (parse(text, "V").value for text in shown[:3])
        self.assertEqual(one - other, left, shown)
        self.assertLessEqual(abs(left - (sum(rises) - sum(drops))), Decimal(uncertainty))
