"""Drawings and formulas are well-formed whatever the parts are called, and nothing typed becomes markup."""

import json
import re
from unittest import TestCase
from xml.etree import ElementTree

from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import Sheet, node_list, one_line
from recensor.core.examples import circuits
from recensor.core.solving import stated
from recensor.drawing import mathml
from recensor.drawing.conventions import Conventions
from recensor.drawing.worked import worked
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.web import drawings
from tests.served import BenchTestCase
from tests.strategies import lines, planar_lists

HOSTILE = ['<b>"&', "</svg><script>alert(1)</script>", "R'1", "Ω∥µ", "x" * 60, " ", "--><!--"]
DOCUMENT = {
    "format": "recensor.run",
    "version": 1,
    "title": "<i>Hostile & co",
    "parts": {
        "<b>V": {"kind": "voltage source", "nominal": "9V"},
        'R"1': {"kind": "resistor", "nominal": "1k", "tolerance": "5%"},
        "R<2>": {"kind": "resistor", "nominal": "2k2", "tolerance": "5%"},
    },
    "setups": {
        "<u>main": {
            "reference": "g&d",
            "connections": {"<b>V": ["<top>", "g&d"], 'R"1': ["<top>", "m'id"], "R<2>": ["m'id", "g&d"]},
        }
    },
    "readings": [],
}


def well_formed(page: str) -> int:
    """Parse every drawing and formula of a page as XML; how many there were."""
    found = re.findall(r"<svg.*?</svg>|<math.*?</math>", page, re.DOTALL)
    for markup in found:
        ElementTree.fromstring(markup)
    return len(found)


class Formulas(TestCase):
    @given(st.sampled_from(HOSTILE) | st.text(min_size=1, max_size=12))
    def test_names_and_quantities_stay_text(self, text: str) -> None:
        printable = "".join(c for c in text if c.isprintable()) or "R"
        line = mathml.formula(
            mathml.name(printable),
            mathml.fraction(mathml.indexed("V", printable), mathml.quantity(printable)),
            mathml.signed_sum([(-1, mathml.name(printable)), (1, mathml.in_brackets(mathml.number("1")))]),
        )
        tree = ElementTree.fromstring(line)
        self.assertLessEqual({element.tag for element in tree.iter()},
                             {"math", "mrow", "mi", "mn", "mo", "msub", "mtext", "mfrac"})  # fmt: skip

    @given(lines() | st.just("5mA: 1k + 2k"), st.sampled_from(["reduction", "nodes", "meshes"]))
    def test_every_way_to_work_a_circuit_out_is_well_formed(self, line: str, way: str) -> None:
        self.work_out(one_line.read(line), way)

    @given(planar_lists(), st.sampled_from(["nodes", "meshes"]))
    def test_every_planar_circuit_has_its_equations(self, text: str, way: str) -> None:
        self.work_out(node_list.read(text), way)

    def work_out(self, sheet: Sheet, method: str) -> None:
        setup = sheet.setup()
        known = {name: float(part.nominal) if part.nominal else 1000.0 for name, part in sheet.parts.items()}
        for conventions in (Conventions(), Conventions(True, "E", True, True)):
            page = worked(sheet, setup, known, method, conventions)
            if page.missing:
                self.assertIn("drives its current into an open", page.missing)
                return
            if method == "meshes" and not page.laws:
                self.assertEqual([step.title for step in page.steps], ["There is no closed loop: no current flows"])
                continue
            pictures = [drawings.drawn(step.drawing, conventions) for step in page.steps if step.drawing]
            text = "".join([*(line for step in page.steps for line in step.formulas), *pictures, *page.laws])
            self.assertGreaterEqual(well_formed(text), len(page.steps) + len(page.laws))
            self.assertEqual({result.part for result in page.results}, set(setup.connections))
            self.assertFalse(any("does not give" in step.check for step in page.steps))


class Drawings(TestCase):
    @given(planar_lists(), st.sampled_from(sorted(drawings.SHOWN)), st.booleans())
    def test_with_anything_beside_the_parts_a_drawing_is_well_formed(self, text: str, shown: str, zigzag: bool) -> None:
        run = node_list.read(text)
        setup = run.setups["main"]
        drawn = drawings.of_setup(run, setup, Conventions(zigzag=zigzag), beside=drawings.calculated(run, setup, shown))
        self.assertEqual(well_formed(drawn), 1)
        self.assertEqual(drawn.count('class="symbol '), len(setup.connections))

    def test_signs_stand_where_the_current_enters_and_arrows_the_way_it_goes(self) -> None:
        run = circuits.divider()
        setup = run.setups["main"]
        volts = drawings.of_setup(run, setup, beside=drawings.calculated(run, setup, "voltages"))
        self.assertEqual(re.findall(r'class="sign"[^>]*y="(-?\d+)"[^>]*>(.)<', volts), [("-9", "+"), ("19", "−")] * 2)
        amps = drawings.of_setup(run, setup, beside=drawings.calculated(run, setup, "currents"))
        self.assertEqual(amps.count("current-arrow"), 3)
        self.assertNotIn("part-note", drawings.of_setup(run, setup, beside=drawings.calculated(run, setup, "moods")))


class HostileNames(BenchTestCase):
    def test_a_document_with_markup_for_names_is_shown_as_text_everywhere(self) -> None:
        file = SimpleUploadedFile("x.run.json", json.dumps(DOCUMENT).encode())
        page = self.client.post("/experiments/new/", {"by": "import", "file": file}, follow=True)
        self.assertEqual(page.status_code, 200)
        address = Experiment.objects.get().get_absolute_url()
        run = self.client.post(f"{address}start/", follow=True).context["run"].get_absolute_url()
        for path in (address, f"{address}?part=R%3C2%3E&show=currents", f"{address}sheet/", f"{address}worked/",
                     f"{address}worked/?method=nodes", f"{address}what-if/", run, f"{run}?point=1&show=values",
                     f"{run}worked/", "/experiments/", "/"):  # fmt: skip
            text = self.client.get(path).content.decode()
            for markup in ("<b>V", "R<2>", "<u>main", "<top>", "<i>Hostile"):
                self.assertNotIn(markup, text, path)
            well_formed(text)
        netlist = self.client.get(f"{address}netlist/").content.decode()
        self.assertNotIn("<top>", netlist.split("*@")[0])
        self.assertEqual(self.client.get(f"{address}worked/").context["worked"].results[0].part, "<b>V")
        run = sheet_of(Experiment.objects.get())
        self.assertEqual(stated(run, run.setup()).known, {"<b>V": 9.0, 'R"1': 1000.0, "R<2>": 2200.0})
