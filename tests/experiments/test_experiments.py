"""Experiments over HTTP: begun, edited, undone, set, copied, brought in and out, followed by runs."""

import html
import json
import re
from typing import ClassVar

from django.core.files.uploadedfile import SimpleUploadedFile
from django.http import HttpResponse

from recensor.core.circuit import one_line
from recensor.core.editing import edits
from recensor.core.examples import EXPERIMENTS, circuits
from recensor.core.examples import experiments as examples
from recensor.core.record import Run
from recensor.experiments import services as experiments
from recensor.experiments.acts import ACTS
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import edit
from recensor.formats import spice
from recensor.formats.documents import run_document
from recensor.runs.models import RunRow
from tests.experiments.case import ExperimentTestCase
from tests.formats.test_run_document import FULL as EVERYTHING
from tests.served import HTMX, BenchTestCase

# The fields of a part that are left empty.
NOTHING = {"tolerance": "", "rating": "", "compliance": "", "limit": ""}


class Beginnings(BenchTestCase):
    def begin(self, **data: object) -> HttpResponse:
        return self.client.post("/experiments/new/", data, follow=True)

    def test_every_shape_and_ready_made_experiment_opens_in_the_editor(self) -> None:
        for start in (*(f"shape:{name}" for name in circuits.SHAPES), *(f"ready:{name}" for name in EXPERIMENTS)):
            page = self.begin(by="start", start=start, count=4)
            self.assertContains(page, '<svg class="schematic')
            self.assertContains(page, "Start a run")
        self.assertEqual(Experiment.objects.count(), len(circuits.SHAPES) + len(EXPERIMENTS))
        self.assertContains(self.client.get("/experiments/"), "Superposition")

    def test_a_line_that_is_no_circuit_is_marked_where_it_is_wrong(self) -> None:
        page = self.begin(by="line", title="t", line="9V: 1k + 2x2")
        self.assertContains(page, "<mark>2x2</mark>", status_code=422)
        self.assertContains(page, 'value="9V: 1k + 2x2"', status_code=422)
        for data in ({"by": "line"}, {"by": "start", "start": "x", "count": 3}, {"by": "import"}, {"by": "?"}, {},
                     {"by": "start", "start": "shape:chain", "count": 99}):  # fmt: skip
            self.assertEqual(self.begin(**data).status_code, 422)
        self.assertEqual(Experiment.objects.count(), 0)

    def test_files_are_read_by_what_they_are(self) -> None:
        run = circuits.bridge()
        for name, text in [
            ("bridge.cir", spice.write(run, run.setups["main"])),
            ("bridge.run.json", run_document.write(Run(run))),
        ]:
            self.assertContains(self.begin(by="import", file=SimpleUploadedFile(name, text.encode())), "R5")
        self.assertContains(self.begin(by="import", text="V1 A gnd 9V\nR1 A gnd 1k"), "R1")
        with_analysis = SimpleUploadedFile("t.cir", b"t\nV1 a 0 9\nR1 a 0 1k\n.dc V1 0 9 1\n.end")
        self.begin(by="import", file=with_analysis)
        self.assertIn("line 4: .dc", Experiment.objects.order_by("id").last().aim)
        for text, said in [
            (b"t\nC1 a 0 1n", "Line 2: C1 is a capacitor"),
            (b"{}", "format"),
            (b'{"format": "recensor.run"', "JSON"),
            (b"\xff\xfe\x00", "no resistor"),
            (b"t\n" + b"".join(b"R%d a 0 1k\n" % k for k in range(10_000)), "at most 60 parts"),
            (b"t\nV1 a 0 9\nV2 a 0 5\nR1 a 0 1k", "form a loop of ideal voltage sources"),
            (b"t\nV1 a 0 9\nR1 a 0 1k\nR2 b c 1k", "Nothing joins"),
            (b"x" * 2_000_000, "larger than"),
        ]:
            page = self.begin(by="import", file=SimpleUploadedFile("x", text))
            self.assertContains(page, said, status_code=422)
        page = self.begin(by="import", text="V1 A gnd 9V\nV2 A gnd 5V")
        self.assertContains(page, "symbol-lit", status_code=422)
        self.assertContains(page, "V2 A gnd 5V", status_code=422)


