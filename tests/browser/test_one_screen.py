"""The bench is one screen: nothing that is needed for the next reading moves or scrolls, at any size."""

from itertools import pairwise

from django.db.models import Max
from playwright.sync_api import Page, Route, expect

from recensor.core.circuit import one_line
from recensor.core.editing.edits import asking_everything
from recensor.core.judgement import assess
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, RunRow
from tests.browser.pages import PHONE, WIDE, BrowserTestCase
from tests.samples import WHOLE, samples
from tests.served import chain_run

TABLET = {"width": 1024, "height": 768}
# What a phone's keyboard leaves of 844 px, on the tall side of those in use (common practice, no source).
ABOVE_KEYBOARD = 844 - 336
CONTROLS = """() => [...document.querySelectorAll('a[href], button, input, select, textarea, summary')]
  .filter(control => {
    const box = control.getBoundingClientRect();
    return control.checkVisibility() && box.width > 2 && box.height > 2 && box.top < innerHeight && box.bottom > 0;
}).length"""
LINE = "9V: 1k + 470 + 220 + (2k2 | 3k3); 5%"


class OneScreen(BrowserTestCase):
    def begin(self, line: str = LINE, title: str = "Night light", size: dict[str, int] = WIDE) -> Page:
        self.run_row = services.start_run(self.person, asking_everything(one_line.read(line, title)))
        page = self.open(size)
        self.sign_in(page, self.run_row.get_absolute_url())
        return page

    def expected(self, page: Page, times: float = 1.0) -> str:
        """What the meter shows at the measurement that the page stands at."""
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        target = loaded.target_at(page.locator("#entry [name=measurement]").input_value())
        value = assess(loaded.core).expected(target).value
        return f"{value * times:#.4g} {target.unit}"

    def places(self, page: Page) -> dict[str, float]:
        """Where the entry begins at each size; what one needs for the next reading is in view."""
        tops = {}
        for size in (TABLET, PHONE, WIDE):
            page.set_viewport_size(size)
            for needed in ("#reading-text", ".answer", ".probes"):
                box = page.locator(needed).bounding_box()
                self.assertLess(box["y"] + box["height"], size["height"], (needed, size))
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, size["width"])
            if size is PHONE:
                answer = page.locator(".answer > p").first
                lowest = answer if answer.count() else page.locator("#reading-text")
                box = lowest.bounding_box()
                self.assertLess(box["y"] + box["height"], ABOVE_KEYBOARD)
            else:
                self.assertLessEqual(page.evaluate("document.documentElement.scrollHeight"), size["height"])
            tops[str(size["width"])] = page.locator("#reading-text").bounding_box()["y"]
        return tops

    def test_the_entry_stays_through_thirty_entries_with_questions_and_causes(self) -> None:
        most = samples(20, 30)
        page = self.begin()
        seen, entries, asked, explained = [self.places(page)], 0, 0, 0
        while page.locator("#reading-text").count() and entries < most:
            wrong = entries % 3 == 1 and not page.locator("#entry-stands").count()
            self.read(page, self.expected(page, 10.0 if entries % 2 else 1.3) if wrong else self.expected(page))
            entries += 1
            if page.locator("[data-question]").count():
                asked += 1
                if WHOLE or asked < 4:
                    seen.append(self.places(page))
                self.wait_for(page, page.locator("[data-answer]").last.click)
            if page.locator("[data-causes]").count():
                explained += 1
                expect(page.locator(".seeking")).to_have_count(0)
            if page.locator("#reading-text").count() and (WHOLE or entries % 3 == 0):
                seen.append(self.places(page))
            if page.locator(".recorded > .verdict-outside").count():
                self.press(page, "Alt+r")
        self.assertGreater(min(asked, explained), samples(1, 2))
        self.assertGreaterEqual(entries, min(most, 21))
        for before, after in pairwise(seen):
            for size, top in before.items():
                self.assertLessEqual(abs(top - after[size]), 4, size)

    def test_at_most_fifteen_controls_before_more(self) -> None:
        for size in (WIDE, PHONE):
            page = self.begin(size=size)
            for _ in range(3):
                self.assertLessEqual(page.evaluate(CONTROLS), 15)
                self.read(page, self.expected(page))
            page.keyboard.press("Alt+m")
            expect(page.get_by_label("meter range")).to_be_visible()

    def test_zoomed_to_twice_the_size_entry_answer_and_instruction_stay_in_view(self) -> None:
        page = self.begin(size={"width": 640, "height": 400})
        self.read(page, self.expected(page))
        for needed in ("#reading-text", ".answer > p", ".probes"):
            box = page.locator(needed).first.bounding_box()
            self.assertLess(box["y"] + box["height"], 400, needed)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 640)

    def test_the_end_says_what_came_out_and_offers_the_report(self) -> None:
        page = self.begin("6V: 1k + 2k; 5%")
        for _ in range(8):
            self.read(page, self.expected(page, 1.3 if page.locator("h2", has_text="Voltage across R2").count() else 1))
            if page.locator("[data-question]").count():
                self.wait_for(page, page.locator("[data-answer]").last.click)
        # The second of two Enters in rhythm, which comes as soon as the page has its answer, leaves nothing.
        second = (
            "link => { document.dispatchEvent(new Event('htmx:afterSettle')); return link.dispatchEvent("
            "new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true})) }"
        )
        self.assertFalse(page.locator("[data-write-report]").evaluate(second))
        end = page.get_by_role("region", name="out by")
        expect(end.get_by_role("link", name="Write the report")).to_be_focused()
        again = end.locator(".misfits").get_by_role("link", name="Read it again")
        self.assertGreater(again.count(), 0)
        again.last.click()
        expect(page.locator("#reading-text")).to_be_focused()

    def test_panes_open_by_a_key_each_and_what_is_typed_stays(self) -> None:
        page = self.begin()
        self.read(page, self.expected(page))
        page.keyboard.type("46")
        for key, shows in (
            ("g", "Total resistance"),
            ("k", "Power at worst"),
            ("k", "Parts, each by itself"),
        ):
            page.keyboard.press(f"Alt+{key}")
            expect(page.locator("#pane")).to_contain_text(shows)
            expect(page.locator("#reading-text")).to_have_value("46")
            expect(page.locator("#reading-text")).to_be_focused()
        page.keyboard.press("Alt+l")
        expect(page.locator("#sheet .ledger")).to_be_visible()
        expect(page.locator("#reading-text")).to_have_value("46")
        page.reload()
        expect(page.locator("#sheet .ledger")).to_be_visible()

    def test_whatever_it_is_called_nothing_hides_the_entry(self) -> None:
        sheet = asking_everything(
            one_line.read(LINE, "س" * 30 + "Ohm’s law on the long bench with many resistors"[:30])
        )
        names = {"R1": "Vorwiderstand_der_linken_Seite", "R2": "مقاومة"}
        for old, new in names.items():
            services.start_run(self.person, sheet)
            page = self.open()
            run = RunRow.objects.get(pk=RunRow.objects.aggregate(last=Max("pk"))["last"])
            self.run_row = run
            self.sign_in(page, f"{run.get_absolute_url()}change/")
            stated = {
                "act": "correct",
                "setup": "main",
                "part": old,
                "name": new,
                "value": "1k" if old == "R1" else "470",
            }
            token = page.context.cookies()[0]["value"]
            page.request.post(f"{run.get_absolute_url()}change/", form={**stated, "csrfmiddlewaretoken": token},
                              headers={"Referer": self.live_server_url})  # fmt: skip
            page.goto(run.get_absolute_url())
            self.places(page)


