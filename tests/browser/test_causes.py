"""Causes at the bench in a real browser: found while reading, corrected in one press, undone by one key."""

from playwright.sync_api import Page, expect

from recensor.core.circuit import asking_everything, one_line
from recensor.runs import services
from tests.browser.pages import PHONE, WIDE, BrowserTestCase

SHEET = asking_everything(one_line.read("6V: 1k + 2k + 3k; 5%"))
# Parts, total, source, under load, the first drop; then a drop whose digits are transposed.
READ = ["0.998k", "2.01k", "2.97k", "5.98k", "6.02 V", "6.01 V", "1.003 V"]


class Causes(BrowserTestCase):
    def begin(self, texts: list[str], size: dict[str, int] = WIDE) -> Page:
        """A run as far as it is typed; what is asked about is as it was typed."""
        run = services.start_run(self.person, SHEET)
        page = self.open(size)
        self.sign_in(page, run.get_absolute_url())
        page.wait_for_load_state("load")
        for text in texts:
            self.read(page, text)
            if page.locator("[data-question]").count():
                page.locator("[data-answer]").last.click()
                expect(page.locator("[data-question]")).to_have_count(0)
        return page

    def test_a_slip_is_named_corrected_and_that_undone_by_one_key(self) -> None:
        page = self.begin([*READ, "2.20 V"])
        line = page.locator("[data-causes]")
        expect(line).to_contain_text("2.02 V: two of its digits are transposed")
        row = page.locator(".filled [data-stands]", has_text="transposed digits")
        expect(row).to_have_count(1)
        page.locator("[data-correct-cause]").click()
        expect(line).to_have_count(0)
        expect(page.locator(".filled .verdict-outside")).to_have_count(0)
        expect(page.locator("#reading-text")).to_be_focused()
        page.keyboard.press("Alt+Backspace")
        expect(line).to_contain_text("two of its digits are transposed")

    def test_an_open_joint_is_found_at_the_second_reading_and_the_next_one_is_one_press_away(self) -> None:
        page = self.begin([*READ[:6], "0.000 V"], PHONE)
        line = page.locator("[data-causes]")
        expect(line).to_contain_text("came open after the resistance was read")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
        line.get_by_role("link", name="next").click()
        expect(line).to_contain_text("came open")
        expect(page.locator("#reading-text")).to_be_focused()

    def test_its_pane_takes_the_place_of_the_line(self) -> None:
        page = self.begin([*READ, "2.20 V"])
        page.keyboard.press("Alt+w")
        expect(page.locator("#pane")).to_contain_text("two of its digits are transposed")
        expect(page.locator(".below > .causes")).to_be_hidden()

    def test_what_is_typed_while_causes_are_looked_for_stays(self) -> None:
        page = self.begin([*READ, "2.20 V"])
        page.keyboard.type("2.9")
        expect(page.locator("[data-causes]")).to_contain_text("transposed")
        page.keyboard.type("85")
        expect(page.locator("#reading-text")).to_have_value("2.985")

    def test_the_page_reads_without_colour_and_its_budgets_open(self) -> None:
        page = self.begin([*READ, "2.20 V"])
        page.locator("[data-causes]").get_by_role("link", name="Why, and what else").click()
        expect(page.get_by_role("heading", name="what would explain it")).to_be_visible()
        expect(page.locator("svg.deviations")).to_contain_text("≠")
        page.get_by_text("What makes it uncertain").first.click()
        expect(page.locator("details.budget[open]")).to_contain_text("U =")
        page.locator(".causes-list [data-correct-cause]").first.click()
        expect(page.locator("#bench")).to_be_visible()
        expect(page.locator("[data-causes]")).to_have_count(0)
