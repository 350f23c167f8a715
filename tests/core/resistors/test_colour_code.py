"""Colour code and preferred values: IEC 60062 and 60063 (tables from memory), exhaustively, and the eseries package."""

from decimal import Decimal
from itertools import product
from unittest import TestCase

from eseries import ESeries, series

from recensor.core.resistors import preferred_values
from recensor.core.resistors.colour_code import (
    BandError,
    Colour,
    decode,
    encode,
    likely,
    lookalikes,
    parse,
    read_both_ways,
)


class Bands(TestCase):
    def test_every_valid_code_goes_round(self) -> None:
        digits = [colour for colour in Colour if colour.digit is not None]
        tolerances = [colour for colour in Colour if colour.tolerance is not None]
        for first, second, power in product(digits[1:], digits, Colour):
            plain = decode([first, second, power])
            self.assertEqual(plain.value, Decimal(first.digit * 10 + second.digit).scaleb(power.exponent))
            self.assertIsNone(plain.tolerance)
            for tolerance in (Colour.GOLD, Colour.BROWN):
                coded = decode([first, second, power, tolerance])
                again = decode(encode(coded.value, coded.tolerance))
                self.assertEqual((again.value, again.tolerance), (coded.value, tolerance.tolerance))
        for tolerance, coefficient in product(
            tolerances, [colour for colour in Colour if colour.coefficient is not None]
        ):
            bands = [Colour.YELLOW, Colour.BLUE, Colour.YELLOW, Colour.ORANGE, tolerance, coefficient]
            coded = decode(bands)
            self.assertEqual((coded.value, coded.tolerance), (Decimal(464000), tolerance.tolerance))
            self.assertEqual(list(encode(coded.value, coded.tolerance, coded.coefficient)), bands)

    def test_known_codes(self) -> None:
        """Common practice, no source."""
        for words, value, tolerance in [
            ("brown black red gold", "1000", 5),
            ("yellow violet orange silver", "47000", 10),
            ("red red gold gold", "2.2", 5),
            ("orange orange black brown brown", "3300", 1),
            ("green blue brown", "560", None),
            ("black", "0", 0),
        ]:
            coded = decode(parse(words))
            self.assertEqual((coded.value, coded.tolerance), (Decimal(value), tolerance), words)

    def test_what_is_wrong_is_said_with_its_band(self) -> None:
        for words, band, message in [
            ("gold red red gold", 0, "Band 1 is a digit, and gold is none"),
            ("red silver red gold", 1, "Band 2 is a digit"),
            ("black red red gold", 0, "does not begin with 0"),
            ("red red red black", 3, "black is no tolerance colour"),
            ("red red red white", 3, "white is no tolerance colour"),
            ("red red red red gold gold", 5, "gold is no colour of one"),
            ("red red", None, "3 to 6 bands"),
            ("", None, "3 to 6 bands"),
        ]:
            with self.subTest(words), self.assertRaisesRegex(BandError, message) as caught:
                decode(parse(words))
            self.assertEqual(caught.exception.band, band)
        for text, band, message in [
            ("red gre red", 1, "green or grey"),
            ("red pinkish", 1, "no band colour"),
            ("b " * 7, 6, "at most 6"),
        ]:
            with self.assertRaisesRegex(BandError, message) as caught:
                parse(text)
            self.assertEqual(caught.exception.band, band)
        self.assertEqual(parse("Ye v R go"), (Colour.YELLOW, Colour.VIOLET, Colour.RED, Colour.GOLD))
        for value, tolerance in [("4711", "5"), ("1", "3"), ("-5", "5"), ("1e12", "5"), ("464", "20")]:
            with self.assertRaises(BandError):
                encode(Decimal(value), Decimal(tolerance))

    def test_the_plausible_end(self) -> None:
        forward, backward = read_both_ways(parse("yellow violet red gold"))
        self.assertEqual((likely((forward, backward)), backward.coded), (forward, None))
        self.assertIn("gold is none", backward.error)
        either = read_both_ways(parse("brown red black black red"))  # 120 Ω ± 2 %, or 20 kΩ ± 1 %
        self.assertEqual(([one.coded.value for one in either], likely(either)), ([Decimal(120), Decimal(20000)], None))
        spoken = read_both_ways(parse("blue grey brown"))
        self.assertEqual((likely(spoken).coded.value, likely(spoken).coded.tolerance), (Decimal(680), None))
        rare = read_both_ways(parse("brown red black black orange"))  # 120 Ω ± 0.05 %, or 30 kΩ ± 1 %
        self.assertEqual(likely(rare), rare[1])
        huge = read_both_ways(parse("orange white black brown brown"))  # 3.9 kΩ ± 1 %, or 110 GΩ ± 0.05 %
        self.assertEqual(likely(huge), huge[0])
        both = read_both_ways(parse("brown black black brown"))  # 10 Ω or 10 Ω: the same from either end
        self.assertEqual(both[0].coded.value, Decimal(10))
        fine = read_both_ways(parse("yellow violet yellow gold"))[0]
        self.assertEqual(fine.against, ())
        self.assertIn("do not come in", read_both_ways(parse("yellow blue yellow brown gold"))[0].against[0])

    def test_the_end_of_every_usual_part_is_never_mistaken_and_mostly_found(self) -> None:
        for count, tolerance, most_undecided in [(96, "1", 0.18), (24, "1", 0.36), (24, "5", 0.0), (12, "10", 0.0)]:
            parts = [Decimal(step).scaleb(exponent) for step in preferred_values.mantissas(count)
                     for exponent in range(-1, 5)]  # fmt: skip
            bands = [encode(part, Decimal(tolerance)) for part in parts]
            found = [likely(read_both_ways(code)) for code in bands]
            self.assertEqual(
                [end.bands for end in found if end], [c for c, end in zip(bands, found, strict=True) if end]
            )
            self.assertLessEqual(found.count(None), most_undecided * len(parts))

    def test_what_a_misread_colour_would_hide(self) -> None:
        found = {(one.band, one.colour.word, one.coded.value) for one in lookalikes(parse("brown black red gold"))}
        self.assertIn((2, "orange", Decimal(10000)), found)
        self.assertIn((2, "brown", Decimal(100)), found)
        self.assertIn((0, "orange", Decimal(3000)), found)
        for bands in (parse("brown black red gold"), parse("blue grey black gold")):
            read = decode(bands)
            for one in lookalikes(bands):
                self.assertIsNotNone(one.coded.series)
                self.assertAlmostEqual(one.ratio * read.value / one.coded.value, 1)


