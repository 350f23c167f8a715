"""Typing at the bench as tired people do: questions over HTTP, two tabs, places instead of points, sealed runs."""

import json
import random
import re
import uuid

from recensor.core.circuit import Across, PartAlone, Through, asking_everything, one_line, slug
from recensor.core.entries import enter
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, RunRow
from tests.served import HTMX, BenchTestCase


class Questions(BenchTestCase):
    def answer(self, means: str, text: str = "", measurement: str = ""):
        reading = ReadingRow.objects.exclude(question="").latest("id")
        data = {"answer": json.dumps([means, text, measurement])}
        return self.client.post(f"{self.address}readings/{reading.pk}/answer/", data, headers=HTMX)

    def stand(self) -> list[tuple[str, str]]:
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        return [(r.target.words, r.value.text) for r in core.readings if r.struck is None and r.counted is not False]

    def test_a_doubtful_entry_is_kept_at_once_and_its_answer_is_an_act_on_it(self) -> None:
        for means, text, standing, next_one in [
            ("meant", "998 Ω", [("R1 by itself", "998 Ω")], "R2 by itself"),
            ("as typed", "", [("R1 by itself", "0.998M")], "R2 by itself"),
            ("again", "", [], "R1 by itself"),
        ]:
            with self.subTest(means):
                self.run_row = services.start_run(
                    self.person, queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet
                )
                self.address = self.run_row.get_absolute_url()
                page = self.enter(0, "0.998M")
                self.assertContains(page, "998 Ω")
                self.assertContains(page, "data-question")
                self.assertEqual(self.stand(), [])
                self.assertContains(self.client.get(self.address), "data-question")  # after a reload too
                page = self.answer(means, text)
                self.assertContains(page, f"<h2>{next_one}</h2>", html=True)
                self.assertEqual(self.stand(), standing)
                self.assertContains(self.answer(means, text), "answered already", status_code=422)
        for nonsense in ("", "{", '["melt","",""]', '["belongs","","[]"]', "[1]", '["meant","",""]' * 99):
            answered = self.client.post(f"{self.address}readings/1/answer/", {"answer": nonsense}, headers=HTMX)
            self.assertEqual(answered.status_code, 422)

    def test_it_belongs_to_the_point_that_it_fits_and_the_page_goes_on_there(self) -> None:
        for point, text in enumerate(["0.998k", "2.01k", "2.97k", "5.98k", "6.02"]):
            self.enter(point, text)
        page = self.enter(5, "2.022", "V")
        belongs_to = slug(Across(VOLTAGE, ("B", "C"), "main"))
        self.assertContains(page, "it is voltage across R2")
        self.answer("belongs", measurement=belongs_to)
        self.assertEqual(self.stand()[-1], ("voltage from B to C", "2.022"))

    def test_a_later_number_that_fits_an_open_question_is_offered_to_it(self) -> None:
        self.enter(1, "493", "kΩ")  # 2 kΩ is meant to be read there
        page = self.enter(2, "2.01", "kΩ")
        (newest, older) = page.context["bench"].questions
        self.assertEqual(newest.answers[0].words, "it is R2 by itself; drop 493 kΩ")
        self.assertEqual([answer.words for answer in older.answers], ["a slip: drop it", "as typed: 493 kΩ"])
        self.answer("belongs", measurement=slug(PartAlone("R2", RESISTANCE)))
        self.assertEqual(self.stand(), [("R2 by itself", "2.01")])
        self.assertEqual(self.client.get(self.address).context["bench"].questions, ())

    def test_what_was_read_again_meanwhile_answers_first(self) -> None:
        self.enter(1, "493", "kΩ")
        page = self.enter(1, "2.01", "kΩ")
        (question,) = page.context["bench"].questions
        self.assertEqual([a.words for a in question.answers], ["drop it: 2.01 kΩ stands", "as typed: 493 kΩ"])

    def test_two_tabs_on_one_point_lose_and_double_nothing(self) -> None:
        self.enter(0, "0.998", "kΩ", replaces_seen="")
        asked = self.enter(0, "1.05", "kΩ", replaces_seen="")  # a page that was made before
        self.assertContains(asked, "Meanwhile 998 Ω was recorded here")
        self.assertEqual(len(self.stand()), 2)
        self.answer("instead")
        self.assertEqual(self.stand(), [("R1 by itself", "1.05")])
        # A resend of the first, late: nothing is struck that came after it.
        key = uuid.uuid4()
        for _ in range(2):
            self.enter(1, "2.01", "kΩ", key=key, replaces_seen="")
        self.enter(1, "2.05", "kΩ", replaces_seen=str(ReadingRow.objects.latest("id").pk))
        self.enter(1, "2.01", "kΩ", key=key, replaces_seen="")
        self.assertEqual(self.stand()[-1:], [("R2 by itself", "2.05")])

    def test_the_measurement_that_was_shown_counts_though_nobody_had_asked_for_it(self) -> None:
        self.enter(Across(VOLTAGE, ("A", "C"), "main"), "3.01", "V")
        self.assertEqual(self.stand(), [("voltage from A to C", "3.01")])
        for wrong in ("", "v.A.Z@main", "v.A.C@other", "v.A.C", "[" * 400):
            self.assertEqual(self.enter(wrong, "3.01", "V").status_code, 422)
        self.assertContains(self.client.get(f"{self.address}?read=A+C&quantity=voltage"), "Voltage from A to C")
        refused = self.client.get(f"{self.at(2)}&read=A+Q&quantity=voltage")
        self.assertContains(refused, "is no place here", status_code=422)
        self.assertContains(refused, 'value="A Q"', status_code=422)
        self.assertContains(refused, "<h2>R3 by itself</h2>", status_code=422, html=True)

    def test_an_address_of_before_a_rename_still_finds_its_measurement(self) -> None:
        before = slug(Through("R1", "main"))
        self.client.post(f"{self.address}change/", {"act": "correct", "part": "R1", "name": "Rtop", "value": "1k"})
        page = self.client.get(self.at(before))
        self.assertEqual(page.context["bench"].address, slug(Through("Rtop", "main")))
        self.enter(before, "1.007", "mA")
        self.assertEqual(self.stand(), [("current through Rtop", "1.007")])

    def test_an_entry_that_an_older_page_had_not_sent_is_still_understood(self) -> None:
        """Its fields were called otherwise; the measurement by its columns, or by its number alone."""
        columns = json.dumps(["voltage", "", "B", "C", "", "main", "", ""])
        older = {"unit": "V", "supplied": "on", "found": "", "typed": "2026-11-01T10:00:00Z", "said": ""}
        for place, number, key in ((columns, "0", uuid.uuid4()), ("", "6", uuid.uuid4())):
            data = {**older, "point": number, "text": "2.022", "key": key} | ({"place": place} if place else {})
            for _ in range(2):  # and sent again it is one reading still
                self.assertEqual(self.client.post(f"{self.address}record/", data, headers=HTMX).status_code, 200)
            row = ReadingRow.objects.latest("id")
            self.assertEqual((row.red, row.black, row.unit_supplied, row.typed.year), ("B", "C", True, 2026))
        self.assertEqual(ReadingRow.objects.count(), 2)
        for place, number in (("[]", "6"), ("{", "6"), ("", "99"), ("", "-1"), ("", "²")):
            data = {**older, "point": number, "place": place, "text": "2.02", "key": uuid.uuid4()}
            self.assertEqual(self.client.post(f"{self.address}record/", data, headers=HTMX).status_code, 422)

    def test_what_is_kept_is_what_was_judged(self) -> None:
        """Whatever is typed: the run out of the database is the one that the entry was judged in."""
        draw = random.Random(3)
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        run = Run(core.sheet)
        values = {0: "0.998k", 1: "2.01k", 2: "2.97k", 5: "1.004", 6: "2.022", 9: "1.007m"}
        for _ in range(40):
            point = draw.choice(list(values))
            text = draw.choice([values[point], values[point] + "0", "OL", values[point].replace("2", "3")])
            text = text.replace("k0", "0k").replace("m0", "0m")
            target = core.sheet.asked[point]
            came = enter(run, Reading(target, parse(text, target.unit)), core.sheet.asked)
            self.assertEqual(self.enter(point, text).status_code, 200)
            kept = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
            self.assertEqual([self.standing(r) for r in kept.readings], [self.standing(r) for r in came.run.readings])
            run = came.run

    @staticmethod
    def standing(reading: Reading) -> tuple[object, ...]:
        if reading.struck:
            return reading.value.text, "struck"
        return reading.value.text, reading.counted, reading.later, reading.instead_of

    def test_the_unit_of_a_bare_number_is_the_dials_and_is_kept_as_the_pages(self) -> None:
        page = self.client.get(self.at(9)).content.decode()
        units = re.search(r'aria-label="Unit">(.*?)</select>', page, re.S)[1]
        self.assertEqual(re.findall(r"<option[^>]*>([^<]+)", units), ["µA", "mA"])
        self.enter(9, "1.007", "mA", unit_is_default="on")
        self.assertTrue(ReadingRow.objects.get().unit_supplied)
        self.enter(9, "1.008 mA", "mA", unit_is_default="on")
        self.assertFalse(ReadingRow.objects.latest("id").unit_supplied)


