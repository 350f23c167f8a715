"""Writing a conclusion in a real browser: kept by itself, over a lost connection, and beside a second tab."""

import time
from pathlib import Path

from playwright.sync_api import Page, Route, expect

from recensor.formats.documents import run_document
from recensor.runs import services
from recensor.runs.models import RunText
from recensor.site import demo
from tests.browser.pages import PHONE, BrowserTestCase
from tests.served import chain_run

TRANSPOSED = Path(demo.__file__).parent / "3-rain-gauge-divider.run.json"


class Conclusion(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.report = f"{chain_run(self.person).get_absolute_url()}report/"
        self.page = self.open()
        self.sign_in(self.page, self.report)

    def kept(self, page: Page) -> object:
        return page.locator("form", has=page.get_by_label("Conclusion", exact=True)).locator(".report-kept")

    def test_it_is_kept_while_it_is_written(self) -> None:
        self.page.get_by_label("Conclusion", exact=True).fill("It divides.")
        expect(self.kept(self.page)).to_contain_text("Kept")
        self.page.get_by_label("Conclusion", exact=True).fill("It divides as drawn.")
        expect(self.kept(self.page).locator("input")).not_to_have_value(str(RunText.objects.earliest("id").pk))
        self.page.reload()
        expect(self.page.locator(".report .prose")).to_contain_text("It divides as drawn.")

    def test_what_was_typed_without_a_connection_is_there_again_and_is_kept_then(self) -> None:
        self.page.context.set_offline(True)
        self.page.get_by_label("Conclusion", exact=True).fill("Written in the cellar.")
        self.page.wait_for_timeout(1_500)
        self.assertEqual(RunText.objects.count(), 0)
        self.page.context.set_offline(False)
        self.page.reload()
        expect(self.page.get_by_label("Conclusion", exact=True)).to_have_value("Written in the cellar.")
        expect(self.kept(self.page)).to_contain_text("Kept")
        self.assertEqual(RunText.objects.get().text, "Written in the cellar.")

    def test_a_page_made_before_the_text_arrived_has_it_all_the_same(self) -> None:
        """The old page's text is kept while the new page, written before that, is on its way."""
        stale = self.page.request.get(self.report).body()

        def late(route: Route) -> None:
            deadline = time.monotonic() + 10
            while not RunText.objects.exists() and time.monotonic() < deadline:
                time.sleep(0.05)
            time.sleep(0.5)  # and the old page has its answer
            route.fulfill(body=stale, content_type="text/html; charset=utf-8")

        self.page.context.set_offline(True)
        self.page.get_by_label("Conclusion", exact=True).fill("Written in the cellar.")
        self.page.wait_for_timeout(1_500)
        self.page.route(f"**{self.report}", late)
        self.page.context.set_offline(False)
        self.page.reload()
        expect(self.page.get_by_label("Conclusion", exact=True)).to_have_value("Written in the cellar.")
        expect(self.kept(self.page)).to_contain_text("Kept")

    def test_it_is_sent_when_the_connection_is_back(self) -> None:
        self.page.context.set_offline(True)
        self.page.get_by_label("Notes", exact=True).fill("Rain on the mast.")
        self.page.wait_for_timeout(1_500)
        self.page.context.set_offline(False)
        expect(self.page.locator(".report-kept").first).to_contain_text("Kept")
        self.assertEqual(RunText.objects.get().text, "Rain on the mast.")

    def test_a_second_tab_shows_what_the_first_wrote_and_replaces_it_only_then(self) -> None:
        other = self.page.context.new_page()
        other.goto(self.report)
        self.page.get_by_label("Notes", exact=True).fill("first")
        expect(self.page.locator(".report-kept").first).to_contain_text("Kept")
        other.get_by_label("Notes", exact=True).fill("second")
        expect(other.locator(".report-kept").first).to_contain_text("Both texts are below")
        expect(other.locator(".report-other")).to_have_text("first")
        expect(other.get_by_label("Notes", exact=True)).to_have_value("second")
        other.get_by_label("Notes", exact=True).fill("first and second")
        expect(other.locator(".report-kept").first).to_contain_text("Kept")
        self.assertEqual([one.text for one in RunText.objects.order_by("id")], ["first", "first and second"])

    def test_what_would_explain_it_comes_by_itself(self) -> None:
        run = services.import_run(self.person, run_document.read(TRANSPOSED.read_bytes()))
        self.page.goto(f"{run.get_absolute_url()}report/")
        expect(self.page.get_by_role("heading", name="What would explain it")).to_be_visible()
        expect(self.page.locator(".report li", has_text="weighed").first).to_contain_text(
            "two of its digits are transposed"
        )

    def test_on_a_phone_nothing_is_wider_than_the_screen(self) -> None:
        phone = self.open(PHONE)
        self.sign_in(phone, self.report)
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), PHONE["width"])
