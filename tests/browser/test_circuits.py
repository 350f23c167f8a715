"""Parts in hand at the bench, by keyboard: circuits in a line, a table of volts and amps, a load taken off.

What is counted is every key and press beside digits, Enter, and the letters of a line that is typed.
"""

from playwright.sync_api import Page, expect

from recensor.core.circuit import one_line
from recensor.core.simulation import SimulatedBench
from recensor.runs import queries, services
from tests.browser.pages import BrowserTestCase


class PartsInHand(BrowserTestCase):
    def begin(self, line: str) -> Page:
        sheet = one_line.read(line)  # nothing is asked for yet
        self.run_row = services.start_run(self.person, sheet)
        page = self.open()
        self.sign_in(page, self.run_row.get_absolute_url())
        return page

    def core(self):
        return queries.load(queries.any_run().get(pk=self.run_row.pk)).core

    def work_through(self, page: Page) -> None:
        """Read everything that is asked for, as the circuit gives it, with power as the card says."""
        while page.locator("#entry").count():
            self.read(page, self.shown(page))

    def shown(self, page: Page) -> str:
        """What a meter shows at the measurement of the card."""
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        target = loaded.target_at(page.locator("#entry [name=measurement]").input_value())
        true = {name: float(part.nominal) for name, part in loaded.core.sheet.parts.items() if part.nominal}
        value = SimulatedBench(loaded.core.sheet, true, None).true_value(target)
        return f"{value:#.5g} {target.unit}"

    def test_three_resistors_make_five_circuits(self) -> None:
        page = self.begin("9V: 1k + 2k2 + 3k3; 5%")
        self.press(page, "Alt+j")
        expect(page.locator("#build-circuits")).to_be_focused()
        page.keyboard.type("R1 + R2, R1 | R2, R1 | R2 | R3, R1 + (R2 | R3), R3 + R1")
        expect(page.locator("#proposed-circuits svg")).to_have_count(5)
        self.press(page, "Enter")
        self.work_through(page)
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        self.assertEqual(len(self.core().sheet.setups), 6)
        self.press(page, "Alt+j")
        expect(page.locator(".circuits tbody tr:not(.built)")).to_have_count(6)
        expect(page.locator(".circuits .figures .verdict-agrees")).to_have_count(5)

    def test_built_up_to_four_branches_by_one_press_each(self) -> None:
        page = self.begin("9V: 1k; 5%")
        self.press(page, "Alt+j")
        page.locator("#new-parts").fill("2k2, 3k3, 4k7")
        self.press(page, "Enter")
        self.work_through(page)
        for branches in (2, 3, 4):
            self.press(page, "Alt+j")
            self.wait_for(page, page.get_by_role("button", name="as a branch").click)
            self.work_through(page)
            self.assertEqual(len(self.core().sheet.setups), branches)
        self.assertEqual(list(self.core().sheet.setups)[-1], "R1 | R2 | R3 | R4")

    def test_a_load_is_taken_off_and_others_are_put_in_its_place(self) -> None:
        page = self.begin("9V: 1k + (2k2 | RL=3k3); 5%")
        self.press(page, "Alt+j")
        self.wait_for(page, page.get_by_role("link", name="load off, then source off too").click)
        expect(page.locator("#build-circuits")).to_be_focused()
        self.press(page, "Enter")
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        self.work_through(page)
        self.press(page, "Alt+j")
        page.locator("#build-circuits").fill("load RL 100, load RL 470, load RL 1k")
        self.press(page, "Enter")
        self.work_through(page)
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        names = list(self.core().sheet.setups)
        self.assertEqual(names, ["main", "RL out", "RL out and V1 off", "RL 100", "RL 470", "RL 1k"])

    def test_ten_rows_of_a_pair_are_digits_and_enter(self) -> None:
        page = self.begin("9V: 1k + (2k2 | 3k3); 5%")
        self.press(page, "Alt+j")
        page.locator("#table-of").fill("B gnd")
        self.press(page, "Enter")
        for row in range(1, 11):
            expect(page.locator(".next h2")).to_have_text(f"Volts in row {row}")
            self.read(page, f"{row / 2:.2f}")
            self.read(page, f"{row / 2.64:.3f}")
        expect(page.locator(".line-rows tbody tr")).to_have_count(11)
        expect(page.locator(".line .verdict-agrees")).to_be_visible()
        expect(page.locator(".line-rows .table-active")).to_be_in_viewport()
