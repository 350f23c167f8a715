"""The board under the pointer and the thumb."""

from playwright.sync_api import Locator, Page, expect

from recensor.runs.models import BoardState
from tests.browser.pages import PHONE, BrowserTestCase
from tests.served import chain_run


def hole(page: Page, name: str) -> Locator:
    """A hole, or what lies over it once it is in use."""
    return page.locator(f'[data-hole="{name}"]').last


class Board(BrowserTestCase):
    def open_board(self, **options: object) -> Page:
        page = self.open(**options)
        self.sign_in(page, f"{chain_run(self.person).get_absolute_url()}board/?side=built")
        page.wait_for_load_state("load")
        return page

    def test_two_holes_chosen_one_after_the_other_place_the_next_part(self) -> None:
        page = self.open_board()
        hole(page, "+L1").click()
        expect(page.locator("#what")).to_have_value("V1 +L1")
        hole(page, "-L1").click()
        expect(page.locator("#what")).to_have_value("V1 +L1 -L1")
        page.keyboard.press("Enter")
        expect(page.locator(".supply")).to_have_count(2)
        hole(page, "b3").click()
        hole(page, "b4").click()
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("3 holes apart at least")
        expect(page.locator("#what")).to_have_value("R1 b3 b4")
        page.locator("#what").fill("R1 b3 b7")
        page.keyboard.press("Enter")
        expect(page.locator(".built-part")).to_have_count(1)
        hole(page, "a7").hover()
        expect(page.locator(".hole-same")).to_have_count(5)
        self.assertEqual(BoardState.objects.count(), 2)
        hole(page, "b7").drag_to(hole(page, "b9"))
        expect(hole(page, "b9")).to_have_attribute("data-lead", "R1 1 b3")
        self.assertEqual(BoardState.objects.count(), 3)

    def test_by_thumb_from_the_plan_to_a_probed_board(self) -> None:
        page = self.open_board(size=PHONE, has_touch=True)
        page.get_by_role("link", name="planned").tap()
        page.get_by_label("V1: +L1 to −L1").check()
        page.reload()
        page.get_by_role("link", name="planned").tap()
        expect(page.get_by_label("V1: +L1 to −L1")).to_be_checked()
        page.get_by_label("larger").check()
        self.assertGreater(page.locator(".board").bounding_box()["width"], PHONE["width"])
        page.get_by_role("button", name="It is built as planned").first.tap()
        expect(page.locator(".chosen h2")).to_contain_text("same circuit")
        page.get_by_role("button", name="pull", exact=True).first.tap()
        expect(page.locator(".differences")).to_contain_text("is pulled: put it back")
        page.get_by_role("button", name="put it back").tap()
        expect(page.locator(".differences")).to_have_count(0)
        page.get_by_label("red").fill("a2")
        page.get_by_label("black").fill("-L20")
        page.get_by_role("button", name="Read").tap()
        expect(page.locator(".display-of-meter b")).to_have_text("6.00 V")
        page.get_by_role("link", name="path", exact=True).tap()
        page.locator(".path a").nth(1).tap()
        expect(page.locator(".path-now")).to_contain_text("Node B")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])

    def test_on_the_plan_two_holes_are_where_red_and_black_go(self) -> None:
        page = self.open()
        run = chain_run(self.person)
        self.sign_in(page, f"{run.get_absolute_url()}board/")
        for node in ("A", "C"):
            page.locator(f".board [data-node={node}]").first.click()
        expect(page.locator(".next h2")).to_have_text("Voltage from A to C")
