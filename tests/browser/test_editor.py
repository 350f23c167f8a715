"""The circuit editor by keyboard, by mouse and by thumb."""

from playwright.sync_api import Page, expect

from recensor.core.circuit import asking_everything
from recensor.core.examples import circuits, experiments
from recensor.experiments.models import Experiment
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import make_experiment
from tests.browser.pages import PHONE, BrowserTestCase


class Editor(BrowserTestCase):
    def settle(self, page: Page, act: object) -> None:
        """Do something that exchanges the editor, and wait until it has."""
        page.evaluate(
            "() => { window.settled = new Promise(go => addEventListener('htmx:afterSettle', go, {once: true})) }"
        )
        act()
        page.evaluate("() => window.settled.then(() => true)")

    def parts(self) -> list[str]:
        return list(sheet_of(Experiment.objects.get()).parts)

    def test_from_one_line_to_a_changed_circuit_by_keyboard_alone(self) -> None:
        page = self.open()
        self.sign_in(page, "/experiments/new/")
        page.get_by_label("Title").fill("My ladder")
        page.get_by_label("Circuit in one line").fill("9V: 1k + (2k2 | 3k3)")
        page.keyboard.press("Enter")
        expect(page.locator("#editor svg")).to_be_visible()
        page.wait_for_load_state("load")
        for _ in range(2):  # from nothing to V1, then to R1
            self.settle(page, lambda: page.keyboard.press("ArrowDown"))
        expect(page.locator(".chosen h2")).to_contain_text("R1")
        page.keyboard.press("4")
        expect(page.locator("#what")).to_be_focused()
        page.keyboard.type("70")
        self.settle(page, lambda: page.keyboard.press("Enter"))
        self.assertEqual(self.parts(), ["V1", "R1", "R2", "R3", "R4"])
        page.keyboard.press("1")
        page.keyboard.type("k5")
        page.keyboard.press("Escape")
        self.settle(page, lambda: page.keyboard.press("p"))
        expect(page.locator("#editor .symbol")).to_have_count(6)
        self.settle(page, lambda: page.keyboard.press("u"))
        self.settle(page, lambda: page.keyboard.press("u"))
        self.assertEqual(self.parts(), ["V1", "R1", "R2", "R3"])
        self.settle(page, lambda: page.keyboard.press("U"))
        expect(page.locator("#line")).to_have_value("9V: 1k + R4=470 + (R2=2k2 | R3=3k3)")

    def test_the_drawing_chooses_and_what_is_wrong_is_said_beside_it(self) -> None:
        make_experiment(self.person, asking_everything(circuits.bridge()))
        page = self.open()
        self.sign_in(page, Experiment.objects.get().get_absolute_url())
        page.locator(".row-part", has_text="R2").hover()
        expect(page.locator("#part-2")).to_have_class("symbol symbol-resistor symbol-hover")
        self.settle(page, lambda: page.locator("#part-0").click())
        page.locator("#what").fill("5V")
        self.settle(page, lambda: page.get_by_role("button", name="in parallel").click())
        expect(page.get_by_role("alert").first).to_contain_text("V1 and V2 form a loop")
        expect(page.locator("#what")).to_have_value("5V")
        expect(page.locator(".symbol-lit")).to_have_count(2)
        self.assertEqual(len(self.parts()), 6)

    def test_by_thumb_and_through_its_setups(self) -> None:
        made = experiments.loaded_divider()
        make_experiment(self.person, made.sheet, made.aim)
        page = self.open(PHONE, has_touch=True)
        self.sign_in(page, Experiment.objects.get().get_absolute_url())
        page.wait_for_load_state("load")
        self.settle(page, lambda: page.get_by_role("link", name="loaded", exact=True).tap())
        self.settle(page, lambda: page.locator(".symbol", has_text="RL").tap())
        expect(page.locator(".chosen h2")).to_contain_text("RL")
        page.get_by_label("Value in this setup").fill("1k")
        self.settle(page, lambda: page.get_by_role("button", name="Set", exact=True).tap())
        expect(page.locator(".row-part", has_text="RL")).to_contain_text("1k here")
        page.get_by_role("button", name="Start a run").tap()
        expect(page.locator(".next h2")).to_have_text("R1 by itself")