class Documents(BenchTestCase):
    """What a document may bring in is just what can be kept and read back."""

    WHOLE: ClassVar = {
        "format": "recensor.run", "version": 1, "title": "t",
        "parts": {"V1": {"kind": "voltage source", "nominal": "9V"}, "R1": {"kind": "resistor", "nominal": "1k"}},
        "setups": {"main": {"reference": "gnd", "connections": {"V1": ["A", "gnd"], "R1": ["A", "gnd"]}}},
    }  # fmt: skip

    def brought_in(self, **changes: object) -> HttpResponse:
        content = json.dumps({**self.WHOLE, **changes}).encode()
        data = {"by": "import", "file": SimpleUploadedFile("t.run.json", content)}
        return self.client.post("/experiments/new/", data, follow=True)

    def setup(self, **changes: object) -> dict[str, object]:
        return {"main": {**self.WHOLE["setups"]["main"], **changes}}

    def test_what_cannot_be_drawn_or_kept_is_refused_with_words(self) -> None:
        wires = self.WHOLE["setups"]["main"]["connections"]
        many = {f"s{k}": self.WHOLE["setups"]["main"] for k in range(20)}
        parts = {f"R{k}": {"kind": "resistor", "nominal": "1k"} for k in range(1, 59)}
        bank = {"V1": ["A", "gnd"], **{name: ["A", "gnd"] for name in parts}}
        bomb = {f"s{k}": {"reference": "gnd", "connections": bank} for k in range(12)}
        for changes, said in [
            ({"setups": self.setup(connections={**wires, "V1": ["A", "A"]})}, "V1 is shorted by its own leads"),
            ({"setups": self.setup(connections={**wires, "R1": ["A", "A"]})}, "R1 is shorted by its own leads"),
            ({"setups": self.setup(reference="elsewhere")}, "The reference node elsewhere is at no part"),
            ({"setups": self.setup(connections={**wires, "R1": ["A", "n" * 61]})}, "is no usable name"),
            ({"setups": self.setup(connections={**wires, "R1": ["A", "a\nb"]})}, "is no usable name"),
            ({"setups": self.setup(connections={**wires, "R1": ["A", "\ud800"]})}, "half a character"),
            ({"title": "\ud800"}, "half a character"),
            ({"setups": bomb, "parts": {"V1": self.WHOLE["parts"]["V1"], **parts}}, "an experiment takes 600 at most"),
        ]:
            self.assertContains(self.brought_in(**changes), html.escape(said), status_code=422)
        digits = json.dumps(self.WHOLE).replace('"version": 1', f'"version": {"1" * 5000}').encode()
        data = {"by": "import", "file": SimpleUploadedFile("t.run.json", digits)}
        self.assertContains(self.client.post("/experiments/new/", data), "thousands of digits", status_code=422)
        self.assertEqual(Experiment.objects.count(), 0)
        page = self.brought_in(setups=many)
        self.assertEqual(page.status_code, 200)
        for way in ("", "sheet/", "worked/", "what-if/"):
            self.assertEqual(self.client.get(f"{Experiment.objects.get().get_absolute_url()}{way}").status_code, 200)