class Said(BrowserTestCase):
    """One live region says what came of the last thing done, and nothing else."""

    def test_after_everything_that_is_done(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        region = page.locator("#said")
        self.assertEqual(page.locator("[role=status], [role=alert]:visible, [aria-live]").count(), 1)
        self.read(page, "0.998")
        expect(region).to_have_text("R1 998 Ω: within tolerance. Next: R2 by itself.")
        self.read(page, "2.01 Ω")
        expect(region).to_have_text("2.01 Ω is not counted until its question is answered. Next: R3 by itself.")
        self.wait_for(page, page.locator("[data-answer]").last.click)
        expect(region).to_contain_text("R2 2.01 Ω")
        self.press(page, "Alt+Backspace")
        expect(region).to_have_text("Taken back.")
        page.get_by_role("button", name="Power is").click()
        expect(region).to_have_text("Power is ON.")
        expect(page.get_by_role("button", name="Power is")).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("Alt+c")
        expect(page.locator("#own-text")).to_be_focused()
        page.locator("#own-text").fill("2")
        page.get_by_role("button", name="Keep it").click()
        expect(region).to_have_text("It is kept beside the reading.")
        self.assertEqual(region.locator("a, button").count(), 0)

    def test_the_entry_is_described_by_what_the_hands_need(self) -> None:
        page = self.open()
        self.sign_in(page, f"{chain_run(self.person).get_absolute_url()}?measurement=v.A.B@main")
        described = page.evaluate(
            "document.getElementById('reading-text').getAttribute('aria-describedby').split(' ')"
            ".map(id => document.getElementById(id)?.textContent ?? '').join(' ')"
        )
        for word in ("V DC", "red: node A", "black: node B", "expected"):
            self.assertIn(word, described)
        drawing = page.locator("#sheet svg").get_attribute("aria-label")
        self.assertIn("R2 2 kΩ from B to C", drawing)

    def test_the_keys_are_shown_from_their_top(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        page.locator("#reading-text").blur()
        page.keyboard.press("?")
        expect(page.locator("#keys-title")).to_be_in_viewport()
        self.assertEqual(page.evaluate("document.getElementById('keys').scrollTop"), 0)


class Late(BrowserTestCase):
    def test_a_late_answer_never_overwrites_a_newer_one(self) -> None:
        page = self.open()
        run = chain_run(self.person)
        self.sign_in(page, run.get_absolute_url())
        held: list[Route] = []
        page.route("**/runs/*/?measurement=v.A.B*", lambda route: held.append(route), times=1)
        page.keyboard.press("Alt+g")
        page.locator("#pane").get_by_role("link", name="Voltage across R1").click()
        page.locator("#pane").get_by_role("link", name="Voltage across R2").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        with page.expect_response("**/runs/*/?measurement=v.A.B*"):
            held[0].continue_()
        page.wait_for_timeout(300)
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        self.assertEqual(ReadingRow.objects.count(), 0)
