"""Whole jobs at the bench, by keyboard and by thumb, with and without a connection."""

import re

from playwright.sync_api import Page, expect

from recensor.runs.models import ReadingRow
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
            seen.append((page.locator(".next h2").inner_text(), self.read(page, text)))
        # On for the source alone; off to connect the supply, and on; off to open the circuit, and on.
        self.assertEqual([presses for _, presses in seen], [0, 0, 0, 0, 1, 2, 0, 0, 0, 2])
        self.assertEqual((seen[0][0], seen[5][0]), ("R1 by itself", "V1 under load"))
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        expect(page.locator(".closing-agrees .residual")).to_have_count(1)
        self.assertEqual(loads, [], "recording must not load the page anew")
        self.assertEqual(ReadingRow.objects.count(), 10)

    def test_an_answer_brings_only_the_rows_that_changed(self) -> None:
        page = self.open()
        address = chain_run(self.person).get_absolute_url()
        self.sign_in(page, address)
        self.table_at_left(page)
        for text in ("0.998", "2.01", "2.97", "5.98", "6.02", "6.01"):
            self.read(page, text)
        page.evaluate("document.querySelectorAll('.row-point').forEach(row => row.wasHere = true)")
        self.read(page, "1.004")
        rows = page.evaluate("[...document.querySelectorAll('.row-point')].map(row => Boolean(row.wasHere))")
        # What was read in it, what comes next, and the row of the loop that is calculated from it.
        self.assertEqual((rows.count(False), len(rows)), (2, 10))
        # Another answer took a row away meanwhile: the table is whole again, and what is typed stays.
        page.route(f"**{address}record/", lambda route: (
            page.evaluate("document.querySelector('.row-point').remove()"), route.continue_(),
        ))  # fmt: skip
        self.read(page, "2.022")
        expect(page.locator(".row-point")).to_have_count(len(rows))
        expect(page.locator("tr:empty")).to_have_count(0)
        page.unroute_all()
        # However many rows there are, what the page says it holds stays below what servers take as a header.
        page.evaluate("""() => { const body = document.querySelector("#sheet tbody");
            for (let k = 0; k < 900; k += 1) body.append(Object.assign(body.querySelector(".row-point").cloneNode(), {
                id: `row-${k}-abcdef012345` })); }""")
        with page.expect_request("**/record/") as sent:
            self.read(page, "2.99")
        self.assertLess(len(sent.value.headers["x-bench-holds"]), 6000)
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
        self.table_at_left(page)
        page.keyboard.press("Alt+Backspace")
        expect(page.locator(".entries")).to_contain_text("struck: undone")
        page.locator("#reading-text").fill("1,000")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="1.000", exact=True).click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        page.locator(".ledger").get_by_role("link", name="R1").first.click()
        page.locator(".entries").get_by_role("link", name="put right").click()
        page.get_by_role("button", name="It is R3 by itself").click()
        expect(page.locator(".entries")).to_contain_text("it belongs to another point")
        self.assertEqual([r.of for r in ReadingRow.objects.filter(lines=None)], ["R3"])

    def test_pointing_at_a_row_lights_the_part_and_a_part_is_what_the_station_says(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        page.locator(".filled tr", has_text="R2").first.hover()
        expect(page.locator("#part-2")).to_have_class("symbol symbol-resistor symbol-hover")
        page.locator("#part-3").click()
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        page.keyboard.press("Alt+ArrowDown")
        expect(page.locator(".next h2")).to_have_text("Resistance from A to gnd")
        page.keyboard.press("Alt+m")
        page.get_by_role("link", name="values", exact=True).click()
        expect(page.get_by_role("link", name="values", exact=True)).to_have_attribute("aria-current", "true")
        page.locator("#part-2").click()
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        self.read(page, "2.01")
        expect(page.locator("#part-2 .part-note")).to_have_text("2.01 kΩ")
        # At Volts a part is its voltage, two nodes are what lies between them, and a name typed is asked about.
        page.keyboard.press("Alt+g")
        page.locator("#pane").get_by_role("link", name="Voltage across R1").first.click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R1")
        page.locator("#part-3").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R3")
        page.locator("[data-node=A]").click()
        page.locator("[data-node=C]").click()
        expect(page.locator(".next h2")).to_have_text("Voltage from A to C")
        self.read(page, "3.01")
        expect(page.locator("#pane")).to_contain_text("A to C")
        page.keyboard.press("/")
        page.keyboard.type("B")
        page.keyboard.press("Enter")
        expect(page.locator(".next h2")).to_have_text("Voltage from B to gnd")
        page.locator("#reading-text").fill("R2")
        page.keyboard.press("Enter")
        page.get_by_role("link", name="R2 is read next").click()
        expect(page.locator(".next h2")).to_have_text("Voltage across R2")


CLEAN = ["0.998", "2.19", "3.31", "468", "6.97", "9.02", "9.01", "1.290", "2.83", "4.28", "0.605", "1.292"]


class ActsCounted(BrowserTestCase):
    """What a chain of twelve points costs, in presses; stated in docs/bench.md."""

    def begin(self) -> Page:
        page = self.open()
        self.sign_in(page, "/runs/new/")
        page.get_by_label("Circuit in one line").fill("9V: 1k + 2k2 + 3k3 + 470; 5")
        page.get_by_label("The source has a knob").check()
        page.get_by_role("button", name="Start the run").click()
        expect(page.locator(".next h2")).to_have_text("R1 by itself")
        page.wait_for_load_state("load")
        return page

    def test_nothing_going_wrong_costs_the_digits_and_twelve_enters(self) -> None:
        page = self.begin()
        for text in CLEAN:
            expect(page.locator("#reading-text")).to_be_focused()
            self.read(page, text)
            self.assertEqual(page.locator("[data-question]").count(), 0)
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()

    def test_an_ordinary_mess_costs_six_acts_more_and_nothing_typed(self) -> None:
        page, more = self.begin(), 0
        for point, text in enumerate(CLEAN):
            if point == 4:  # over-range on the total
                page.keyboard.press("Alt+o")
                self.press(page, "Enter")
                expect(page.locator(".advice")).to_contain_text("20 kΩ range")
                more += 2
            if point == 5:  # the supply is turned up twice
                for turned in ("2.1", "6.4"):
                    self.read(page, turned)
                    more += 1
                expect(page.locator(".still")).to_have_text("2.6 V still to go")
            if point == 9:  # one Enter too many
                self.press(page, "Enter")
                expect(page.locator("#entry-message")).to_contain_text("Nothing is written here")
                more += 1
            self.read(page, f"-{text}" if point == 7 else text)
            if point == 7:  # the leads were turned
                self.press(page, "Alt+-")
                more += 1
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        self.assertLessEqual(more, 6)
        standing = ReadingRow.objects.exclude(look=True).filter(lines=None)
        self.assertEqual(sorted(r.text for r in standing), sorted(CLEAN))

    def test_a_question_stops_nobody_and_nothing_of_the_rhythm_answers_it(self) -> None:
        page = self.begin()
        page.locator("#reading-text").fill("998")  # of a dial that shows kilo-ohms
        for _ in range(3):
            page.keyboard.press("Enter")
        expect(page.locator("[data-question]")).to_contain_text("R1 is marked 1 kΩ")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")  # eyes on the board: already the next one
        expect(page.locator("#reading-text")).to_be_focused()
        page.wait_for_timeout(700)  # the second and third Enter are over
        self.read(page, "2.19")
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        expect(page.locator("[data-question]")).to_contain_text("R1 by itself: 998 kΩ")
        page.reload()
        page.locator("#reading-text").fill("3.3")  # typed for R3, and it stays there
        page.wait_for_timeout(700)
        self.press(page, "Alt+Digit1")
        expect(page.locator("[data-question]")).to_have_count(0)
        expect(page.locator(".recorded")).to_contain_text("R1 998 Ω")
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        expect(page.locator("#reading-text")).to_have_value("3.3")
        self.assertEqual(
            [(r.of, float(r.value)) for r in ReadingRow.objects.filter(lines=None)], [("R2", 2190), ("R1", 998)]
        )

    def test_power_is_switched_by_enter_while_a_question_waits(self) -> None:
        page = self.begin()
        self.read(page, "998")
        for text in CLEAN[1:5]:
            self.read(page, text)
        expect(page.locator(".switch [data-switch]")).to_contain_text("power ON")
        page.wait_for_timeout(700)
        self.press(page, "Enter")
        expect(page.locator(".power")).to_contain_text("Power is ON")
        expect(page.locator("[data-question]")).to_have_count(1)

    def test_the_circuit_is_changed_where_one_types_what_is_read_and_one_key_takes_it_back(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        for text in ("0.998", "2.01"):
            self.read(page, text)

        def typed(text: str) -> None:
            page.keyboard.press("/")
            page.keyboard.type(text)
            self.press(page, "Enter")

        typed("R7=500")
        expect(page.locator("#find-message")).to_contain_text("no part R7")
        typed("R2=500")
        expect(page.get_by_role("button", name="Change the circuit")).to_be_focused()
        self.press(page, "Enter")
        expect(page.locator(".next h2")).to_have_text("R3 by itself")
        expect(page.locator("#bench")).to_have_attribute("data-setup", "R2 exchanged")
        expect(page.locator("#sheet svg")).to_contain_text("R2'")
        self.press(page, "Alt+Backspace")
        expect(page.locator("#sheet svg")).not_to_contain_text("R2'")
        self.assertEqual([row.text for row in ReadingRow.objects.all()], ["0.998", "2.01"])

    def test_what_was_just_recorded_is_swapped_by_one_key(self) -> None:
        page = self.begin()
        for text in CLEAN[:5]:
            self.read(page, text)
        self.table_at_left(page)
        page.locator(".ledger").get_by_role("link", name="R1").first.click()
        expect(page.locator("#entry-stands")).to_contain_text("Read before: 998 Ω")
        self.read(page, "0.989")
        expect(page.locator(".recorded")).to_contain_text("read again: it stands now")
        expect(page.locator(".ledger")).to_contain_text("before 998 Ω")
        self.press(page, "Alt+t")  # the one before stands
        expect(page.locator(".ledger")).not_to_contain_text("before 998 Ω")
        self.press(page, "Alt+Backspace")
        expect(page.locator(".ledger")).to_contain_text("before 998 Ω")


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
