"""Whole jobs at the bench, by keyboard and by thumb, with and without a connection."""

import re
import uuid
from decimal import Decimal

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

from recensor.bench.models import Reading
from recensor.core import starting
from recensor.core.editing import asking_everything
from recensor.core.quantity import OHM, parse
from recensor.library.services import kits as services
from recensor.library.services.experiments import make_experiment
from tests.browser.pages import PHONE, BrowserTestCase
from tests.web.bench import chain_run


class WholeJob(BrowserTestCase):
    def test_a_stranger_plans_measures_and_balances_a_chain_by_keyboard(self) -> None:
        page = self.open()
        self.sign_in(page)
        page.get_by_role("link", name="Plan the first run").click()
        page.get_by_label("Title").fill("My first chain")
        page.get_by_label("Source voltage").fill("6")
        for name, value in [("R1", "1k"), ("R2", "2k"), ("R3", "3k")]:
            page.get_by_label(name, exact=True).fill(value)
        expect(page.locator("#preview svg")).to_be_visible()
        page.get_by_role("button", name="Start the run").click()
        expect(page.locator(".next h2")).to_have_text("R1 by itself")
        page.wait_for_load_state("load")
        loads = []
        page.on("load", lambda: loads.append(page.url))
        seen = []
        for text in ("0.998", "2.01", "2.97", "5.98", "6.02", "1.004", "2.022", "2.99", "6.01", "1.007"):
            expect(page.locator("#reading-text")).to_be_focused()
            seen.append((page.locator(".next .power b").inner_text(), page.locator(".next h2").inner_text()))
            self.read(page, text)
        self.assertEqual([power for power, _ in seen], ["OFF"] * 4 + ["ON"] * 6)
        self.assertEqual(seen[0][1], "R1 by itself")
        self.assertEqual(seen[8][1], "V1 under load")
        expect(page.get_by_role("heading", name="The books balance")).to_be_visible()
        expect(page.locator(".closing-agrees .residual")).to_have_count(1)
        self.assertEqual(loads, [], "recording must not load the page anew")
        self.assertEqual(Reading.objects.count(), 10)

    def test_what_is_wrong_stays_in_the_field_and_corrections_take_one_action(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        page.locator("#reading-text").fill("about 1k")
        page.keyboard.press("Enter")
        expect(page.locator("#entry-message")).to_contain_text("not understood")
        expect(page.locator("#reading-text")).to_have_value("about 1k")
        self.read(page, "1.000")
        page.keyboard.press("Alt+Backspace")
        expect(page.locator(".entries")).to_contain_text("struck: undone")
        page.locator("#reading-text").fill("1,000")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="1.000", exact=True).click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        page.locator(".ledger").get_by_role("link", name="R1", exact=True).first.click()
        page.get_by_role("link", name="correct").click()
        page.get_by_label("It belongs to").select_option(label="R3 by itself")
        expect(page.locator(".entries")).to_contain_text("belongs to another point: R3 by itself")
        self.assertEqual([r.of for r in Reading.objects.filter(strike=None)], ["R3"])

    def test_pointing_at_a_row_lights_the_part_and_choosing_the_part_opens_its_row(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        page.locator(".row-point", has_text="R2").first.hover()
        expect(page.locator("#part-2")).to_have_class("symbol symbol-resistor symbol-hover")
        page.locator("#part-3").click()
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        page.keyboard.press("PageDown")
        expect(page.locator(".next h2")).to_have_text("Resistance from A to gnd")
        page.get_by_role("link", name="values", exact=True).click()
        expect(page.get_by_role("link", name="values", exact=True)).to_have_attribute("aria-current", "true")
        page.locator("#part-2").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.read(page, "2.01")
        expect(page.locator("#part-2 .part-note")).to_have_text("2.01 kΩ")


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
        self.assertEqual(Reading.objects.count(), 0)
        page.context.set_offline(False)
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual([r.text for r in Reading.objects.all()], ["0.998"])

    def test_an_answer_that_was_lost_on_its_way_makes_no_second_reading(self) -> None:
        def lose_the_answer(route):
            route.fetch()
            route.abort()

        self.page.route("**/record/", lose_the_answer, times=1)
        page = self.type("0.998")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual(Reading.objects.count(), 1)

    def test_an_entry_that_waits_leaves_what_is_typed_at_another_point_alone(self) -> None:
        self.page.route("**/record/", lambda route: route.abort(), times=1)
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 0.998 kΩ")
        page.locator("[data-point-after]").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        with page.expect_response("**/record/"):
            page.locator("#reading-text").fill("2.0")
        expect(page.locator("#reading-text")).to_have_value("2.0")
        page.keyboard.press("Enter")
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        self.assertEqual([(r.of, r.text) for r in Reading.objects.all()], [("R1", "0.998"), ("R2", "2.0")])

    def test_a_waiting_entry_that_is_refused_later_is_said(self) -> None:
        self.page.route("**/record/", lambda route: route.abort(), times=1)
        page = self.type("about 1k")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: about 1k")
        page.locator("[data-point-after]").click()
        expect(page.locator("#refusal")).to_contain_text("did not take about 1k")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")

    def test_double_click_makes_one_reading(self) -> None:
        self.page.locator("#reading-text").fill("0.998")
        self.page.get_by_role("button", name="Record", exact=True).dblclick()
        expect(self.page.locator(".next h2")).to_have_text("R2 by itself")
        self.page.wait_for_load_state("networkidle")
        self.assertEqual(Reading.objects.count(), 1)

    def test_an_expired_sign_in_keeps_the_reading_until_someone_signs_in_again(self) -> None:
        self.page.context.clear_cookies()
        page = self.type("0.998")
        expect(page.locator("[data-not-saved]")).to_contain_text("Not saved: 0.998 kΩ")
        page.locator("#refusal").get_by_role("link", name="Sign in").click()
        page.get_by_label("Name").fill("bench-1")
        page.get_by_label("Password").fill("a-long-word")
        page.get_by_role("button", name="Sign in").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.assertEqual([r.text for r in Reading.objects.all()], ["0.998"])


class Bands(BrowserTestCase):
    def test_bands_by_palette_and_by_typing_without_losing_the_place(self) -> None:
        page = self.open()
        self.sign_in(page, "/bands/")
        for colour in ("yellow", "violet", "red"):
            page.locator(f"#add-{colour}").click()
            expect(page.locator("#bands")).to_have_value(re.compile(f"{colour}$"))
        expect(page.locator(".end-likely .end-value")).to_have_text("4.7 kΩ ± 20 %")
        page.locator("#bands").press("End")
        page.keyboard.type(" go")
        expect(page.locator(".end-likely .end-value")).to_have_text("4.7 kΩ ± 5 %")
        expect(page.locator("#bands")).to_have_value("yellow violet red go")
        expect(page.locator("#bands")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator("#bands")).to_have_value("yellow violet red gold")


class EveryScreen(BrowserTestCase):
    def test_phone_and_wide_light_and_dark_pass_the_accessibility_rules(self) -> None:
        run = chain_run(self.person).get_absolute_url()
        kit = services.make_kit(self.person, "Stock")
        services.fill_bin(kit, Decimal(1000), Decimal(5), 10)
        table = services.start_sorting(kit, 12, Decimal(5))
        services.sort_part(table.pk, self.person, parse("1.02k", OHM), uuid.uuid4())
        circuit = make_experiment(self.person, asking_everything(starting.bridge(0))).get_absolute_url()
        bands, pairs = "/bands/value/?value=4.6k&tolerance=5", "/pairs/?wanted=1.41k&stock=E24"
        addresses = ("/", "/runs/new/", "/bands/?bands=brown+red+black+black+orange", bands, pairs, "/kits/",
                     kit.get_absolute_url(), table.get_absolute_url(), "/preferences/", "/experiments/",
                     "/experiments/new/", f"{circuit}?part=R1&show=currents", f"{circuit}sheet/", f"{circuit}worked/",
                     f"{circuit}what-if/", f"{run}worked/", f"{run}board/", f"{run}board/?way=built",
                     f"{run}board/?way=path&at=1")  # fmt: skip
        for scheme, size in (("light", PHONE), ("dark", {"width": 1280, "height": 800})):
            page = self.open(size, color_scheme=scheme)
            page.goto("/sign-in/")
            self.pass_rules(page)
            self.sign_in(page, run)
            self.read(page, "1.2")
            page.goto(f"{run}?point=0")
            for address in (None, *addresses):
                if address:
                    page.goto(address)
                self.pass_rules(page)
                self.assertLessEqual(
                    page.evaluate("document.documentElement.scrollWidth"), size["width"], "no sideways scrolling"
                )

    def test_by_thumb_the_next_reading_comes_first_and_sign_and_over_range_are_buttons(self) -> None:
        page = self.open(PHONE, has_touch=True)
        self.sign_in(page, chain_run(self.person).get_absolute_url() + "?point=5")
        record = page.get_by_role("button", name="Record", exact=True)
        self.assertLess(record.bounding_box()["y"] + record.bounding_box()["height"], 500)
        page.locator("#reading-text").fill("1.004")
        page.get_by_role("button", name="± sign").tap()
        expect(page.locator("#reading-text")).to_have_value("-1.004")
        record.tap()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")
        self.assertEqual(float(Reading.objects.get().value), -1.004)

    def pass_rules(self, page: Page) -> None:
        found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
        problems = [(v["id"], [node["html"][:120] for node in v["nodes"]]) for v in found.response["violations"]]
        self.assertEqual(problems, [], page.url)
