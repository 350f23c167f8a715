"""Recording and correcting readings over HTTP: nothing lost, nothing edited, nothing twice."""

import json
import re
import uuid

from django.db import connection
from django.http import HttpResponse
from django.test import Client
from django.test.utils import CaptureQueriesContext

from recensor.bench import rows, services
from recensor.bench.models import ActLine, Reading
from recensor.core.judgement import assess
from recensor.formats import run_document
from tests.served import HTMX, BenchTestCase, chain_run

WHOLE_RUN = ["0.998k", "2.01k", "2.97k", "5.98k", "6.02", "1.004", "2.022", "2.99", "6.01", "1.007m"]


class Recording(BenchTestCase):
    def test_a_whole_run_ends_in_balanced_books(self) -> None:
        for point, text in enumerate(WHOLE_RUN):
            page = self.enter(point, text)
            self.assertContains(page, 'class="recorded"')
            self.assertContains(page, f"{point + 1} of 10 read" if point < 9 else "the books balance", html=False)
        document = run_document.read(self.client.get(f"{self.address}document/").content)
        self.assertEqual([r.value.text for r in document.readings], WHOLE_RUN)
        self.assertEqual([law.verdict for law in assess(document).laws], ["balances"])
        self.assertContains(self.client.get("/"), "the books balance")
        row = Reading.objects.first()
        self.assertEqual(
            (row.text, str(row.value.normalize()), row.author, row.of), ("0.998k", "998", self.person, "R1")
        )

    def test_unit_beside_the_field_and_in_the_text(self) -> None:
        for point, text, unit, value in [(0, "0.998", "kΩ", 998), (0, "998", "Ω", 998), (0, "1k", "MΩ", 1000),
                                         (9, "1.007", "mA", 0.001007), (9, "0.001007 A", "mA", 0.001007)]:  # fmt: skip
            self.assertEqual(self.enter(point, text, unit).status_code, 200)
            self.assertAlmostEqual(float(Reading.objects.latest("id").value), value)

    def test_a_resend_is_one_reading_and_another_text_under_its_key_is_refused(self) -> None:
        key = uuid.uuid4()
        for _ in range(3):
            self.assertEqual(self.enter(0, "0.998k", key=key).status_code, 200)
        refused = self.enter(0, "0.898k", key=key)
        self.assertContains(refused, "already recorded as 0.998k", status_code=409)
        self.assertContains(refused, 'value="0.898k"', status_code=409)
        self.assertNotContains(refused, str(key), status_code=409)
        self.assertEqual(Reading.objects.count(), 1)
        key = uuid.uuid4()
        self.enter(0, "1.2", "kΩ", key=key)
        self.assertContains(self.enter(0, "1.2", "Ω", key=key), "already recorded", status_code=409)

    def test_what_was_read_stands_beside_the_parts_on_demand(self) -> None:
        for point, text in enumerate(WHOLE_RUN):
            self.enter(point, text)
        plain = self.client.get(self.address)
        self.assertNotContains(plain, "part-note")
        for show, notes in [
            ("values", ["998 Ω", "2.97 kΩ", "6.02 V"]),
            ("voltages", ["1.004 V", "6.01 V"]),
            ("currents", ["1.007 mA"]),
        ]:
            page = self.client.get(self.address, {"show": show})
            for note in notes:
                self.assertContains(page, f">{note}</text>")
        self.assertContains(self.enter(5, "1.005", show="voltages"), ">1.0045 V</text>")
        self.assertNotContains(self.client.get(self.address, {"show": "moods"}), "part-note")

    def test_trials_have_a_mean(self) -> None:
        for text in ("2.000k", "2.010k", "2.020k"):
            page = self.enter(1, text)
        self.assertContains(page, "mean of 3")
        self.assertContains(page, "2.0100 kΩ")

    def test_what_can_mean_two_things_is_asked_about(self) -> None:
        asked = self.enter(0, "1,000", "Ω")
        self.assertContains(asked, ">1.000</button>", status_code=422)
        self.assertContains(asked, ">1000</button>", status_code=422)
        self.assertContains(asked, 'value="1,000"', status_code=422)
        self.assertEqual(self.enter(0, "1,000", "Ω", answer="1000").status_code, 200)
        self.assertEqual(float(Reading.objects.get().value), 1000)

    def test_queries_do_not_grow_with_the_readings(self) -> None:
        def queries() -> int:
            with CaptureQueriesContext(
                connection,
            ) as captured:
                self.assertEqual(self.enter(5, "1.00").status_code, 200)
            return len(captured)

        queries()  # the sheet is read and parsed once
        few = queries()
        for _ in range(25):
            self.enter(5, "1.00")
        self.assertEqual(queries(), few)
        with self.assertNumQueries(few - 3):  # without the insert and its savepoint
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

    def test_list_of_runs_follows_a_strike(self) -> None:
        self.enter(0, "1k")
        self.assertContains(self.client.get("/"), "1 of 10 read")
        self.client.post(f"{self.address}readings/{Reading.objects.get().pk}/strike/", {"reason": "x"}, headers=HTMX)
        self.assertContains(self.client.get("/"), "0 of 10 read")


