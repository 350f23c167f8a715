"""The bench between readings: power switched once, everything put back, photos, the last reading once more."""

import io
import re
import struct
import uuid
from datetime import timedelta
from unittest import mock

from django.utils import timezone
from PIL import Image, ImageOps

from recensor.core.circuit import asking_everything, one_line
from recensor.core.judgement import Outcome
from recensor.core.plan import State, Way
from recensor.runs import queries, services
from recensor.runs.bench_state import bench_of, is_powered, proved, state_of
from recensor.runs.models import BenchMove, Photo, ReadingRow
from tests.served import HTMX, BenchTestCase, address_of, chain_run

ALL = ("0.998k", "2.01k", "2.97k", "5.98k", "6.02", "1.004", "2.022", "2.99", "6.01", "1.007m")


class AtBenchTestCase(BenchTestCase):
    def read_up_to(self, point: int) -> None:
        for k, text in enumerate(ALL[:point]):
            self.enter(k, text)

    def switch(self, power: str, point: int, **more: str):
        address = self.client.get(self.at(point)).context["bench"].address
        data = {"measurement": address, "power": power, "key": uuid.uuid4(), **more}
        return self.client.post(f"{self.address}power/", data, headers=HTMX)

    def state(self):
        run = queries.any_run().get(pk=self.run_row.pk)
        loaded = queries.load(run, self.person)
        return state_of(loaded, bench_of(run, loaded, loaded.judged(), self.person))


class Power(AtBenchTestCase):
    def test_it_is_known_shown_and_switched_by_one_press_which_is_harmless_twice(self) -> None:
        self.read_up_to(4)
        page = self.client.get(self.address)
        self.assertContains(page, "Power is <b>OFF</b>")
        self.assertContains(page, "power ON</button>")
        key = str(uuid.uuid4())
        for _ in range(2):
            self.assertContains(self.switch("ON", 4, key=key), "Power is <b>ON</b>")
        self.assertEqual(BenchMove.objects.count(), 1)
        self.assertNotContains(self.client.get(self.address), "data-switch")  # nothing is asked twice
        self.assertContains(self.switch("maybe", 4), "Say whether power is on or off", status_code=422)
        self.client.force_login(self.other)
        self.assertEqual(self.client.post(f"{self.address}power/", {"power": "ON"}).status_code, 404)

    def test_before_the_first_power_on_there_is_a_list_and_later_none(self) -> None:
        self.read_up_to(5)
        self.switch("OFF", 5)
        self.assertContains(self.client.get(self.address), "Before power on")
        self.switch("ON", 5)
        self.enter(5, "1.004")
        self.switch("OFF", 9)
        self.assertNotContains(self.client.get(self.at(6)), "Before power on")

    def test_volts_without_a_press_prove_that_power_is_on_and_nobody_is_asked(self) -> None:
        self.read_up_to(4)
        page = self.enter(4, "6.02", switches=False)
        self.assertNotContains(page, "data-question")
        self.assertContains(page, "Power is <b>ON</b>")
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertIsNone(core.readings[-1].counted)

    def test_ohms_under_power_hold_the_work_up_until_it_is_said_that_it_was_off(self) -> None:
        for means, counted, powered in (("switched", True, False), ("again", False, True)):
            with self.subTest(means):
                self.run_row = chain_run(self.person, means)
                self.address = self.run_row.get_absolute_url()
                self.read_up_to(5)
                asked = self.enter(0, "1.001", "kΩ", switches=False)
                self.assertContains(asked, "Power is on")
                self.assertContains(asked, "<h2>R1 by itself</h2>", html=True)
                reading = ReadingRow.objects.latest("id")
                given = {"answer": f'["{means}","",""]', "measurement": "of.r.R1"}
                self.client.post(f"{self.address}readings/{reading.pk}/answer/", given, headers=HTMX)
                loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
                self.assertEqual((loaded.core.readings[-1].counted, is_powered(loaded)), (counted, powered))

    def test_read_off_a_screen_nothing_is_switched_or_asked(self) -> None:
        self.run_row = services.start_run(self.person, asking_everything(one_line.read("90V: 1k + 2k")), simulated=True)
        self.address = self.run_row.get_absolute_url()
        for point, text in enumerate(["1000", "2000", "90.00", "3000", "30.00"]):
            page = self.enter(point, text, switches=False)
            self.assertNotContains(page, "data-question")
            self.assertNotContains(page, "Power is")


