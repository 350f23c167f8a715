"""Sorting a handful by keyboard, with and without a connection."""

from decimal import Decimal

from playwright.sync_api import Page, expect

from recensor.kits import services
from recensor.kits.models import SortedPart
from tests.browser.pages import BrowserTestCase


class SortingTable(BrowserTestCase):
    def open_table(self) -> Page:
        kit = services.make_kit(self.person, "Stock")
        page = self.open()
        self.sign_in(page, services.start_sorting(kit, 12, Decimal(5)).get_absolute_url())
        page.wait_for_load_state("load")
        return page

    def count(self, page: Page, nominal: str) -> object:
        return page.locator(".tally tbody tr", has_text=nominal).locator(".count")

    def test_reading_and_enter_sorts_part_after_part_and_puts_them_away(self) -> None:
        page = self.open_table()
        loads = []
        page.on("load", lambda: loads.append(page.url))
        for text, goes in [("470", "470 Ω"), ("468", "470 Ω"), ("1.01k", "1 kΩ"), ("1070", "aside"), ("475", "470 Ω")]:
            expect(page.locator("#reading-text")).to_be_focused()
            self.read(page, text)
            expect(page.locator(".goes > b")).to_have_text(goes)
        expect(self.count(page, "470 Ω")).to_have_text("3")
        expect(page.locator(".tally tbody tr", has_text="1 kΩ")).to_contain_text("1 out")
        expect(page.locator("#recent li")).to_have_count(5)
        page.keyboard.press("?")
        page.locator("#reading-text").fill("")
        page.keyboard.press("Alt+Backspace")
        expect(self.count(page, "470 Ω")).to_have_text("2")
        expect(page.locator("#recent .entry-struck")).to_have_count(1)
        self.assertEqual(loads, [])
        page.get_by_role("button", name="Done").click()
        expect(page.get_by_label("How many of 470 Ω ± 5 %")).to_have_value("2")

    def test_without_a_connection_the_part_is_sent_once_when_it_is_back(self) -> None:
        page = self.open_table()
        page.context.set_offline(True)
        page.locator("#reading-text").fill("470")
        page.keyboard.press("Enter")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 470")
        page.context.set_offline(False)
        expect(page.locator(".goes > b")).to_have_text("470 Ω")
        self.assertEqual([part.text for part in SortedPart.objects.all()], ["470"])