class Correcting(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.enter(5, "2.022", "V")
        self.reading = Reading.objects.get()

    def correct(self, what: str, **data: object):
        return self.client.post(f"{self.address}readings/{self.reading.pk}/{what}/", data, headers=HTMX)

    def test_strike_needs_a_reason_and_keeps_the_entry_in_sight(self) -> None:
        self.assertContains(self.correct("strike", reason="  ", at=5), "Say why", status_code=422)
        self.assertContains(self.correct("strike", reason="x" * 5000, at=5), "characters long", status_code=422)
        page = self.correct("strike", reason="probe slipped", at=5)
        self.assertContains(page, "<s>2.022 V</s>", html=True)
        self.assertContains(page, "struck: probe slipped")
        self.assertContains(self.correct("strike", reason="again", at=5), "struck already", status_code=422)
        document = json.loads(self.client.get(f"{self.address}document/").content)
        self.assertEqual(document["readings"][0]["struck"]["reason"], "probe slipped")

    def test_belongs_to_another_point_is_one_action(self) -> None:
        page = self.correct("move", point=6, at=5)
        self.assertEqual(page.status_code, 200)
        old, new = Reading.objects.order_by("id")
        self.assertIn("belongs to another point", old.lines.get().act.reason)
        self.assertEqual((new.red, new.black, new.text, new.unit), ("B", "C", "2.022", "V"))
        self.assertEqual(self.correct("move", point=6, at=5).status_code, 422)
        self.assertEqual(Reading.objects.count(), 2)
        self.reading = new
        self.assertContains(self.correct("move", point=0, at=5), "asks for a resistance", status_code=422)
        self.assertContains(self.correct("move", point=99, at=5), "Choose the point", status_code=422)

    def test_corrections_are_offered_for_the_one_entry_that_was_chosen(self) -> None:
        self.enter(5, "2.023", "V")
        plain = self.client.get(f"{self.address}?point=5")
        self.assertContains(plain, ">correct</a>", count=2)
        self.assertNotContains(plain, "Strike</button>")
        chosen = self.client.get(f"{self.address}?point=5&correct={self.reading.pk}")
        self.assertContains(chosen, f"/readings/{self.reading.pk}/strike/")
        self.assertContains(chosen, ">correct</a>", count=1)

    def undo(self, named: object = "") -> HttpResponse:
        return self.client.post(f"{self.address}undo/", {"reading": named}, headers=HTMX)

    def test_undo_strikes_the_reading_that_its_page_names_and_no_other(self) -> None:
        self.enter(6, "2.0")
        later = Reading.objects.last()
        self.assertContains(self.client.get(self.address), f'name="reading" value="{later.pk}"')
        # A page made before the later one was recorded in another tab.
        self.assertContains(self.undo(self.reading.pk), "You have recorded 2.0 since", status_code=409)
        for _ in range(2):  # again, since the first answer was lost on its way
            self.assertContains(self.undo(later.pk), f'name="reading" value="{self.reading.pk}"')
        self.assertEqual(self.undo(self.reading.pk).status_code, 200)
        self.assertEqual([line.reading.text for line in ActLine.objects.order_by("id")], ["2.0", "2.022"])
        self.assertContains(self.undo(), "no reading of yours", status_code=422)

    def test_undo_leaves_what_someone_else_read(self) -> None:
        theirs = rows.reading_of(rows.values_of(self.reading))
        other = services.record_reading(self.run_row, self.other, theirs, uuid.uuid4())
        self.assertContains(self.client.get(self.address), f'name="reading" value="{self.reading.pk}"')
        self.assertContains(self.undo(other.pk), "no reading of yours", status_code=422)
        self.assertFalse(ActLine.objects.exists())

    def test_only_points_of_the_same_measurand_are_offered_for_a_move(self) -> None:
        page = self.client.get(f"{self.address}?point=5&correct={self.reading.pk}").content.decode()
        offered = re.findall(r'<option value="(\d+)"', page[page.index("/move/") :])
        self.assertEqual(offered, ["4", "6", "7", "8"])

    def test_rows_are_append_only(self) -> None:
        self.reading.text = "9"
        for act in (self.reading.save, self.reading.delete, Reading.objects.all().delete,
                    lambda: Reading.objects.update(text="9"), self.run_row.sheets.last().sheet.save):  # fmt: skip
            with self.assertRaises(TypeError):
                act()
        self.assertEqual(Reading.objects.get().text, "2.022")


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
        self.assertEqual(Reading.objects.count(), 0)
        for value in ("-5", "0", "-1k"):  # kept as read, and judged
            self.assertEqual(self.enter(0, value).status_code, 200)

    def test_whatever_a_script_sends(self) -> None:
        for data in [
            {},
            {"point": "x", "text": "1"},
            {"point": 99, "text": "1", "key": uuid.uuid4()},
            {"point": -1, "text": "1", "key": uuid.uuid4()},
            {"point": 0, "text": "1", "key": "no-key"},
            {"point": 10**30, "text": "1", "key": uuid.uuid4()},
            {"point": 0, "text": "1", "key": uuid.uuid4(), "range": "?"},
            {"point": 0, "text": "1", "key": uuid.uuid4(), "unit": "furlong"},
            {"point": 0, "text": "1", "key": uuid.uuid4(), "unit": "x" * 999},
        ]:
            for headers in (HTMX, {}):
                answer = self.client.post(f"{self.address}record/", data, headers=headers)
                self.assertEqual(answer.status_code, 422, data)
                self.assertContains(answer, "field-error", status_code=422)
        for query in ("?point=99", "?point=-1", "?point=x", "?point=" + "9" * 50, "?point=²"):
            self.assertEqual(self.client.get(self.address + query).status_code, 200)
        self.assertEqual(self.client.get(f"{self.address}record/").status_code, 405)
        self.assertEqual(self.client.post(f"{self.address}readings/999999/strike/", {"reason": "x"}).status_code, 404)
        self.assertEqual(self.client.get("/runs/999999999999999999999999/").status_code, 404)
        self.assertEqual(self.client.get("/?page=x").status_code, 200)

    def test_a_circuit_that_cannot_be_solved_says_why_on_the_page(self) -> None:
        self.enter(0, "0", "Ω")
        self.assertContains(self.client.get(self.address), "R1 has a resistance that is not above zero")


class WhoMayWhat(BenchTestCase):
    def test_a_run_is_its_owners_alone(self) -> None:
        self.enter(0, "1k")
        reading = Reading.objects.get()
        self.client.force_login(self.other)
        self.assertNotContains(self.client.get("/"), "Chain")
        for address in ("", "document/"):
            self.assertEqual(self.client.get(self.address + address).status_code, 404)
        for address in ("record/", "undo/", f"readings/{reading.pk}/strike/", f"readings/{reading.pk}/move/"):
            self.assertEqual(self.client.post(self.address + address, {"point": 0}).status_code, 404)
        theirs = chain_run(self.other)
        mixed = f"{theirs.get_absolute_url()}readings/{reading.pk}/strike/"
        self.assertEqual(self.client.post(mixed, {"reason": "not mine"}).status_code, 404)
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
        answer = strict.post(f"{self.address}record/", {"point": 0, "text": "1k", "key": uuid.uuid4()})
        self.assertContains(answer, "earlier sign-in", status_code=403)
        self.assertEqual(Reading.objects.count(), 0)