class Editing(ExperimentTestCase):
    def test_parts_are_put_in_changed_and_taken_out(self) -> None:
        self.assertContains(self.act("after", part="R1", what="470"), "R4")
        self.assertEqual(self.connections()["R4"], ("C", "B"))
        self.act("parallel", part="R4", what="Rx=1k 1%")
        self.act("change", part="Rx", name="Ry", value="1k2", tolerance="2", rating="0.5")
        changed = sheet_of(self.experiment).parts
        self.assertEqual(self.connections()["Ry"], self.connections()["R4"])
        self.experiment.refresh_from_db()
        changed = sheet_of(self.experiment).parts["Ry"]
        self.assertEqual((changed.nominal.text, float(changed.tolerance), float(changed.rating)), ("1k2", 2.0, 0.5))
        self.assertEqual(sheet_of(self.experiment).parts["R4"].tolerance.text, "5%")
        self.act("remove", part="R4")
        self.act("bridge", first="A", second="gnd", what="10k")
        self.act("exchange", part="V1", what="12V")
        self.assertEqual(sheet_of(Experiment.objects.get()).parts["V1"].nominal.text, "12V")
        self.assertContains(self.act("line", line="5V: 1k | 2k"), "5V: 1k | 2k")
        self.assertContains(self.act("nodes", nodes="V1 A gnd 9V\nR1 A B 1k\nR2 B gnd 2k"), "9V: 1k + 2k")

    def test_undo_and_redo_go_through_every_state_and_versions_stay(self) -> None:
        before = self.connections()
        page = self.act("after", part="R1", what="470")
        self.assertEqual((page.context["editor"].can_undo, page.context["editor"].can_redo), (True, False))
        longer = self.connections()
        page = self.act("undo")
        self.assertEqual((page.context["editor"].can_undo, page.context["editor"].can_redo), (False, True))
        self.assertEqual(self.connections(), before)
        self.act("redo")
        self.assertEqual(self.connections(), longer)
        self.assertContains(self.act("redo"), "nothing to redo", status_code=422)
        self.act("undo")
        self.act("parallel", part="R1", what="1k")
        self.assertEqual(self.experiment.versions.count(), 3)
        self.experiment.refresh_from_db()
        self.assertEqual(self.experiment.at, 3)
        for _ in range(2):
            page = self.act("undo")
        self.assertContains(page, "nothing to undo", status_code=422)

    def test_what_is_refused_keeps_what_was_typed_and_changes_nothing(self) -> None:
        before = self.connections()
        for act, part, typed, said in [
            ("after", "R1", {"what": "4x7"}, "not understood"),
            ("after", "R9", {"what": "470"}, "no part R9"),
            ("parallel", "V1", {"what": "5V"}, "form a loop"),
            (
                "change",
                "R1",
                {"name": "R2", "value": "1k", **NOTHING},
                "named R2 already",
            ),
            (
                "change",
                "R1",
                {"name": "R1", "value": "-1k", **NOTHING},
                "not above zero",
            ),
            (
                "change",
                "V1",
                {"name": "V1", "value": "?", **NOTHING},
                "needs its value",
            ),
            ("bridge", "", {"first": "A", "second": "A", "what": "470"}, "two different nodes"),
            ("line", "", {"line": "9V: (1k"}, "not closed"),
            ("nodes", "", {"nodes": "R1 A A 1k"}, "Line 1: Both leads"),
            ("add_setup", "", {"setup_name": "main"}, "named main already"),
            ("add_setup", "", {"setup_name": " "}, "Give the setup a name"),
            ("add_setup", "", {"setup_name": "a\x00b"}, "printable characters"),
            ("add_setup", "", {"setup_name": "a\nb"}, "printable characters"),
            ("superposition", "", {}, "at least two sources"),
            ("equivalent", "V1", {}, "no resistor"),
            ("off", "R1", {}, "no source"),
            ("explode", "R1", {}, "Choose what to do"),
            ("line", "", {"line": "x" * 50_000}, "longer than"),
        ]:
            page = self.act(act, part=part, **typed)
            self.assertContains(page, said, status_code=422, msg_prefix=act)
            if (act, part) == ("parallel", "V1"):  # what was refused is drawn, its loop lit
                self.assertContains(page, "symbol-lit", count=2, status_code=422)
            for text in typed.values():
                if 1 < len(text.strip()) < 99 and text.isprintable():
                    self.assertContains(page, text, status_code=422)
        self.assertEqual(self.connections(), before)
        for act in ACTS:  # a forged setup, with every other field as if it were meant
            typed = {
                "what": "470",
                "first": "A",
                "second": "gnd",
                "line": "9V: 1k",
                "nodes": "V1 A gnd 9V\nR1 A gnd 1k",
            }
            page = self.act(act, setup="nowhere", part="R1", name="R1", value="1k", here="1k", setup_name="x", **typed)
            self.assertEqual(page.status_code, 200 if act in ("change", "exchange") else 422, act)
        self.act("undo")
        self.act("undo")
        self.assertEqual(self.client.get(f"{self.page}?setup=x&part=y&show=z").status_code, 200)

    def test_setups_sources_and_values_here(self) -> None:
        self.assertContains(self.act("add_setup", setup_name="half voltage"), 'aria-current="true">half voltage')
        page = self.act("here", setup="half voltage", part="V1", here="4.5V")
        self.assertContains(page, "4.5V here")
        self.act("remove", setup="half voltage", part="R3")
        self.assertEqual(set(self.connections("half voltage")), {"V1", "R1", "R2"})
        self.assertContains(self.act("off", setup="half voltage", part="V1"), "symbol-off-wire")
        other = self.act("line", setup="half voltage", line="5V: 1k")
        self.assertContains(other, "V1 is another part in the other setups", status_code=422)
        self.assertContains(self.act("line", setup="half voltage", line="9V: R3=3k3 + R9=100"), "R9")
        self.assertEqual(set(self.connections("half voltage")), {"V1", "R3", "R9"})
        self.assertNotContains(self.act("remove_setup", setup="half voltage"), "half voltage")
        self.act("add_setup", setup_name="swapped")
        self.act("instead", setup="swapped", part="R2", what="4k7")
        self.assertEqual(set(self.connections("swapped")), {"V1", "R1", "R3", "R4"})
        self.assertEqual(set(self.connections()), {"V1", "R1", "R2", "R3"})
        self.act("short", setup="swapped", part="R1")
        self.assertEqual(self.connections("swapped")["R3"], ("A", "gnd"))
        self.act("leave_open", setup="swapped", part="R4")
        self.assertEqual(set(self.connections("swapped")), {"V1", "R3"})
        self.act("remove_setup", setup="swapped")
        self.act("equivalent", part="R3")
        setups = list(sheet_of(Experiment.objects.get()).setups)
        self.assertEqual(setups, ["loaded", "open circuit", "looking back", "equivalent"])

    def test_only_its_owner_changes_it_and_anyone_copies_it(self) -> None:
        self.client.force_login(self.other)
        self.assertNotContains(self.client.get(self.page), "Undo")
        for path in ("", "sheet/", "asked/"):
            self.assertEqual(self.client.post(f"{self.page}{path}", {"act": "undo"}).status_code, 403)
        self.experiment.refresh_from_db()
        edit(self.experiment, self.person, lambda sheet: edits.remove(sheet, "main", "R3"))
        copy = self.client.post(f"{self.page}duplicate/", follow=True).context["experiment"]
        self.assertEqual((copy.owner, copy.title, copy.at), (self.other, "Ladder, copy", 1))
        self.assertNotIn("R3", sheet_of(copy).parts)
        self.assertContains(
            self.client.post(copy.get_absolute_url(), {"act": "undo"}, headers=HTMX), "nothing to undo", status_code=422
        )
        self.assertEqual(self.client.get("/experiments/99999/").status_code, 404)