class AtOnceSaid(BenchTestCase):
    def test_a_high_reading_says_what_to_do_at_once_and_a_struck_one_no_more(self) -> None:
        self.assertNotContains(self.enter(5, "1.004", "V"), "more than")
        for text, said in [("31", "more than 30 V DC: connect with the supply off"), ("72", "switch off and leave it")]:
            self.assertContains(self.enter(6, text, "V"), said)
        for reading in ReadingRow.objects.filter(text__in=("31", "72")):
            corrected = {"correction": "strike"}
            page = self.client.post(f"{self.address}readings/{reading.pk}/correct/", corrected, headers=HTMX)
        self.assertNotContains(page, "more than 60 V DC")
        RunRow.objects.filter(pk=self.run_row.pk).update(simulated=True)
        self.assertNotContains(self.enter(6, "72", "V"), "switch off")

    def test_each_reading_knows_its_meter(self) -> None:
        for point, text, meter in [(0, "0.998k", "DMM-4"), (1, "2.01k", ""), (2, "2.97k", "DMM-7")]:
            self.enter(point, text, meter=meter)
        named = [reading.meter.name if reading.meter else None for reading in ReadingRow.objects.order_by("id")]
        self.assertEqual(named, ["DMM-4", None, "DMM-7"])
        self.assertContains(self.client.get(self.address), 'value="DMM-7"')  # goes on until another is named

    def test_an_outside_reading_leads_to_its_place_on_the_board(self) -> None:
        for point, text in enumerate(["0.998k", "2.01k", "2.97k", "5.98k", "6.02"]):
            self.enter(point, text)
        page = self.enter(5, "1.3", "V", declared_as="trial").content.decode()
        address = re.search(r'href="(/runs/\d+/board/[^"]+)"', page)[1].replace("&amp;", "&")
        self.client.post(f"{self.address}board/", {"act": "as_planned", "setup": "main"})
        board = self.client.get(address)
        self.assertContains(board, "board-probe", count=2)
        self.assertContains(board, "built-lit")


