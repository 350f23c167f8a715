"""The plan carried through by keyboard: what it costs in presses, and what it never asks twice; photo, voice, thumb."""

import io

from PIL import Image
from playwright.sync_api import Page, expect

from recensor.core.circuit import asking_everything, one_line
from recensor.core.meters import SHIPPED, setting
from recensor.core.plan import title
from recensor.core.quantity import CURRENT
from recensor.core.simulation import SimulatedBench, SimulatedMeter
from recensor.meters.services import keep_meter, shipped
from recensor.runs import services
from recensor.runs.models import BenchMove, Photo, ReadingRow
from tests.browser.pages import PHONE, BrowserTestCase
from tests.served import chain_run

MANUAL = SHIPPED["3½-digit manual"]
SHEET = asking_everything(one_line.read("9V: 1k + (2k2 | 3k3) + 470 + (1k5 | 680) + 120; 5%"))
# In a rhythm of typing a second Enter within this time is one of the same.
RHYTHM = 600


class Plan(BrowserTestCase):
    def begin(self, **more: object) -> Page:
        keep_meter(self.person, None, "DMM 4", "M-017", None, shipped(self.person, MANUAL.name))
        run = services.start_run(self.person, SHEET, "DMM 4", **more)
        page = self.open()
        self.sign_in(page, run.get_absolute_url())
        page.wait_for_load_state("load")
        return page

    def test_some_twenty_readings_cost_their_digits_and_one_press_for_each_change_of_power(self) -> None:
        page = self.begin()
        true = {name: float(part.nominal) for name, part in SHEET.parts.items()}
        bench = SimulatedBench(SHEET, true, SimulatedMeter(MANUAL, None))
        by_title = {title(target, SHEET): target for target in SHEET.asked}
        powers, proofs = [], 0
        for _ in SHEET.asked:
            while page.locator(".switch [data-switch]").count():
                powers.append(page.locator(".switch [data-switch]").inner_text()[-3:].strip())
                page.wait_for_timeout(RHYTHM)
                expect(page.locator("#reading-text")).to_be_focused()
                self.press(page, "Enter")
            proofs += page.get_by_text("a zero here is a blown fuse").count()
            target = by_title[page.locator(".next h2").inner_text()]
            digits = setting(MANUAL, target.measurand, bench.true_value(target)).shows.digits
            self.assertEqual(page.locator(".entry-expected").count(), 1)
            page.keyboard.type(digits)
            self.press(page, "Enter")
            self.assertEqual(page.locator("[data-question]").count(), 0, (target, digits))
        currents = sum(target.measurand is CURRENT for target in SHEET.asked)
        # On for the source alone, off and on to connect it, off and on for each current; off at the very end.
        self.assertEqual(powers, ["ON", *["OFF", "ON"] * (1 + currents)])
        self.assertEqual(proofs, 1)
        expect(page.get_by_text("Before you leave the bench")).to_be_visible()
        page.wait_for_timeout(RHYTHM)
        self.press(page, "Alt+p")
        expect(page.get_by_role("heading", name="Everything balances")).to_be_visible()
        expect(page.get_by_text("Before you leave the bench")).to_have_count(0)
        self.assertEqual(ReadingRow.objects.filter(look=False).count(), len(SHEET.asked))
        self.assertEqual(BenchMove.objects.count(), len(powers) + 1)

    def test_a_doubled_enter_switches_nothing(self) -> None:
        page = self.open()
        self.sign_in(page, chain_run(self.person).get_absolute_url())
        for text in ("1.000", "2.00", "3.00", "6.00"):
            self.read(page, text)
        expect(page.locator(".switch [data-switch]")).to_have_text("Done, power ON")
        for _ in range(3):
            page.keyboard.press("Enter")
        page.wait_for_timeout(RHYTHM)
        self.assertEqual(BenchMove.objects.count(), 0)
        page.keyboard.type("6.02")  # eyes on the board: the supply is on, and nobody said so
        self.press(page, "Enter")
        expect(page.locator("[data-question]")).to_have_count(0)  # what is read proves it
        expect(page.locator(".power")).to_contain_text("Power is ON")
        page.wait_for_timeout(RHYTHM)
        self.press(page, "Enter")
        expect(page.locator(".power")).to_contain_text("Power is OFF")

    def test_the_same_once_more_by_one_key_and_over_range_by_another(self) -> None:
        page = self.begin()
        page.locator("#reading-text").fill("1.000")
        self.press(page, "Enter")
        self.press(page, "=")
        expect(page.locator(".recorded")).to_contain_text("another trial")
        expect(page.locator(".next h2")).to_have_text("R4 by itself")  # in the same range of the dial
        self.assertEqual([r.text for r in ReadingRow.objects.filter(of="R1")], ["1.000", "1.000"])
        page.keyboard.type("2.")
        page.keyboard.press("Alt+o")
        expect(page.locator("#reading-text")).to_have_value("OL")
        page.keyboard.press("Alt+c")
        expect(page.locator("#own-text")).to_be_visible()

    def test_by_thumb_a_photo_is_made_smaller_and_kept_with_its_reading(self) -> None:
        run = services.start_run(self.person, SHEET)
        page = self.open(PHONE, has_touch=True)
        self.sign_in(page, run.get_absolute_url())
        page.locator("#reading-text").fill("1.000")
        page.get_by_role("button", name="Record", exact=True).tap()
        picture = io.BytesIO()
        Image.new("RGB", (4000, 3000), (30, 90, 60)).save(picture, "JPEG")
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        photo = {"name": "display.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
        self.wait_for(page, lambda: page.locator("#more [data-photo]").set_input_files(photo))
        expect(page.locator(".next h2")).to_have_text("R2 by itself")
        page.goto(f"{run.get_absolute_url()}?measurement=of.r.R1")
        expect(page.locator(".photo-small")).to_be_visible()
        self.assertEqual(Image.open(io.BytesIO(Photo.objects.get().picture)).size, (1600, 1200))
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE["width"])

    def test_verdict_and_next_point_are_said_only_where_that_is_wanted(self) -> None:
        heard = "() => { window.heard = []; speechSynthesis.speak = said => window.heard.push(said.text) }"
        for wanted, said in [(False, []), (True, ["R1 1.000 kΩ: within tolerance. Next: R2 by itself."])]:
            self.person.speaks = wanted
            self.person.save()
            run = services.start_run(self.person, SHEET)
            page = self.open()
            self.sign_in(page, run.get_absolute_url())
            page.evaluate(heard)
            page.locator("#reading-text").fill("1.000")
            self.press(page, "Enter")
            self.assertEqual(page.evaluate("window.heard"), said)