class SheetAndRuns(ExperimentTestCase):
    def test_settings_and_readings_asked_for(self) -> None:
        good = {"title": "Sealed", "aim": "See it.", "judged_by": "uncertainty", "limit": "2", "against": "nominal",
                "sealed": "on"}  # fmt: skip
        self.assertContains(self.client.post(f"{self.page}sheet/", good, follow=True), "See it.")
        for change, field in [({"title": ""}, "title"), ({"limit": "lots"}, "limit"), ({"aim": "x" * 9999}, "aim")]:
            page = self.client.post(f"{self.page}sheet/", {**good, **change})
            self.assertEqual((page.status_code, list(page.context["form"].errors)), (422, [field]))
        page = self.client.get(f"{self.page}sheet/").content.decode()
        addresses = re.findall(r'name="asked"\s+value="([^"]+)"', page)[:5]
        self.client.post(f"{self.page}asked/", {"asked": addresses[::4], "rounds": "3", "predict": "on"})
        self.experiment.refresh_from_db()
        sheet = sheet_of(self.experiment)
        self.assertEqual((len(sheet.asked), sheet.rounds, len(sheet.predicted)), (2, 3, 2))
        self.assertEqual((sheet.judge.by, float(sheet.judge.limit), sheet.sealed), ("uncertainty", 2.0, True))
        self.assertContains(self.client.post(f"{self.page}asked/", {}), "one reading at least", status_code=422)
        self.assertEqual(self.client.post(f"{self.page}asked/", {"asked": ["999"]}).status_code, 422)

    def test_a_run_keeps_the_version_it_started_from(self) -> None:
        page = self.client.post(f"{self.page}start/", follow=True)
        run = page.context["run"]
        self.act("after", part="R1", what="470")
        self.assertNotIn("R4", run.sheets.last().sheet.as_sheet().parts)
        self.assertEqual((run.version, run.experiment), (1, self.experiment))
        self.assertIn(
            "R4",
            self.client.post(f"{self.page}start/", follow=True).context["run"].sheets.last().sheet.as_sheet().parts,
        )
        self.act("exchange", part="V1", what="100V")
        self.assertContains(self.client.post(f"{self.page}start/"), "paper only", status_code=422)

    def test_sealed_values_show_once_a_point_is_read(self) -> None:
        sealed = experiments.make_experiment(self.person, sheet_of(self.experiment))
        experiments.set_up(sealed, {"sealed": True})
        page = self.client.post(f"{sealed.get_absolute_url()}start/", follow=True)
        self.assertNotContains(page, "3.879 mA")
        self.assertContains(page, "Sealed: what is expected shows once it is read.")
        self.address = page.context["run"].get_absolute_url()
        rows = [row for section in page.context["bench"].ledger.sections for row in section.rows]
        total = next(row.address for row in rows if row.label == "Total")
        self.assertContains(self.enter(total, "2.31k"), "2.320 kΩ")
        # A worst power would give a voltage away; whether it is too much is said all the same.
        page = self.client.get(f"{self.address}?pane=checks")
        self.assertContains(page, "within rating")
        self.assertNotContains(page, " mW")
        hot = experiments.make_experiment(self.person, one_line.read("24V: 100 + 220; 5%"))
        experiments.set_up(hot, {"sealed": True})
        bench = self.client.post(f"{hot.get_absolute_url()}start/", follow=True)
        self.assertContains(bench, "R1 takes more than the usual 250.0 mW: lower the supply")
        self.assertNotContains(bench, "up to")

    def test_a_run_of_several_setups_names_them_and_lays_them_side_by_side(self) -> None:
        made = examples.series_against_parallel()
        experiment = experiments.make_experiment(self.person, made.sheet, made.aim)
        page = self.client.post(f"{experiment.get_absolute_url()}start/", follow=True)
        ledger = page.context["bench"].ledger
        titles = [section.title for section in ledger.sections]
        self.assertIn("series: total resistance", titles)
        self.assertIn("parallel: total resistance", titles)
        self.assertEqual(ledger.comparison.setups, ("series", "parallel"))
        self.run_row = run = RunRow.objects.latest("id")
        self.address = run.get_absolute_url()
        document = json.loads(self.client.get(f"{self.address}document/").content)
        targets = [(asked.get("setup"), asked.get("through")) for asked in document["asked"]]
        point = targets.index(("series", "V1"))
        page = self.enter(point, "2.80", "mA")
        self.assertIn(("V1, current", ("2.80 mA", "○")), page.context["bench"].ledger.comparison.rows)
        self.assertContains(self.client.get(self.at(point)), '<p class="next-setup" title="series">series</p>')

    def test_in_and_out_again(self) -> None:
        document = self.client.get(f"{self.page}document/").content
        self.assertEqual(run_document.read(document).sheet.setups, sheet_of(self.experiment).setups)
        netlist = self.client.get(f"{self.page}netlist/?setup=main").content.decode()
        self.assertEqual(spice.read(netlist).sheet.setups["main"].connections, self.connections())
        self.act("change", part="R1", name="R1", value="?", tolerance="", rating="")
        self.assertContains(self.client.get(f"{self.page}netlist/"), "R1 has no value", status_code=422)
        self.assertContains(self.client.get(f"{self.page}?show=currents"), '<svg class="schematic')

    def test_preferences_choose_the_symbol(self) -> None:
        self.assertNotContains(self.client.get(self.page), "zigzag")
        chosen = {
            "resistor_symbol": "zigzag",
            "source_letter": "E",
            "parallel_formula": "product",
            "voltage_law": "signed",
            "line_axes": "amps",
            "paper": "letter",
            "reading_order": "amps first",
            "opens_by": "the supply lead",
            "board_lies": "across",
            "own_calculations": "on",
        }
        self.assertEqual(self.client.post("/preferences/", chosen).status_code, 302)
        self.assertContains(self.client.get(self.page), "zigzag")
        self.assertContains(self.client.post("/preferences/", {**chosen, "source_letter": "Q"}), "valid choice")