class Knob(BenchTestCase):
    """A source that is turned up: looks until it is there, or until Enter on the empty field accepts it."""

    def setUp(self) -> None:
        super().setUp()
        stated = {"name": "V1", "value": "6", "tolerance": "", "rating": "", "adjustable": "on"}
        self.client.post(f"{self.address}change/", {"act": "correct", "setup": "main", "part": "V1", **stated})
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.point = core.sheet.asked.index(PartAlone("V1", VOLTAGE))

    def test_enter_on_the_empty_field_accepts_what_stands(self) -> None:
        self.assertContains(self.enter(self.point, "", "V"), "Nothing is written here", status_code=422)
        for text, still in [("2.1", "3.9 V still to go"), ("4.40", "1.60 V still to go")]:
            page = self.enter(self.point, text, "V")
            self.assertContains(page, still)
            self.assertContains(page, "<h2>V1 before connecting</h2>", html=True)
        page = self.enter(self.point, "", "V")
        self.assertContains(page, "<h2>V1 under load</h2>", html=True)
        self.assertContains(page, "off its setting")
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertEqual([r.counted for r in core.readings], [False, True])
        self.assertContains(self.enter(self.point + 2, "", "V"), "Nothing is written here", status_code=422)

    def test_once_it_is_there_it_counts_by_itself(self) -> None:
        self.enter(self.point, "2.1", "V")
        self.assertContains(self.enter(self.point, "5.98", "V"), "as set")
        self.assertContains(self.client.get(self.address), "1 of 10 read")


class Sealed(BenchTestCase):
    def test_until_it_is_read_no_answer_differs_between_circuits_that_differ_only_in_values(self) -> None:
        lines = ["9V: 1k + 2k2 + 3k3; 5%", "9V: 1.2k + 2.7k + 3.9k; 5%", "9V: 1.5k + 1.8k + 4.7k; 5%"]
        pages = []
        for line in lines:
            sheet = asking_everything(one_line.read(line, "Sealed"))
            run = services.start_run(self.person, sheet)
            RunRow.objects.filter(pk=run.pk).update(sealed=True)
            self.address = run.get_absolute_url()
            said = []
            for point, text, unit in [
                (5, "1.05", "V"),  # outside in each of them
                (6, "OL", "V"),
                (7, "13.9", "V"),
                (9, "0.4", "A"),
            ]:
                card = self.client.get(self.at(point)).content.decode()
                said.append(self.told(card))
                answer = self.enter(point, text, unit).content.decode()
                said.append(self.own(*re.findall(r"<form[^>]*data-question.*?</form>", answer, re.S)))
            pages.append(said)
        self.assertEqual(pages[0], pages[1])
        self.assertEqual(pages[0], pages[2])

    @staticmethod
    def told(page: str) -> str:
        """The card of the next reading, but for what stands on the parts and what names the run itself."""
        return Sealed.own(page[page.index('aria-label="Next reading"') : page.index('id="pane"')])

    @staticmethod
    def own(*texts: str) -> str:
        """Texts but for what names the run itself."""
        own = (
            r"/runs/\d+/",
            r"value=\"[-0-9a-f]{36}\"",
            r"value=\"[ra]?\d+\"",
            r"readings/\d+",
            r"correct=\d+",
            r"data-question=\"\d+\"",
            r"key=[-0-9a-f]{36}",
            r"csrf\S+ value=\S+",
            r"\d\d:\d\d",
        )
        return re.sub("|".join(own), "", "".join(texts))