class Moves(AtBenchTestCase):
    def test_the_bench_is_left_and_found_as_it_is_however_it_was_read(self) -> None:
        self.read_up_to(9)
        self.assertEqual((self.state().powered, self.state().connected, self.state().red), (True, True, "A"))
        self.switch("OFF", 9)
        self.assertFalse(self.state().powered)
        self.switch("ON", 9)  # with the circuit opened, as the card said
        state = self.state()
        self.assertEqual((state.opened.name, state.dial, state.jack), ("V1.1", "mA DC", "mA"))
        # Somebody goes back to a voltage: first power off, then the lead back, then on.
        card = self.client.get(self.at(6)).context["bench"].card.card
        self.assertEqual((card.do, card.switch), ((), "OFF"))
        self.assertEqual(card.then[0], "put the supply lead V1.1 back at node A")
        # Or to a part by itself, with power off: the lead goes back, and the red lead into its jack.
        self.switch("OFF", 9)
        card = self.client.get(self.at(0)).context["bench"].card.card
        self.assertEqual(card.switch, "")
        self.assertEqual(card.do, ("put the supply lead V1.1 back at node A", "disconnect the supply",
                                   "red lead into the V/Ω jack"))  # fmt: skip
        self.switch("ON", 9)
        self.client.force_login(self.person)  # another device of the same person
        self.assertContains(self.client.get(self.at(9)), "Power is <b>ON</b>")

    def test_the_way_a_person_opens_circuits_sticks(self) -> None:
        self.read_up_to(9)
        for way, said in [(Way.OUT, "take the supply lead V1.1 off"), (Way.SUPPLY, "take the supply lead V1.1 off")]:
            self.person.opens_by = way
            self.person.save()
            self.assertContains(self.client.get(self.at(9)), said)

    def test_at_the_end_everything_is_put_back_once(self) -> None:
        self.read_up_to(10)
        page = self.client.get(self.address)
        self.assertContains(page, "red lead into the V/Ω jack")
        key = uuid.uuid4()
        for _ in range(2):
            self.client.post(f"{self.address}put-back/", {"key": key}, headers=HTMX)
        self.assertEqual(BenchMove.objects.filter(kind="put back").count(), 1)
        self.assertNotContains(self.client.get(self.address), "Before you leave the bench")
        state = self.state()
        self.assertEqual((state.powered, state.opened, state.jack, state.dial), (False, None, "V/Ω", "V DC"))
        self.assertContains(self.client.get(f"{self.address}change/"), "put back")

    def test_the_whole_plan_counts_its_moves_and_shrinks_as_it_is_read(self) -> None:
        page = self.client.get(f"{self.address}plan/")
        moves = page.context["moves"]
        self.assertEqual(moves, sum(row.moves for row in page.context["rows"]))
        self.assertLessEqual(moves, page.context["moves_as_asked"])
        self.read_up_to(9)
        self.assertLess(self.client.get(f"{self.address}plan/").context["moves"], moves)
        self.read_up_to(10)
        self.client.post(f"{self.address}put-back/", {"key": uuid.uuid4()}, headers=HTMX)
        self.assertEqual(self.client.get(f"{self.address}plan/").context["rows"], [])

    def test_meter_and_fuse_are_proved_once_a_day(self) -> None:
        self.read_up_to(9)
        self.assertContains(self.client.get(self.at(9)), "a zero here is a blown fuse")
        self.enter(9, "1.007m")
        self.assertNotContains(self.client.get(self.at(9)), "a zero here is a blown fuse")
        self.assertTrue(proved(self.run_row, State()).proved)
        tomorrow = timezone.now() + timedelta(days=1)
        with mock.patch.object(timezone, "now", return_value=tomorrow):
            self.assertFalse(proved(self.run_row, State()).proved)

    def test_what_was_done_at_the_very_moment_of_a_reading_was_done_after_it(self) -> None:
        with mock.patch.object(timezone, "now", return_value=timezone.now()):
            self.read_up_to(7)
            self.assertTrue(self.state().powered)
            self.switch("OFF", 3)
        self.assertFalse(self.state().powered)


