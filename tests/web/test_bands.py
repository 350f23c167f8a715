"""The band reader's page."""

from tests.web.bench import HTMX, BenchTestCase


class BandReader(BenchTestCase):
    def test_both_ends_and_what_a_misread_colour_would_hide(self) -> None:
        page = self.client.get("/bands/", {"bands": "y v r go"})
        self.assertContains(page, "4.7 kΩ ± 5 %")
        self.assertContains(page, "A meter should show 4.465 kΩ to 4.935 kΩ.")
        self.assertContains(page, "Band 1 is a digit, and gold is none")
        self.assertContains(page, "band 3 orange: 47 kΩ (×10)")
        self.assertContains(page, "band 3 brown: 470 Ω (÷10)")
        self.assertContains(page, 'value="yellow violet red gold"')
        self.assertContains(
            self.client.get("/bands/", {"bands": "brown red black black orange"}), "Both ends make sense"
        )
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

    def test_a_part_of_a_run_is_shown_with_its_bands(self) -> None:
        self.assertContains(self.client.get(f"{self.address}?point=1"), "Resistor with the bands red, black, red, gold")
        self.assertNotContains(self.client.get(f"{self.address}?point=5"), "Resistor with the bands")
