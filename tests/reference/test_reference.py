"""The band reader's page."""

import itertools
from unittest import TestCase

from recensor.core.quantity import AMPERE, OHM, parse_beside_chooser
from recensor.core.resistors.colour_code import parse
from recensor.drawing.resistor import BAND_WIDTH, BODY_LEFT, BODY_WIDTH, banded_resistor
from tests.served import HTMX, BenchTestCase


class Drawn(TestCase):
    def test_bands_lie_on_the_body_and_the_tolerance_stands_apart(self) -> None:
        words = ["brown", "black", "black", "red", "gold", "red"]
        for count in (1, 3, 4, 5, 6):
            places = [band.x for band in banded_resistor(parse(" ".join(words[:count]))).bands]
            self.assertGreater(places[0], BODY_LEFT)
            self.assertLess(places[-1] + BAND_WIDTH, BODY_LEFT + BODY_WIDTH)
            gaps = [after - before for before, after in itertools.pairwise(places)]
            self.assertTrue(all(gap > BAND_WIDTH for gap in gaps))
            if count in (4, 5):
                self.assertGreater(gaps[-1], max(gaps[:-1]))


class BesideTheChooser(TestCase):
    def test_a_prefix_or_unit_in_the_text_wins_over_the_chooser(self) -> None:
        for text, unit, beside, value in [
            ("1.89", AMPERE, "mA", 0.00189),
            ("1.89m", AMPERE, "A", 0.00189),
            ("2k2", OHM, "MΩ", 2200),
            ("1e3", OHM, "kΩ", 1e6),
            ("189 µA", AMPERE, "mA", 0.000189),
            ("-5", OHM, "Ω", -5),
        ]:
            self.assertAlmostEqual(float(parse_beside_chooser(text, unit, beside)), value, places=12)
        self.assertTrue(parse_beside_chooser("OL", OHM, "kΩ").over_range)


class BandReader(BenchTestCase):
    def test_both_ends_and_what_a_misread_colour_would_hide(self) -> None:
        page = self.client.get("/bands/", {"bands": "y v r go"})
        self.assertContains(page, "4.7 kΩ ± 5 %")
        self.assertContains(page, "A meter should show 4.47 kΩ to 4.93 kΩ.")
        finer = self.client.get("/bands/", {"bands": "y v r go", "counts": "6000"})
        self.assertContains(finer, "A meter should show 4.465 kΩ to 4.935 kΩ.")
        self.assertContains(page, "Band 1 is a digit, and gold is none")
        self.assertContains(page, "band 3 orange: 47 kΩ (×10)")
        self.assertContains(page, "band 3 brown: 470 Ω (÷10)")
        self.assertContains(page, 'value="yellow violet red gold"')
        self.assertContains(self.client.get("/bands/", {"bands": "brown red black black red"}), "Both ends make sense")
        self.assertContains(self.client.get("/bands/", {"bands": "black"}), "0 Ω link")
        self.assertContains(self.client.get("/bands/", {"bands": "r r g g r br"}), "could be green or grey")

    def test_palette_and_bad_input(self) -> None:
        page = self.client.get("/bands/", {"bands": "brown black", "add": "red"}, headers=HTMX)
        self.assertContains(page, 'value="brown black red"')
        self.assertNotContains(page, "<html")
        self.assertContains(
            self.client.get("/bands/", {"bands": "brown black red", "back": "1"}), 'value="brown black"'
        )
        for text, message in [
            ("mauve", "is no band colour"),
            ("re " * 7, "at most 6"),
            ("x" * 10_000, "is no band colour"),
            ("<b>", "&lt;b&gt;"),
            ("gold gold gold gold", "Neither end makes sense"),
        ]:
            page = self.client.get("/bands/", {"bands": text})
            self.assertContains(page, message)

    def test_printed_codes(self) -> None:
        page = self.client.get("/bands/printed/", {"code": "473"}, headers=HTMX)
        self.assertContains(page, "47 kΩ")
        self.assertContains(page, "473 Ω")
        self.assertNotContains(page, "palette")
        self.assertContains(self.client.get("/bands/printed/", {"code": "4K7J"}), "4.7 kΩ ± 5 %")
        self.assertContains(self.client.get("/bands/printed/", {"code": "<i>" * 900}), "&lt;i&gt;")

    def test_a_value_and_its_bands(self) -> None:
        page = self.client.get("/bands/value/", {"value": "4k7", "tolerance": "5"}, headers=HTMX)
        for text in ("yellow, violet, red, gold", "A meter should show 4.47 kΩ to 4.93 kΩ.", "from E3 on"):
            self.assertContains(page, text)
        page = self.client.get("/bands/value/", {"value": "4.6k", "tolerance": "1"}, headers=HTMX)
        self.assertContains(page, "yellow, blue, black, brown, brown")
        self.assertContains(page, "E96: 4.53 kΩ (−1.52 %) and 4.64 kΩ (+0.87 %)")
        for typed, message in [({"value": "4.7V"}, "voltage"), ({"value": "4.712k", "tolerance": "5"}, "No bands say"),
                               ({"value": "1k", "tolerance": "3"}, "Select a valid choice")]:  # fmt: skip
            self.assertContains(self.client.get("/bands/value/", {"tolerance": "5", **typed}), message)

    def test_a_part_of_a_run_is_shown_with_its_bands(self) -> None:
        self.assertContains(self.client.get(self.at(1)), "Resistor with the bands red, black, red, gold")
        self.assertNotContains(self.client.get(self.at(5)), "Resistor with the bands")
