"""Whole jobs at the bench, by keyboard and by thumb, with and without a connection."""

import re

from playwright.sync_api import expect

from recensor.bench.models import Reading
from tests.browser.pages import BrowserTestCase
from tests.served import chain_run


class WholeJob(BrowserTestCase):
    def test_a_stranger_plans_measures_and_balances_a_chain_by_keyboard(self) -> None:
        page = self.open()
        self.sign_in(page)
        page.get_by_role("link", name="Begin the first run").click()
        expect(page.get_by_label("Circuit in one line")).to_be_focused()
        page.keyboard.type("6V: 1k + 2k + 3k; 5")
        expect(page.locator("#preview svg #part-3")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.locator(".next h2")).to_have_text("R1 by itself")
        page.wait_for_load_state("load")
        loads = []
        page.on("load", lambda: loads.append(page.url))
        seen = []
        for text in ("0.998", "2.01", "2.97", "5.98", "6.02", "6.01", "1.004", "2.022", "2.99", "1.007"):
            expect(page.locator("#reading-text")).to_be_focused()
            seen.append((page.locator(".next .power b").inner_text(), page.locator(".next h2").inner_text()))
            self.read(page, text)
        self.assertEqual([power for power, _ in seen], ["OFF"] * 4 + ["ON"] * 6)
        self.assertEqual(seen[0][1], "R1 by itself")
        self.assertEqual(seen[5][1], "V1 under load")
        expect(page.get_by_role("heading", name="The books balance")).to_be_visible()
        expect(page.locator(".closing-agrees .residual")).to_have_count(1)
        self.assertEqual(loads, [], "recording must not load the page anew")
        self.assertEqual(Reading.objects.count(), 10)

    def test_an_answer_brings_only_the_sections_of_the_ledger_that_changed(self) -> None:
        page = self.open()
        address = chain_run(self.person).get_absolute_url()
        self.sign_in(page, address)
        for text in ("0.998", "2.01", "2.97", "5.98", "6.02", "6.01"):
            self.read(page, text)
        page.evaluate("document.querySelectorAll('tbody.account').forEach(section => section.wasHere = true)")
        self.read(page, "1.004")
        held = page.evaluate("[...document.querySelectorAll('tbody.account')].map(section => Boolean(section.wasHere))")
        self.assertEqual(set(held), {True, False})
        # Another answer took a section away meanwhile: the ledger is whole again, and what is typed stays.
        page.route(f"**{address}record/", lambda route: (
            page.evaluate("document.querySelector('tbody.account').remove()"), route.continue_(),
        ))  # fmt: skip
        self.read(page, "2.022")
        expect(page.locator("tbody.account")).to_have_count(len(held))
        expect(page.locator("tbody:empty")).to_have_count(0)
        now = page.locator(".ledger").inner_text()
        page.reload()
        self.assertEqual(page.locator(".ledger").inner_text(), now)

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
        page.get_by_role("link", name="put right").click()
        page.get_by_role("button", name="It is R3 by itself").click()
        expect(page.locator(".entries")).to_contain_text("it belongs to another point")
        self.assertEqual([r.of for r in Reading.objects.filter(lines=None)], ["R3"])

    def test_pointing_at_a_row_lights_the_part_and_a_part_is_what_the_station_says(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        page.locator(".row-point", has_text="R2").first.hover()
        expect(page.locator("#part-2")).to_have_class("symbol symbol-resistor symbol-hover")
        page.locator("#part-3").click()
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        page.keyboard.press("Alt+ArrowDown")
        expect(page.locator(".next h2")).to_have_text("Resistance from A to gnd")
        page.get_by_role("link", name="values", exact=True).click()
        expect(page.get_by_role("link", name="values", exact=True)).to_have_attribute("aria-current", "true")
        page.locator("#part-2").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.read(page, "2.01")
        expect(page.locator("#part-2 .part-note")).to_have_text("2.01 kΩ")
        # At Volts a part is its voltage, two nodes are what lies between them, and a name typed is asked about.
        page.locator(".ledger").get_by_role("link", name="− R1").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R1")
        page.locator("#part-3").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R3")
        page.locator("[data-node=A]").click()
        page.locator("[data-node=C]").click()
        expect(page.locator(".next h2")).to_have_text("Voltage from A to C")
        self.read(page, "3.01")
        expect(page.locator(".ledger")).to_contain_text("A to C")
        page.keyboard.press("/")
        page.keyboard.type("B")
        page.keyboard.press("Enter")
        expect(page.locator(".next h2")).to_have_text("Voltage from B to gnd")
        page.locator("#reading-text").fill("R2")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="R2 is read next").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")


class Bands(BrowserTestCase):
    def test_bands_by_palette_and_by_typing_without_losing_the_place(self) -> None:
        page = self.open()
        self.sign_in(page, "/bands/")
        for colour in ("yellow", "violet", "red"):
            page.locator(f"#add-{colour}").click()
            expect(page.locator("#bands")).to_have_value(re.compile(f"{colour}$"))
        expect(page.locator(".end-likely .end-value")).to_have_text("4.7 kΩ, tolerance unsaid")
        page.locator("#bands").press("End")
        page.keyboard.type(" go")
        expect(page.locator(".end-likely .end-value")).to_have_text("4.7 kΩ ± 5 %")
        expect(page.locator("#bands")).to_have_value("yellow violet red go")
        expect(page.locator("#bands")).to_be_focused()
        page.keyboard.press("Enter")
        expect(page.locator("#bands")).to_have_value("yellow violet red gold")