class PreferredValues(TestCase):
    def test_every_series_is_the_packages(self) -> None:
        for count in preferred_values.SERIES:
            theirs = [round(value * 100 / series(ESeries[f"E{count}"])[0]) for value in series(ESeries[f"E{count}"])]
            self.assertEqual(list(preferred_values.mantissas(count)), theirs, f"E{count}")

    def test_membership_and_neighbours_in_every_decade(self) -> None:
        for count, exponent in product(preferred_values.SERIES, range(-3, 6)):
            steps = [Decimal(step).scaleb(exponent) for step in preferred_values.mantissas(count)]
            for low, high in zip(steps, [*steps[1:], Decimal(1000).scaleb(exponent)], strict=True):
                self.assertLessEqual(preferred_values.series_of(low), count)
                self.assertEqual(preferred_values.neighbours(low, count), (low, low))
                middle = (low * high).sqrt()
                self.assertEqual(preferred_values.neighbours(middle, count), (low, high))
                self.assertEqual(preferred_values.nearest(low * Decimal("1.001"), count), low)
                self.assertEqual(preferred_values.nearest(high * Decimal("0.999"), count), high)
        self.assertIsNone(preferred_values.series_of(Decimal(0)))
        self.assertIsNone(preferred_values.series_of(Decimal("471.1")))
