"""Recording and correcting readings over HTTP: nothing lost, nothing edited, nothing twice."""

import json
import re
import uuid

from django.db import connection
from django.http import HttpResponse
from django.test import Client
from django.test.utils import CaptureQueriesContext

from recensor.core.circuit import slug
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.judgement import assess
from recensor.formats.documents import run_document
from recensor.runs import mapping, queries, services
from recensor.runs.models import ActLine, ActRow, ReadingRow
from tests.served import HTMX, BenchTestCase, address_of, chain_run
from tests.written import part

WHOLE_RUN = ["0.998k", "2.01k", "2.97k", "5.98k", "6.02", "1.004", "2.022", "2.99", "6.01", "1.007m"]


class Recording(BenchTestCase):
    def test_a_whole_run_ends_in_balanced_books(self) -> None:
        for point, text in enumerate(WHOLE_RUN):
            page = self.enter(point, text)
            self.assertContains(page, 'class="recorded"')
            self.assertContains(page, f"{point + 1} of 10 read" if point < 9 else "everything balances", html=False)
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertEqual([r.value.text for r in document.readings], WHOLE_RUN)
        self.assertEqual([law.verdict for law in assess(document).laws], ["balances"])
        self.assertContains(self.client.get("/"), "everything balances")
        row = ReadingRow.objects.first()
        self.assertEqual(
            (row.text, str(row.value.normalize()), row.author, row.of), ("0.998k", "998", self.person, "R1")
        )

    def test_unit_beside_the_field_and_in_the_text(self) -> None:
        for point, text, unit, value in [(0, "0.998", "kΩ", 998), (0, "998", "Ω", 998), (0, "1k", "MΩ", 1000),
                                         (9, "1.007", "mA", 0.001007), (9, "0.001007 A", "mA", 0.001007)]:  # fmt: skip
            self.assertEqual(self.enter(point, text, unit).status_code, 200)
            self.assertAlmostEqual(float(ReadingRow.objects.latest("id").value), value)

    def test_a_resend_is_one_reading_and_another_text_under_its_key_is_refused(self) -> None:
        key = uuid.uuid4()
        for _ in range(3):
            self.assertEqual(self.enter(0, "0.998k", key=key).status_code, 200)
        refused = self.enter(0, "0.898k", key=key)
        self.assertContains(refused, "already recorded as 0.998k", status_code=409)
        self.assertContains(refused, 'value="0.898k"', status_code=409)
        self.assertNotContains(refused, str(key), status_code=409)
        self.assertEqual(ReadingRow.objects.count(), 1)
        key = uuid.uuid4()
        self.enter(0, "1.2", "kΩ", key=key)
        self.assertContains(self.enter(0, "1.2", "Ω", key=key), "already recorded", status_code=409)

    def test_what_was_read_stands_beside_the_parts_on_demand(self) -> None:
        for point, text in enumerate(WHOLE_RUN):
            self.enter(point, text)
        self.assertNotContains(self.client.get(self.address, {"show": "nothing"}), "part-note")
        for show, notes in [
            ("step", ["1.004 V", "6.01 V"]),
            ("values", ["998 Ω", "2.97 kΩ", "6.02 V"]),
            ("voltages", ["1.004 V", "6.01 V"]),
            ("currents", ["1.007 mA"]),
        ]:
            page = self.client.get(self.address, {"show": show})
            for note in notes:
                self.assertContains(page, f">{note}</text>")
        self.assertContains(self.enter(5, "1.006", show="voltages", declared_as="trial"), ">1.0050 V</text>")
        self.assertContains(self.client.get(f"{self.at(9)}&show=moods"), ">1.007 mA</text>")

    def test_trials_have_a_mean(self) -> None:
        for text in ("2.010k", "2.011k", "2.012k"):
            page = self.enter(1, text)
        self.assertContains(page, "another trial")
        self.assertContains(page, "mean of 3")
        self.assertContains(page, "2.0110 kΩ")

    def test_what_can_mean_two_things_is_asked_about(self) -> None:
        asked = self.enter(0, "1,000", "Ω")
        self.assertContains(asked, ">1.000</button>", status_code=422)
        self.assertContains(asked, ">1000</button>", status_code=422)
        self.assertContains(asked, 'value="1,000"', status_code=422)
        self.assertEqual(self.enter(0, "1,000", "Ω", answer="1000").status_code, 200)
        self.assertEqual(float(ReadingRow.objects.get().value), 1000)

    def test_queries_do_not_grow_with_the_readings(self) -> None:
        here = address_of(self.run_row, 5)

        def queries() -> int:
            with CaptureQueriesContext(connection) as captured:
                self.assertEqual(self.enter(here, "1.00", switches=False).status_code, 200)
            return len(captured)

        self.enter(5, "1.00")
        queries()  # the sheet is read and parsed once
        few = queries()
        for _ in range(25):
            self.enter(5, "1.00")
        self.assertEqual(queries(), few)
        # Without what recording adds: a transaction, the run held, and the insert with its savepoint.
        with self.assertNumQueries(few - 6):
            self.client.get(self.address, headers=HTMX)

    def test_list_of_runs_takes_as_many_queries_for_ten_runs_as_for_one(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(connection) as captured:
                self.client.get("/")
            return len(captured)

        self.enter(0, "1k")
        one = queries()
        for k in range(9):
            chain_run(self.person, f"Run {k}")
        self.assertEqual(queries(), one)

    def test_what_is_said_of_an_entry_is_said_of_that_number_and_then_what_stands(self) -> None:
        for point, text in enumerate(WHOLE_RUN[:7]):
            self.enter(point, text)
        for text, off, stands in (("1.40", "+39", ""), ("1.41", "+40", " 1.405 V stands here: outside.")):
            with self.subTest(text):
                said = self.enter(5, text, "V").content.decode()
                spoken = re.search(r'data-say="([^"]+)"', said)[1]
                self.assertTrue(spoken.startswith(f"R1 {text} V: outside.{stands} Next"), spoken)
                self.assertIn(off, re.search(r'class="recorded".*?</p>', said, re.S)[0])

    def test_list_of_runs_follows_a_strike(self) -> None:
        self.enter(0, "1k")
        self.assertContains(self.client.get("/"), "1 of 10 read")
        self.client.post(
            f"{self.address}readings/{ReadingRow.objects.get().pk}/correct/", {"correction": "strike"}, headers=HTMX
        )
        self.assertContains(self.client.get("/"), "0 of 10 read")


class Correcting(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.enter(5, "2.022", "V")
        self.reading = ReadingRow.objects.get()

    def correction(self, name: str, reading: ReadingRow | None = None, **data: object):
        address = f"{self.address}readings/{(reading or self.reading).pk}/correct/"
        return self.client.post(address, {"correction": name, **data}, headers=HTMX)

    def test_a_struck_reading_stays_in_sight_with_its_reason(self) -> None:
        self.assertContains(self.correction("strike", reason="x" * 5000, at=5), "Choose what", status_code=422)
        page = self.correction("strike", reason="probe slipped", at=5)
        self.assertContains(page, '<s class="figures">2.022 V</s>')
        self.assertContains(page, "struck: probe slipped")
        self.assertContains(self.correction("strike", at=5), "struck already", status_code=422)
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertEqual(document["readings"][0]["struck"]["reason"], "probe slipped")

    def test_belongs_to_another_point_is_one_action_and_undone_by_another(self) -> None:
        self.assertEqual(self.correction("belongs v.B.C@main", at=5).status_code, 200)
        old, new = ReadingRow.objects.order_by("id")
        self.assertEqual(old.lines.get().effect, "move")
        self.assertEqual((new.red, new.black, new.text, new.unit), ("B", "C", "2.022", "V"))
        self.assertEqual(self.correction("belongs v.B.C@main", at=5).status_code, 422)
        self.assertContains(self.correction("belongs of.r.R1", new), "cannot be done", status_code=422)
        page = self.undo(f"a{old.lines.get().act_id}")
        self.assertContains(page, 'value="r')  # and then the reading itself
        self.assertEqual([r.struck is None for r in self.readings()], [True, False])
        self.assertEqual(self.readings()[0].target.nodes, ("A", "B"))

    def readings(self) -> list:
        return list(queries.load(queries.any_run().get(pk=self.run_row.pk)).core.readings)

    def test_every_correction_is_offered_with_what_the_books_then_say_and_undone_by_one_key(self) -> None:
        for point, text in [(0, "0.998k"), (1, "2.01k"), (2, "2.97k"), (6, "-2.02")]:
            self.enter(point, text)
        turned = ReadingRow.objects.last()
        chosen = self.client.get(f"{self.at(6)}&correct={turned.pk}")
        for words in ("Leads turned: 2.02 V", "−2.02 kV", "−20.2", "It is Voltage across R3", "then:"):
            self.assertEqual(words in chosen.content.decode(), words != "−20.2", words)
        before = self.readings()
        for name in re.findall(r'name="correction" value="([^"]+)"', chosen.content.decode()):
            with self.subTest(name):
                self.assertEqual(self.correction(name, turned).status_code, 200)
                self.assertNotEqual(self.readings(), before)
                last = queries.load(queries.any_run().get(pk=self.run_row.pk)).last[self.person.username]
                self.assertEqual(last[0], "a")
                self.assertEqual(self.undo(last).status_code, 200)
                stand = [r for r in self.readings() if r.struck is None]
                self.assertEqual(stand, [r for r in before if r.struck is None])

    def test_what_a_reading_stands_instead_of_is_known_and_may_count_beside_it_again(self) -> None:
        for text in ("2.022", "2.023"):
            self.enter(6, text, "V")
        newest = ReadingRow.objects.latest("pk")
        self.assertEqual(self.correction("instead", newest).status_code, 200)
        first, second = self.readings()[1:]
        self.assertEqual((first.struck is None, second.struck, second.instead_of), (False, None, 1))
        self.assertEqual(self.correction("trial", newest).status_code, 200)
        self.assertEqual([reading.struck for reading in self.readings()[1:]], [None, None])

    def test_a_measurement_is_named_however_long_its_address_is(self) -> None:
        names = [f"resistor number {k} of the chain, from the left" for k in (1, 2, 3)]
        resistors = [part(name, "1k", "5%") for name in names]
        self.run_row = services.start_run(self.person, shaped(Shape.CHAIN, "Long", part("V1", "6"), resistors))
        self.address = self.run_row.get_absolute_url()
        self.enter(0, "0.998k")
        right = slug(queries.load(self.run_row).points[1])
        self.assertGreater(len(right), 60)
        self.assertEqual(self.correction(f"belongs {right}", ReadingRow.objects.latest("pk")).status_code, 200)

    def test_all_since_here_goes_one_point_back(self) -> None:
        self.undo(f"r{self.reading.pk}")
        for point, text in [(6, "1.004"), (7, "2.022"), (8, "2.99")]:  # one Enter too many before the first of them
            self.enter(point, text, declared_as="trial")
            self.answer_open("as typed")
        first = ReadingRow.objects.filter(text="1.004").get()
        self.assertEqual(self.correction("shift back", first).status_code, 200)
        standing = {r.target.nodes: r.value.text for r in self.readings() if r.struck is None}
        self.assertEqual(standing, {("A", "B"): "1.004", ("B", "C"): "2.022", ("C", "gnd"): "2.99"})
        self.assertEqual(ActRow.objects.filter(kind="shift").count(), 1)

    def answer_open(self, means: str) -> None:
        for reading in ReadingRow.objects.exclude(question="").filter(lines=None):
            data = {"answer": json.dumps([means, "", ""])}
            self.client.post(f"{self.address}readings/{reading.pk}/answer/", data, headers=HTMX)

    def test_corrections_are_offered_for_the_one_entry_that_was_chosen(self) -> None:
        self.enter(5, "2.023", "V")
        plain = self.client.get(self.at(5))
        self.assertContains(plain, ">put right</a>", count=2)
        self.assertNotContains(plain, "Strike it</button>")
        chosen = self.client.get(f"{self.at(5)}&correct={self.reading.pk}")
        self.assertContains(chosen, "Strike it</button>")
        self.assertContains(chosen, ">put right</a>", count=1)

    def undo(self, last: object = "") -> HttpResponse:
        return self.client.post(f"{self.address}undo/", {"last": last}, headers=HTMX)

    def test_undo_takes_back_what_its_page_names_and_nothing_else(self) -> None:
        self.enter(6, "2.0")
        later = ReadingRow.objects.last()
        self.assertContains(self.client.get(self.address), f'name="last" value="r{later.pk}"')
        # A page made before the later one was recorded in another tab.
        self.assertContains(self.undo(f"r{self.reading.pk}"), "something else since", status_code=409)
        for _ in range(2):  # again, since the first answer was lost on its way
            self.assertContains(self.undo(f"r{later.pk}"), f'name="last" value="r{self.reading.pk}"')
        self.assertEqual(self.undo(f"r{self.reading.pk}").status_code, 200)
        self.assertEqual([line.reading.text for line in ActLine.objects.order_by("id")], ["2.0", "2.022"])
        for nonsense in ("", "r", "a0", "r999999999", "x1", "r" + "9" * 40):
            self.assertContains(self.undo(nonsense), "nothing of yours", status_code=422)

    def test_undo_leaves_what_someone_else_read(self) -> None:
        theirs = mapping.reading_of(mapping.row_values(self.reading))
        other = services.record_reading(self.run_row, self.other, theirs, uuid.uuid4())
        self.assertContains(self.client.get(self.address), f'name="last" value="r{self.reading.pk}"')
        self.assertContains(self.undo(f"r{other.pk}"), "nothing of yours", status_code=422)
        self.assertFalse(ActLine.objects.exists())

    def test_only_points_of_the_same_measurand_are_offered_for_a_move(self) -> None:
        page = self.client.get(f"{self.at(5)}&correct={self.reading.pk}").content.decode()
        self.assertEqual(
            re.findall(r'value="belongs (\S+)"', page), [address_of(self.run_row, k) for k in (4, 6, 7, 8)]
        )

    def test_rows_are_append_only(self) -> None:
        self.reading.text = "9"
        for act in (self.reading.save, self.reading.delete, ReadingRow.objects.all().delete,
                    lambda: ReadingRow.objects.update(text="9"), self.run_row.sheets.last().sheet.save):  # fmt: skip
            with self.assertRaises(TypeError):
                act()
        self.assertEqual(ReadingRow.objects.get().text, "2.022")


class BadInput(BenchTestCase):
    def test_whatever_is_typed_gets_a_message_and_stays(self) -> None:
        for text in (
            "",
            "abc",
            "5 V",
            "1e99",
            "9" * 10_000,
            "−",
            "🙂",
            "<script>alert(1)</script>",
            "1.2.3",
            "\x00",
            "NaN",
        ):
            with self.subTest(text[:12]):
                page = self.enter(0, text, "kΩ")
                self.assertContains(page, "field-error", status_code=422)
                self.assertNotContains(page, "<script>alert", status_code=422)
        self.assertContains(self.enter(0, "4,7,0k"), 'value="4,7,0k"', status_code=422)
        self.assertEqual(ReadingRow.objects.count(), 0)
        for value in ("-5", "0", "-1k"):  # kept as read, and judged
            self.assertEqual(self.enter(0, value).status_code, 200)

    def test_whatever_a_script_sends(self) -> None:
        for data in [
            {},
            {"measurement": "x", "text": "1"},
            {"measurement": "of.r.R9", "text": "1", "key": uuid.uuid4()},
            {"measurement": "-1", "text": "1", "key": uuid.uuid4()},
            {"measurement": "of.r.R1", "text": "1", "key": "no-key"},
            {"measurement": 10**30, "text": "1", "key": uuid.uuid4()},
            {"measurement": "of.r.R1", "text": "1", "key": uuid.uuid4(), "range": "?"},
            {"measurement": "of.r.R1", "text": "1", "key": uuid.uuid4(), "unit": "furlong"},
            {"measurement": "of.r.R1", "text": "1", "key": uuid.uuid4(), "unit": "x" * 999},
        ]:
            for headers in (HTMX, {}):
                answer = self.client.post(f"{self.address}record/", data, headers=headers)
                self.assertEqual(answer.status_code, 422, data)
                self.assertContains(answer, "field-error", status_code=422)
        for query in (
            "?measurement=99",
            "?measurement=",
            "?measurement=v.A.x@main",
            "?measurement=" + "9" * 5000,
            "?measurement=²",
        ):
            self.assertEqual(self.client.get(self.address + query).status_code, 200)
        self.assertEqual(self.client.get(f"{self.address}record/").status_code, 405)
        self.assertEqual(
            self.client.post(f"{self.address}readings/999999/correct/", {"correction": "x"}).status_code, 422
        )
        self.assertEqual(self.client.get("/runs/999999999999999999999999/").status_code, 404)
        self.assertEqual(self.client.get("/?page=x").status_code, 200)

    def test_a_circuit_that_cannot_be_solved_says_why_on_the_page(self) -> None:
        self.enter(0, "0", "Ω")
        self.assertContains(self.client.get(self.address), "R1 has a resistance that is not above zero")


class WhoMayWhat(BenchTestCase):
    def test_a_run_is_its_owners_alone(self) -> None:
        self.enter(0, "1k")
        reading = ReadingRow.objects.get()
        self.client.force_login(self.other)
        self.assertNotContains(self.client.get("/"), "Chain")
        for address in ("", "document/"):
            self.assertEqual(self.client.get(self.address + address).status_code, 404)
        acts = (f"readings/{reading.pk}/{act}/" for act in ("correction", "answer"))
        for address in ("record/", "undo/", "own/", *acts):
            self.assertEqual(self.client.post(self.address + address, {"measurement": "of.r.R1"}).status_code, 404)
        theirs = chain_run(self.other)
        mixed = f"{theirs.get_absolute_url()}readings/{reading.pk}/correct/"
        self.assertEqual(self.client.post(mixed, {"correction": "strike"}).status_code, 422)
        self.assertEqual(ActLine.objects.count(), 0)

    def test_signed_out(self) -> None:
        self.client.logout()
        for address in ("/", "/runs/new/", self.address):
            self.assertRedirects(self.client.get(address), f"/sign-in/?next={address}")
        self.assertEqual(self.enter(0, "1k").status_code, 401)
        self.assertEqual(self.client.post(f"{self.address}record/", {"text": "1k"}).status_code, 302)

    def test_without_the_forms_token(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.person)
        answer = strict.post(f"{self.address}record/", {"measurement": "of.r.R1", "text": "1k", "key": uuid.uuid4()})
        self.assertContains(answer, "earlier sign-in", status_code=403)
        self.assertEqual(ReadingRow.objects.count(), 0)