class RareCircuits(ExperimentTestCase):
    def every_page(self) -> None:
        """All pages of the experiment and of a run of it, the board as planned among them."""
        start = self.client.post(f"{self.page}start/", follow=True)
        run = start.context["run"].get_absolute_url()
        for query in ("show=voltages", "show=currents", "show=powers"):
            self.assertContains(self.client.get(f"{self.page}?{query}"), "schematic")
        for address in (f"{self.page}worked/", f"{self.page}what-if/", f"{run}worked/", f"{run}board/"):
            self.assertEqual(self.client.get(address).status_code, 200, address)
        self.assertContains(
            self.client.post(f"{run}board/", {"act": "as_planned", "setup": "main"}, headers=HTMX), "same circuit"
        )
        self.assertEqual(self.client.get(f"{run}board/?side=path").status_code, 200)

    def test_a_part_of_the_circuit_that_hangs_on_current_sources_alone(self) -> None:
        self.act("nodes", nodes="V1 A gnd 9V\nR1 A gnd 1k\nI1 B gnd 1mA\nI2 gnd B 1mA")
        self.every_page()

    def test_no_arrow_is_drawn_where_no_current_flows(self) -> None:
        self.act("nodes", nodes="V1 A gnd 9V\nR1 A B 1k\nR2 B gnd 1k\nR3 A C 1k\nR4 C gnd 1k\nR5 B C 1k")
        page = self.client.get(f"{self.page}?show=currents").content.decode()
        self.assertEqual(page.count('class="current-arrow"'), 5)  # through V1 and R1 to R4
        self.every_page()

    def test_the_equation_of_a_source_is_told_from_that_of_a_mesh_of_its_name(self) -> None:
        self.act("line", line="10mA: 1k + 2k")
        page = self.client.get(f"{self.page}worked/", {"method": "meshes"})
        self.assertContains(page, "I1 holds its current")
        self.assertContains(page, ">Mesh I1", count=1)
        self.every_page()

    def test_a_document_with_claims_that_point_at_readings_becomes_an_experiment(self) -> None:
        document = SimpleUploadedFile("everything.run.json", EVERYTHING.read_bytes())
        page = self.client.post("/experiments/new/", {"by": "import", "file": document}, follow=True)
        self.assertContains(page, "Every key that a document may have")
        made = page.context["experiment"]
        self.assertEqual(sheet_of(made), run_document.read(EVERYTHING.read_bytes()).sheet)
