"""What stands on paper and in files of its own: styles by their values, sentences from facts, texts as they were."""

import re
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import asking_everything, one_line
from recensor.core.record import Run
from recensor.drawing.conventions import Conventions
from recensor.formats.documents import run_document
from recensor.reports.content import FULL, ONE_PAGE, ReportSection, loaded_from, report
from recensor.reports.printing import as_html, standing_alone
from recensor.reports.starters import left_as_suggested, starters
from recensor.reports.styles import svg_styles
from recensor.site import demo
from recensor.web.drawings import of_setup

DEMO = Path(demo.__file__).parent
PROSE = st.text(st.characters(exclude_categories=["Cs"]), max_size=300)


def brought(number: int) -> Run:
    (file,) = DEMO.glob(f"{number}-*.run.json")
    return run_document.read(file.read_bytes())


class Drawings(TestCase):
    def test_every_class_of_a_drawing_that_has_a_look_on_a_page_has_it_alone_too(self) -> None:
        styles = svg_styles()
        for wanted in (
            ".wire{",
            ".body{",
            ".dot{",
            ".plot-line{",
            ".deviation-bar{",
            ".hole{",
            ".band-red{fill:#c4211c}",
        ):
            self.assertIn(wanted, styles)
        self.assertNotRegex(styles, r"var\(|color-mix|currentcolor|cursor|:hover|@media")
        self.assertEqual(styles.count("{"), styles.count("}"))

    def test_mixed_colours_are_what_a_browser_makes_of_them(self) -> None:
        """Worked out by hand: 55 % of #c9d3ce on white paper is #e1e7e4."""
        self.assertIn(".deviations-within{fill:#e1e7e4", svg_styles())

    def test_a_drawing_keeps_all_that_it_says(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + (2k2 | led 1.9V 10mA) + lamp 6V 50mA"))
        alone = standing_alone(of_setup(sheet, sheet.setup()))
        self.assertEqual(alone.count("<style>"), 1)
        for name in sheet.parts:
            self.assertIn(f">{name}<", alone)


class Contents(TestCase):
    def test_each_section_is_there_when_chosen_and_only_then(self) -> None:
        run = replace(brought(3), notes="A note.", conclusion="An end.")
        heads = {
            ReportSection.PARTS: "<h2>Parts</h2>",
            ReportSection.INSTRUMENTS: "<h2>Instruments</h2>",
            ReportSection.DATA: "<h2>What was read</h2>",
            ReportSection.WORKED: "Worked calculation",
            ReportSection.CHART: "How far each reading is off",
            ReportSection.CAUSES: "What would explain it",
            ReportSection.NOTES: "<h2>Notes</h2>",
            ReportSection.CONCLUSION: "<h2>Conclusion</h2>",
        }
        full = as_html(report(loaded_from(run), Conventions()), Conventions())
        for section, head in heads.items():
            without = as_html(report(loaded_from(run), Conventions(), chosen=FULL - {section}), Conventions())
            with self.subTest(section):
                self.assertIn(head, full)
                self.assertNotIn(head, without)
        self.assertTrue(report(loaded_from(run), Conventions(), chosen=ONE_PAGE).is_short)

    def test_amps_upward_and_zigzags_are_the_persons_own(self) -> None:
        run, school = brought(7), Conventions(zigzag=True, amps_upward=True)
        html = as_html(report(loaded_from(run), school), school)
        self.assertIn('class="zigzag"', html)
        self.assertRegex(html, r'aria-label="I over V')

    @settings(max_examples=15, deadline=None)
    @given(PROSE, PROSE)
    def test_whatever_is_written_comes_back_from_its_document_and_runs_nowhere(self, notes: str, end: str) -> None:
        run = replace(brought(1), notes=notes, conclusion=end)
        self.assertEqual(run_document.read(run_document.write(run)), run)
        said = report(loaded_from(run), Conventions(), chosen=(ReportSection.NOTES, ReportSection.CONCLUSION))
        html = as_html(said, Conventions())
        body = html[html.index("<body>") :]
        self.assertEqual(set(re.findall(r"<(script|iframe|object|embed|img|a|link|form)\b", body)), set())


class Sentences(TestCase):
    def test_they_say_what_the_books_say(self) -> None:
        balanced, transposed, line = (starters(loaded_from(brought(k))) for k in (1, 3, 7))
        self.assertIn("is no more than the meter explains", balanced[0])
        self.assertTrue(
            any("the difference of" in one and "is more than the meter explains" in one for one in transposed)
        )
        self.assertTrue(any(one.startswith("By its line R1 has 98.") for one in line), line)
        self.assertEqual(left_as_suggested(f"So: {balanced[0]} Well.", balanced), balanced[:1])
        self.assertEqual(left_as_suggested("My own words.", balanced), [])
