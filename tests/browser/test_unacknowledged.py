"""Readings that the server has not acknowledged: kept, marked, sent again, never twice."""

import re
import uuid

from playwright.sync_api import Page, Route, expect

from recensor.core import record
from recensor.core.quantity import parse
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, RunRow
from tests.browser.pages import BrowserTestCase
from tests.served import chain_run


class Unacknowledged(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.open()
        self.address = chain_run(self.person).get_absolute_url()
        self.sign_in(self.page, self.address)

    def type(self, text: str) -> Page:
        self.page.locator("#reading-text").fill(text)
        self.page.keyboard.press("Enter")
        return self.page

    def test_without_a_connection_the_reading_stays_and_is_sent_once_when_it_is_back(self) -> None:
        self.page.context.set_offline(True)
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 0.998 kΩ")
        expect(page.locator("#reading-text")).to_have_value("0.998")
        self.assertEqual(ReadingRow.objects.count(), 0)
        page.context.set_offline(False)
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual([r.text for r in ReadingRow.objects.all()], ["0.998"])

    def test_an_answer_that_was_lost_on_its_way_makes_no_second_reading(self) -> None:
        def lose_the_answer(route):
            route.fetch()
            route.abort()

        self.page.route("**/record/", lose_the_answer, times=1)
        page = self.type("0.998")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual(ReadingRow.objects.count(), 1)

    def test_an_entry_that_waits_leaves_what_is_typed_at_another_point_alone(self) -> None:
        held = self.lose_one_and_hold_the_next()
        page = self.type("0.998")
        self.go_on_to_the_next_point("Not saved: 0.998 kΩ")
        page.locator("#reading-text").fill("2.0")
        with page.expect_response("**/record/"):
            self.let_go(held)
        expect(page.locator("#reading-text")).to_have_value("2.0")
        page.keyboard.press("Enter")
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        self.assertEqual([(r.of, r.text) for r in ReadingRow.objects.all()], [("R1", "0.998"), ("R2", "2.0")])

    def test_a_waiting_entry_that_is_refused_later_is_said(self) -> None:
        held = self.lose_one_and_hold_the_next()
        page = self.type("about 1k")
        self.go_on_to_the_next_point("Not saved: about 1k")
        self.let_go(held)
        expect(page.locator("#refusal")).to_contain_text("did not take about 1k")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")

    def test_what_is_typed_while_an_earlier_text_is_sent_again_stays(self) -> None:
        held = self.lose_one_and_hold_the_next()
        page = self.type("1.01")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 1.01 kΩ")
        page.locator("#reading-text").fill("1.07")
        self.let_go(held)
        expect(page.locator("#refusal")).to_contain_text("1.01 kΩ is recorded")
        expect(page.locator("#reading-text")).to_have_value("1.07")
        page.keyboard.press("Enter")
        expect(page.locator(".recorded")).to_contain_text("stands instead of 1.01 kΩ")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual([(r.of, r.text) for r in ReadingRow.objects.all()], [("R1", "1.01"), ("R1", "1.07")])

    def test_what_the_server_never_takes_is_sent_a_few_times_and_can_be_discarded(self) -> None:
        sent: list[str] = []

        def fail(route: Route) -> None:
            sent.append(route.request.url)
            route.fulfill(status=500, body="failed")

        self.page.route("**/record/", fail)
        with self.settings(OUTBOX_RETRY_MILLISECONDS=50):
            self.page.reload()
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("not sent by itself any more")
        self.assertEqual(len(sent), 6)
        page.locator("[data-not-saved]").get_by_role("button", name="discard").click()
        expect(page.locator("[data-not-saved]")).to_be_hidden()
        page.unroute("**/record/")
        page.reload()
        expect(page.locator(".next h2")).to_have_text("R1 by itself")
        self.assertEqual(ReadingRow.objects.count(), 0)

    def test_a_kept_entry_is_sent_also_when_every_point_was_read_elsewhere(self) -> None:
        self.page.route("**/record/", lambda route: route.abort())
        with self.settings(OUTBOX_RETRY_MILLISECONDS=60_000):
            self.page.reload()
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved")
        run = RunRow.objects.following().get()
        for target in queries.load(run).points:
            services.record_reading(run, self.person, record.Reading(target, parse("1", target.unit)), uuid.uuid4())
        read = ReadingRow.objects.count()
        page.reload()
        expect(page.locator("#refusal")).to_contain_text("Not saved: 0.998 kΩ")
        expect(page.locator("form[data-outbox]")).to_have_count(0)
        page.unroute("**/record/")
        page.locator("#refusal").get_by_role("button", name="send now").click()
        expect(page.locator("#refusal")).to_be_hidden()
        self.assertEqual(ReadingRow.objects.count(), read + 1)

    def test_an_undo_whose_answer_was_lost_takes_no_second_reading_back(self) -> None:
        for text, there in (("0.998", "R2 by itself"), ("2.2", "R3 by itself")):
            page = self.type(text)
            expect(page.locator(".next h2")).to_have_text(there)

        def lose_the_answer(route: Route) -> None:
            route.fetch()
            route.abort()

        page.route("**/undo/", lose_the_answer, times=1)
        page.locator("[data-undo]").click()
        expect(page.locator("#refusal")).to_contain_text("Whether this was done is not known")
        page.locator("[data-undo]").click()
        expect(page.locator(".entries")).to_contain_text("struck: undone")
        self.assertEqual([r.text for r in ReadingRow.objects.filter(lines=None)], ["0.998"])

    def test_what_is_typed_outlives_a_reload_and_signing_out_asks_about_what_is_not_saved(self) -> None:
        page = self.page
        page.locator("#reading-text").fill("0.99")
        page.reload()
        expect(page.locator("#reading-text")).to_have_value("0.99")
        page.context.set_offline(True)
        self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_be_visible()
        page.locator("[data-sign-out] button").evaluate("button => button.click()")
        expect(page.locator("#refusal")).to_contain_text("is not saved yet")
        page.route("**/record/", lambda route: route.abort())
        page.context.set_offline(False)
        page.locator("[data-sign-out] button").evaluate("button => button.click()")
        expect(page).to_have_url(re.compile("/sign-in/"))
        self.assertEqual(page.evaluate("Object.keys(localStorage).filter(key => key.includes('outbox'))"), [])

    def lose_one_and_hold_the_next(self) -> list[Route]:
        """The first sending is lost; the second waits in the list that is given."""
        held: list[Route] = []
        # The route that was laid last is asked first.
        self.page.route("**/record/", lambda route: held.append(route), times=1)
        self.page.route("**/record/", lambda route: route.abort(), times=1)
        return held

    def go_on_to_the_next_point(self, said: str) -> None:
        expect(self.page.locator("[data-not-saved]")).to_contain_text(said)
        self.page.keyboard.press("Alt+ArrowDown")
        expect(self.page.locator(".next h2")).to_have_text("R2 by itself")

    def let_go(self, held: list[Route]) -> None:
        """Let the held sending pass, as soon as it is there."""
        while not held:
            self.page.wait_for_timeout(20)
        held[0].continue_()

    def test_double_click_makes_one_reading(self) -> None:
        self.page.locator("#reading-text").fill("0.998")
        self.page.get_by_role("button", name="Record", exact=True).dblclick()
        expect(self.page.locator(".next h2")).to_have_text("R2 by itself")
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(ReadingRow.objects.count(), 1)

    def test_an_expired_sign_in_keeps_the_reading_until_someone_signs_in_again(self) -> None:
        self.page.context.clear_cookies()
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 0.998 kΩ")
        page.locator("#refusal").get_by_role("link", name="Sign in").click()
        page.get_by_label("Name").fill("bench-1")
        page.get_by_label("Password").fill("a-long-word")
        page.get_by_role("button", name="Sign in").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual([r.text for r in ReadingRow.objects.all()], ["0.998"])
