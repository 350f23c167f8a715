"""Printed codes (tables from memory), exhaustively against the preferred values and the letter notation."""

from decimal import Decimal
from unittest import TestCase

from eseries import ESeries, series

from recensor.core.quantity import OHM, parse
from recensor.core.resistors.printed_code import TOLERANCE_LETTERS, CodeError, meanings


class Codes(TestCase):
    def test_known_codes(self) -> None:
        """Common practice, no source."""
        for text, value, tolerance, code in [
            ("4k7", "4700", None, "letter"),
            ("R47", "0.47", None, "letter"),
            ("2M2K", "2200000", "10", "letter"),
            ("47R0F", "47", "1", "letter"),
            ("4R7", "4.7", None, "letter"),
            ("473", "47000", None, "chip marking, 3"),
            ("4702", "47000", None, "chip marking, 4"),
            ("000", "0", None, "chip marking, 3"),
            ("68C", "49900", "1", "EIA-96"),
            ("01A", "100", "1", "EIA-96"),
            ("96X", "97.6", "1", "EIA-96"),
        ]:
            first = meanings(text)[0]
            self.assertEqual((first.value, first.tolerance), (Decimal(value), tolerance and Decimal(tolerance)), text)
            self.assertTrue(first.code.startswith(code))

    def test_every_eia_96_place_is_the_packages_e96(self) -> None:
        theirs = [round(value * 100 / series(ESeries.E96)[0]) for value in series(ESeries.E96)]
        for place, digits in enumerate(theirs, 1):
            self.assertEqual(meanings(f"{place:02d}A")[0].value, digits)
            self.assertEqual(meanings(f"{place:02d}F")[0].value, Decimal(digits).scaleb(5))

    def test_letter_codes_are_read_as_typed_quantities_are(self) -> None:
        for letter in "RKM":
            for text in (f"4{letter}7", f"{letter}47", f"470{letter}", f"1{letter}05"):
                self.assertEqual(meanings(text)[0].value, parse(text, OHM).value)
                for tolerance in TOLERANCE_LETTERS:
                    self.assertEqual(meanings(text + tolerance)[0].tolerance, TOLERANCE_LETTERS[tolerance])

    def test_what_is_no_code_says_what_would_be(self) -> None:
        for text in ("", "R", "J", "97A", "00C", "4K7Q", "four", "-473", "4.7k", "1234567", "٤٧٣"):
            with self.subTest(text), self.assertRaisesRegex(CodeError, "codes look like"):
                meanings(text)
