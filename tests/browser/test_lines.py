"""A sweep typed at the keyboard and on a phone, the plot growing; the editor's way to one; what was seen of a lamp."""

from playwright.sync_api import expect

from recensor.core.circuit import asking_everything, one_line
from recensor.core.examples import experiments
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from recensor.runs import services
from recensor.runs.models import ReadingRow, Sighting
from tests.browser.pages import PHONE, BrowserTestCase

ROWS = [("0.502", "13.1"), ("1.003", "18.6"), ("2.004", "27.1"), ("3.01", "34.4"), ("4.00", "40.2"), ("5.01", "45.1"),
        ("6.00", "49.9")]  # fmt: skip


class Lines(BrowserTestCase):
    def test_digits_and_enter_row_after_row_until_a_curve_is_better(self) -> None:
        run = services.start_run(self.person, experiments.lamp_curve().sheet)
        page = self.open(PHONE)
        self.sign_in(page, run.get_absolute_url())
        self.read(page, "12.6")
        for number, (volts, amps) in enumerate(ROWS, 1):
            expect(page.locator(".next h2")).to_contain_text(f"Volts in row {number}")
            self.read(page, volts)
            self.assertEqual(self.read(page, amps), 0)  # power stays on from row to row
            expect(page.locator(".plot title")).to_have_count(number)  # a point more, at once
        expect(page.locator(".line-reason")).to_contain_text("a curve is clearly better")
        expect(page.locator(".plot-curve")).to_be_visible()
        self.assertEqual(ReadingRow.objects.count(), 15)
        # Nothing is wider than the phone.
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)

    def test_a_stray_point_is_named_and_its_row_is_one_press_away(self) -> None:
        run = services.start_run(self.person, experiments.line_of_a_resistor().sheet)
        page = self.open()
        self.sign_in(page, run.get_absolute_url())
        self.read(page, "98.6")
        for volts, amps in (
            ("1.004", "10.17"),
            ("3.012", "30.54"),
            ("5.008", "50.73"),
            ("7.02", "77.2"),
            ("9.01", "91.4"),
        ):
            self.read(page, volts)
            self.read(page, amps)
            if page.locator("[data-question]").count():
                self.wait_for(page, page.get_by_role("button", name="as typed").click)
        expect(page.locator(".line-reason")).to_contain_text("Row 4 does not fit the others")
        expect(page.locator(".plot-stray").first).to_contain_text("row 4?")
        page.locator(".line-rows tr").nth(4).get_by_role("link").nth(1).click()
        expect(page.locator(".next h2")).to_contain_text("Amps in row 4")

    def test_a_lamp_is_seen_by_one_press(self) -> None:
        run = services.start_run(self.person, asking_everything(one_line.read("6V: 22 + lamp 6V 50mA")))
        page = self.open()
        self.sign_in(page, run.get_absolute_url())
        page.wait_for_load_state("load")
        self.wait_for(page, page.get_by_role("button", name="dim", exact=True).click)
        expect(page.get_by_role("button", name="dim", exact=True)).to_have_attribute("aria-pressed", "true")
        self.assertEqual(Sighting.objects.get().light, "dim")


class Editing(BrowserTestCase):
    def test_a_light_diode_a_line_and_two_setups(self) -> None:
        make_experiment(self.person, asking_everything(one_line.read("5V: 330")))
        page = self.open()
        address = Experiment.objects.get().get_absolute_url()
        self.sign_in(page, f"{address}?part=R1")
        page.wait_for_load_state("load")
        page.locator("#what").fill("led 1.9V 10mA")
        self.wait_for(page, page.get_by_role("button", name="in series after").click)
        expect(page.locator(".symbol-led")).to_have_count(1)
        page.locator("[name=first_setting]").fill("2V")
        page.locator("[name=last_setting]").fill("8V")
        page.locator("[name=rows]").fill("4")
        self.wait_for(page, page.get_by_role("button", name="Read its line").click)
        expect(page.get_by_text("4 settings of V1, 2V, 4V, 6V, 8V")).to_be_visible()
        page.locator("[name=rows]").fill("many")
        page.locator("[name=first_setting]").fill("2V")
        page.locator("[name=last_setting]").fill("8V")
        self.wait_for(page, page.get_by_role("button", name="Read its line").click)
        expect(page.locator(".field-error")).to_contain_text("is no number of rows")
        expect(page.locator("[name=rows]")).to_have_value("many")
        self.assertEqual(len(sheet_of(Experiment.objects.get()).sweeps), 1)
        page.goto(f"{address}worked/")
        expect(page.locator(".worked-plot svg")).to_be_visible()