class Sealed(AtBenchTestCase):
    def test_nothing_of_card_plan_or_checks_gives_a_value_away(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k2 + 3k9; 5%"))
        seen = []
        for line in ("9V: 1k2 + 3k9; 5%", "9V: 1k2 + 4k7; 5%"):
            other = asking_everything(one_line.read(line))
            sealed = type(sheet)(**{**vars(other), "sealed": True})
            self.run_row = services.start_run(self.person, sealed)
            self.address = self.run_row.get_absolute_url()
            first = next(k for k, target in enumerate(sheet.asked) if target.setup)
            pages = [self.client.get(self.at(k), headers=HTMX) for k in range(first, len(sheet.asked))]
            pages.append(self.client.get(f"{self.address}plan/"))
            text = "".join(page.content.decode() for page in pages)
            text = re.sub(r"<svg.*?</svg>|value=\"[^\"]{30,}\"|[34]\.[97]0? kΩ|4k7|3k9", "", text, flags=re.S)
            seen.append(re.findall(r"[0-9][0-9.]*(?: ?[mkµ]?[VAΩW])", text))
        # Keys and what R2 is marked are left aside: whatever else the pages say in numbers hangs on nothing
        # that is calculated.
        self.assertEqual(*seen)
        self.assertIn("10 A", seen[0])


class Photos(AtBenchTestCase):
    def picture(self, kind: str = "JPEG", size: tuple[int, int] = (2400, 1200), **more: object) -> io.BytesIO:
        file = io.BytesIO()
        Image.new("RGB", size, (200, 120, 40)).save(file, kind, **more)
        file.seek(0)
        file.name = f"photo.{kind.lower()}"
        return file

    def attach(self, file: io.BytesIO):
        self.enter(0, "0.998k")
        reading = ReadingRow.objects.earliest("id")
        return self.client.post(f"{self.address}readings/{reading.pk}/photo/", {"photo": file}, headers=HTMX)

    def test_made_anew_smaller_and_without_what_it_said_of_itself(self) -> None:
        exif = Image.Exif()
        exif[0x010F], exif[0x0112] = "a maker", 6  # its maker, and that it lies on its side
        for kind in ("JPEG", "PNG", "WEBP"):
            page = self.attach(self.picture(kind, exif=exif))
            self.assertEqual(page.status_code, 200)
            photo = Photo.objects.latest("id")
            kept = Image.open(io.BytesIO(photo.picture))
            self.assertEqual((kept.format, kept.size, dict(kept.getexif())), ("JPEG", (800, 1600), {}))
            self.assertNotIn(b"a maker", bytes(photo.picture))
            self.assertContains(self.client.get(self.at(0)), f"photos/{photo.pk}/")
        shown = self.client.get(f"{self.address}photos/{photo.pk}/")
        self.assertEqual((shown["Content-Type"], shown.content), ("image/jpeg", bytes(photo.picture)))
        self.assertContains(self.client.get(f"{self.address}document/"), photo.sum)
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"{self.address}photos/{photo.pk}/").status_code, 404)

    def test_a_picture_whose_exif_nobody_can_write_again_is_put_upright_all_the_same(self) -> None:
        # It lies on its side; and the table of where it was taken has a text where a number must be.
        tables = (
            b"MM\x00*\x00\x00\x00\x08\x00\x03\x01P\x00\x02\x00\x00\x00\x06\x00\x00\x002\x01\x12\x00\x03\x00\x00\x00\x01"
            b"\x00\x06\x00\x00\x88%\x00\x04\x00\x00\x00\x01\x00\x00\x008\x00\x00\x00\x00maker\x00"
            b"\x00\x01\x00\x01\x00\x02\x00\x00\x00\x02N\x00\x00\x00\x00\x00\x00\x00"
        )
        sent = self.picture(size=(240, 120), exif=b"Exif\x00\x00" + tables)
        with self.assertRaises(struct.error):
            ImageOps.exif_transpose(Image.open(sent))
        sent.seek(0)
        self.assertEqual(self.attach(sent).status_code, 200)
        self.assertEqual(Image.open(io.BytesIO(Photo.objects.latest("id").picture)).size, (120, 240))

    def test_what_is_no_picture_or_too_much_is_refused_in_words(self) -> None:
        huge = io.BytesIO(b"\xff\xd8\xff" + bytes(2_600_000))
        huge.name = "huge.jpg"
        for file, said in [
            (io.BytesIO(b"<svg onload='alert(1)'/>"), "This is no picture that is taken"),
            (io.BytesIO(self.picture().getvalue()[:900]), "This is no picture that is taken"),
            (self.picture("GIF", (4, 4)), "This is no picture that is taken"),
            (self.picture("PNG", (8000, 7000)), "8000 × 7000"),
            (huge, "at most 2.5 MB"),
        ]:
            file.name = getattr(file, "name", "photo.jpg")
            self.assertContains(self.attach(file), said, status_code=422)
        self.assertEqual(Photo.objects.count(), 0)
        reading = ReadingRow.objects.earliest("id")
        none = self.client.post(f"{self.address}readings/{reading.pk}/photo/", {}, headers=HTMX)
        self.assertContains(none, "Choose a picture first", status_code=422)

    def test_the_same_picture_is_kept_once_and_six_are_enough(self) -> None:
        for shade in (0, 0, 1, 2, 3, 4, 5):
            file = io.BytesIO()
            Image.new("RGB", (40, 30), (40 * shade, 0, 0)).save(file, "PNG")
            file.seek(0)
            file.name = "shade.png"
            self.attach(file)
        self.assertEqual(Photo.objects.count(), 6)
        self.assertContains(self.attach(self.picture()), "6 pictures are kept", status_code=422)


