"""An experiment from a file to a run through all its setups, and the pages around it, in a real browser."""

from playwright.sync_api import Page, expect

from recensor.core.circuit import Sheet, Target
from recensor.core.editing import edits
from recensor.core.examples import circuits, experiments
from recensor.core.plan import in_order
from recensor.core.record import Run
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from recensor.formats import spice
from recensor.formats.documents import run_document
from recensor.runs.models import ReadingRow, RunRow
from tests.browser.pages import BrowserTestCase
from tests.hidden import off_by, true_value


def shown(target: Target, sheet: Sheet) -> str:
    """What a meter of four digits shows of the circuit as it is drawn."""
    return f"{true_value(target, sheet, off_by(sheet, [1.0] * len(sheet.parts))):.3e} {target.unit}"


class WholeExperiment(BrowserTestCase):
    def open_file(self, name: str, text: str) -> Page:
        page = self.open()
        self.sign_in(page, "/experiments/new/")
        page.get_by_label("File").set_input_files({"name": name, "mimeType": "text/plain", "buffer": text.encode()})
        page.get_by_role("button", name="Read it").click()
        expect(page.locator("#editor svg")).to_be_visible()
        return page

    def test_superposition_from_a_document_through_every_setup_to_the_table_side_by_side(self) -> None:
        made = experiments.two_source_superposition()
        page = self.open_file("junction.run.json", run_document.write(Run(made.sheet)))
        page.get_by_role("link", name="V2 alone").click()
        expect(page.locator(".symbol-off-wire")).to_have_count(1)
        page.get_by_role("button", name="Start a run").click()
        expect(page.locator(".next h2")).to_have_text("V1 before connecting")
        page.wait_for_load_state("load")
        run = sheet_of(Experiment.objects.get())
        setups = []
        for target in (run.asked[k] for k in in_order(run.asked, run)):
            setup = page.locator(".next-setup")
            setups.append(setup.inner_text() if setup.count() else "")
            self.read(page, shown(target, run))
        self.assertEqual([setup for k, setup in enumerate(setups) if setup not in setups[:k]],
                         ["", "all sources", "V1 alone", "V2 alone"])  # fmt: skip
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        page.keyboard.press("Alt+k")
        row = page.get_by_label("Setups side by side").locator("tr", has_text="R3, current")
        expect(row).to_be_visible()
        self.assertEqual(row.locator("td").count(), 3)
        expect(page.locator(".checks", has_text="each source alone add up")).to_contain_text("R3")
        self.assertEqual(ReadingRow.objects.count(), len(run.asked))
        self.assertEqual(RunRow.objects.get().version, 1)

    def test_a_netlist_is_worked_out_and_tried_out_with_other_values(self) -> None:
        bridge = circuits.bridge()
        page = self.open_file("bridge.cir", spice.write(bridge, bridge.setups["main"]))
        page.get_by_role("link", name="Worked out").click()
        expect(page.locator(".worked-step")).to_have_count(5)
        width = page.locator(".worked-step math").first.bounding_box()["width"]
        self.assertGreater(width, 60, "the browser sets the formulas")
        page.get_by_role("link", name="meshes").click()
        expect(page.locator(".worked-step h2").first).to_contain_text("Mesh I1")
        page.get_by_role("link", name="What if").click()
        moved = page.locator(".moved tr", has_text="voltage of R5")
        before = moved.locator("td").nth(1).inner_text()
        slider = page.get_by_label("R1 within")
        slider.focus()
        for _ in range(4):
            page.keyboard.press("ArrowRight")
        expect(moved.locator(".has-moved")).not_to_have_text(before)
        page.get_by_label("What if R1 were").fill("4x7")
        expect(page.locator("#moved .field-error")).to_contain_text("R1: “4x7” is not understood")
        expect(page.get_by_label("What if R1 were")).to_have_value("4x7")
        page.get_by_label("What if R1 were").fill("2k2")
        expect(page.locator("#moved .field-error")).to_have_count(0)

    def test_the_sheet_chooses_readings_seals_and_starts_with_a_meter(self) -> None:
        make_experiment(self.person, edits.asking_everything(circuits.divider()))
        page = self.open()
        self.sign_in(page, f"{Experiment.objects.get().get_absolute_url()}sheet/")
        page.get_by_label("Sealed").check()
        page.get_by_label("Aim").fill("Half of it?")
        page.get_by_role("button", name="Keep this").click()
        page.get_by_label("R1 by itself").uncheck()
        page.get_by_role("button", name="Ask for these").click()
        expect(page.get_by_label("R1 by itself")).not_to_be_checked()
        page.get_by_label("Meter", exact=True).fill("DMM-4")
        page.get_by_role("button", name="Start it so").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        expect(page.locator(".bench-note")).to_contain_text("Sealed")
        self.assertEqual(RunRow.objects.get().meter.name, "DMM-4")
        page.locator("#bench-menu summary").click()
        page.get_by_role("link", name="Worked out").click()
        expect(page.locator(".notice")).to_contain_text("sealed")

    def test_preferences_change_what_is_drawn_and_written(self) -> None:
        experiment = make_experiment(self.person, edits.asking_everything(circuits.bank(2)))
        page = self.open()
        self.sign_in(page, "/preferences/")
        page.get_by_label("Resistors are drawn as").select_option("zigzag")
        page.get_by_label("Parallel resistors").select_option(label="product over sum, for two")
        page.get_by_role("button", name="Keep them").click()
        page.goto(experiment.get_absolute_url())
        expect(page.locator(".zigzag")).to_have_count(2)
        page.goto(f"{experiment.get_absolute_url()}worked/")
        expect(page.locator(".worked-step mfrac").first).to_contain_text("·")