class OnceMore(AtBenchTestCase):
    def test_the_last_reading_once_more_is_a_trial_and_the_page_stays(self) -> None:
        self.enter(0, "0.998k")
        key = uuid.uuid4()
        for _ in range(2):
            page = self.client.post(
                f"{self.address}repeat/", {"key": key, "measurement": address_of(self.run_row, 1)}, headers=HTMX
            )
            self.assertContains(page, "<h2>R2 by itself</h2>", html=True)
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertEqual([(r.value.text, r.counted) for r in core.readings], [("0.998k", None), ("0.998k", None)])

    def test_where_there_is_nothing_to_repeat_it_says_so(self) -> None:
        page = self.client.post(f"{self.address}repeat/", {"key": uuid.uuid4()}, headers=HTMX)
        self.assertContains(page, "There is no reading", status_code=422)
        self.assertEqual(self.client.post(f"{self.address}repeat/", {}, headers=HTMX).status_code, 422)


class OnPurpose(AtBenchTestCase):
    def test_a_zero_that_was_made_counts_in_a_circuit_of_its_own_until_it_is_taken_back(self) -> None:
        self.read_up_to(9)
        voltage = "v.B.C@main"  # across R2, which read 2.02 V
        answer = self.enter(voltage, "0.000")
        self.assertContains(answer, "Made so on purpose?")
        offered = re.findall(r'name="change"\s+value="([^"]+)"', answer.content.decode())
        self.assertEqual(offered, ["R1 open", "R3 open"])
        zero, key = ReadingRow.objects.latest("id"), uuid.uuid4()
        for _ in range(2):  # pressed twice it is done once
            made = self.client.post(
                f"{self.address}readings/{zero.pk}/on-purpose/", {"change": "R1 open", "key": key}, headers=HTMX
            )
            self.assertEqual(made.status_code, 200)
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        assessment = loaded.judged()
        there = next(one for target, one in assessment.targets.items() if target.setup == "R1 out")
        self.assertEqual((there.judged.value, there.judged.outcome), (0.0, Outcome.AGREES))
        page = self.client.get(f"{self.address}?pane=readings")
        folded = re.findall(r"<summary>(.*?)</summary>", page.content.decode())
        self.assertIn("<b>main</b>, another circuit: 5 of 5 read", folded)
        main = next(one for target, one in assessment.targets.items() if target.words == "voltage from B to C")
        self.assertAlmostEqual(main.judged.value or 0, 2.022)
        for odd in ({"change": "x"}, {"change": "R3 open", "key": "none"}, {}):
            refused = self.client.post(f"{self.address}readings/{zero.pk}/on-purpose/", odd, headers=HTMX)
            self.assertEqual(refused.status_code, 422)
        last = queries.last_done(loaded, self.person)
        self.client.post(f"{self.address}undo/", {"last": last}, headers=HTMX)
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        self.assertEqual({one.setup for one in loaded.core.sheet.asked if one.in_circuit}, {"main"})
        standing = [one for one in loaded.core.readings if one.struck is None and not one.value.value]
        self.assertEqual([(one.target.setup, one.counted) for one in standing], [("main", False)])
