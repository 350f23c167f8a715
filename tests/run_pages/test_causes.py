"""Causes on the bench: line beside the entry, page, correction in one press; what a sealed run keeps back."""

import re
import uuid

from recensor.core.judgement import Outcome, assess
from recensor.formats.documents import run_document
from recensor.runs import queries
from recensor.runs.models import ActRow, ReadingRow, RunRow, RunSheet
from recensor.runs.services.import_document import import_run
from tests.served import HTMX, BenchTestCase

# A chain of 1k, 2k and 3k on 6 V, read as it is: parts, total, source, under load, drops, and the current.
CLEAN = ["0.998k", "2.01k", "2.97k", "5.98k", "6.02", "6.01", "1.003", "2.020", "2.985"]


class CausesTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.points = [t.words for t in queries.load(queries.any_run().get(pk=self.run_row.pk)).points]

    def type_all(self, changed: dict[int, str] | None = None) -> None:
        """Type a whole run, with other texts at some points; whatever is asked about is as it was typed."""
        for place, text in enumerate(CLEAN):
            answer = self.enter(self.point_of(place), (changed or {}).get(place, text))
            if b"data-question" in answer.content:
                latest = ReadingRow.objects.latest("id")
                self.client.post(f"{self.address}readings/{latest.pk}/answer/", {"answer": "as typed"}, headers=HTMX)

    def point_of(self, place: int) -> int:
        """Points as they are asked: parts, total, source, then drops, with the source under load last of them."""
        order = [0, 1, 2, 3, 4, self.points.index("voltage from A to gnd")]
        drops = [k for k, words in enumerate(self.points) if words.startswith("voltage from") and k not in order]
        return [*order, *drops][place]

    def line(self, **more: str) -> str:
        """The line that comes by the second request."""
        found = self.client.get(f"{self.address}causes/likely/", {"key": str(uuid.uuid4()), **more}, headers=HTMX)
        self.assertEqual(found.status_code, 200)
        return found.content.decode()

    def token(self) -> str:
        """What names the first cause in its form."""
        match = re.search(r'name="cause" value="([^"]+)"', self.line())
        if match is None:
            self.fail("nothing is to be corrected")
        return match[1]

    def correction(self, token: str, key: object = None, **more: str):
        return self.client.post(
            f"{self.address}causes/correct/", {"cause": token, "key": key or uuid.uuid4(), **more}, headers=HTMX
        )

    def outside(self) -> int:
        run = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        return sum(t.judged.outcome is Outcome.OUTSIDE for t in assess(run).targets.values())


class BesideTheEntry(CausesTestCase):
    def test_it_is_asked_for_only_where_something_does_not_fit(self) -> None:
        self.type_all()
        self.assertNotContains(self.client.get(self.address), "data-causes")

    def test_the_line_names_the_cause_and_the_rows_that_it_explains(self) -> None:
        self.type_all({7: "2.20"})
        page = self.client.get(self.address)
        self.assertContains(page, "data-causes")
        self.assertContains(page, "looking …")
        line = self.line()
        self.assertIn("Likely", line)
        self.assertIn("2.02 V: two of its digits are transposed", line)
        self.assertRegex(line, r"With that, \d+ of \d+ agree")
        self.assertIn('data-explains="', line)
        self.assertRegex(line, r'<span class="verdict-word">transposed digits, 2.02 V</span>')

    def test_an_open_joint_is_found_while_the_run_goes_on(self) -> None:
        for place in range(6):
            self.enter(self.point_of(place), CLEAN[place])
        answer = self.enter(self.point_of(6), "0.000")
        if b"data-question" in answer.content:
            latest = ReadingRow.objects.latest("id")
            self.client.post(f"{self.address}readings/{latest.pk}/answer/", {"answer": "as typed"}, headers=HTMX)
        line = self.line()
        self.assertIn("came open after the resistance was read", line)
        self.assertRegex(line, r"Read [^<]+ next")

    def test_what_nothing_explains_is_named_by_itself(self) -> None:
        self.type_all({7: "2.77"})
        line = self.line()
        self.assertIn("does not fit what the others say", line)
        self.assertRegex(line, r"Read [^<]+ again")

    def test_in_its_pane_the_others_stand_below_each_with_its_share(self) -> None:
        self.type_all({7: "2.72"})
        line = self.line()
        self.assertIn("2.02 V: one of its digits was misread", line)
        self.assertIn("Strike it and read it again", line)
        self.assertNotIn("<ol", line)
        self.assertRegex(self.line(whole="yes"), r"<li>[^<]*%[^<]*: [^<]+</li>")

    def test_nobody_else_sees_it(self) -> None:
        self.client.force_login(self.other)
        for method, address in (
            (self.client.get, "causes/"),
            (self.client.get, "causes/likely/"),
            (self.client.post, "causes/correct/"),
        ):
            self.assertEqual(method(f"{self.address}{address}").status_code, 404)


class InOnePress(CausesTestCase):
    def test_a_slip_is_struck_and_entered_again_and_one_key_takes_that_back(self) -> None:
        self.type_all({7: "2.20"})
        token, key, before = self.token(), uuid.uuid4(), ReadingRow.objects.count()
        self.assertEqual(self.outside(), 1)
        self.assertContains(self.correction(token, key), "What was there before stays in the history")
        self.assertEqual(self.correction(token, key).status_code, 200)  # pressed twice it is done once
        self.assertEqual((self.outside(), ReadingRow.objects.count()), (0, before + 1))
        run = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertEqual(sum(r.struck is not None for r in run.readings), 1)
        last = queries.load(queries.any_run().get(pk=self.run_row.pk)).last[self.person.username]
        self.client.post(f"{self.address}undo/", {"last": last}, headers=HTMX)
        self.assertEqual(self.outside(), 1)

    def test_a_value_is_corrected_on_the_sheet(self) -> None:
        self.type_all({2: "3.60k", 3: "6.62k", 6: "0.907", 7: "1.830", 8: "3.27"})
        token = self.token()
        self.assertTrue(token.endswith("parts.R3"), token)
        self.correction(token)
        row = RunSheet.objects.latest("id")
        self.assertEqual(row.kind, RunSheet.Kind.CORRECTION)
        self.assertEqual(self.outside(), 0)
        act = ActRow.objects.latest("id")
        self.client.post(f"{self.address}undo/", {"last": f"a{act.pk}"}, headers=HTMX)
        self.assertGreater(self.outside(), 0)

    def test_hands_open_a_new_state_and_what_was_read_stays_with_the_old(self) -> None:
        self.type_all({3: "OL", 6: "0.000", 7: "6.01", 8: "0.000"})
        token = self.token()
        self.assertEqual(token, "joint open:leads.R2.1")
        mended = self.correction(token)  # and what showed it last is read again
        self.assertEqual(mended.context["bench"].address, "v.C.gnd@main-20-mended")
        run = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.assertEqual(list(run.sheet.setups), ["main", "main mended"])
        self.assertEqual(len([r for r in run.readings if r.struck is None]), len(CLEAN))
        self.assertTrue(all(t.setup != "main" for t in run.sheet.asked))
        self.assertContains(self.client.get(self.address), "main mended")

    def test_a_meter_is_judged_as_it_was_found_and_one_key_takes_that_back(self) -> None:
        """Each voltage is 0.2 V high; what is read with it later is judged so as well, and so is a copy of the run."""
        self.type_all({4: "6.22", 5: "6.21", 6: "1.203", 7: "2.220", 8: "3.185"})
        before = self.outside()
        self.assertGreater(before, 0)
        token = self.token()
        self.assertTrue(token.startswith("zero offset"), token)
        self.correction(token)
        self.assertEqual(self.outside(), 0)
        self.enter(self.point_of(7), "2.23")
        self.assertEqual(self.outside(), 0)
        self.assertContains(self.client.get(f"{self.address}report/"), "to each voltage")
        text = self.client.get(f"{self.address}document/").content.decode()
        self.assertIn('"offsets"', text)
        brought = import_run(self.other, run_document.read(text))
        copy = queries.load(queries.any_run().get(pk=brought.pk)).core
        self.assertFalse([t for t in assess(copy).targets.values() if t.judged.outcome is Outcome.OUTSIDE])
        for _ in range(2):
            run = queries.any_run().get(pk=self.run_row.pk)
            last = queries.last_done(queries.load(run), self.person)
            self.client.post(f"{self.address}undo/", {"last": last}, headers=HTMX)
        self.assertEqual(self.outside(), before)

    def test_what_is_not_the_cause_any_more_is_refused_and_nothing_changes(self) -> None:
        self.type_all({7: "2.20"})
        acts = ActRow.objects.count()
        for token in ("part open:parts.R1", "nonsense", ""):
            answer = self.correction(token)
            self.assertEqual(answer.status_code, 422, token)
        self.assertEqual(ActRow.objects.count(), acts)
        plain = self.client.post(f"{self.address}causes/correct/", {"cause": self.token()})
        self.assertRedirects(plain, self.address, fetch_redirect_response=False)


class ThePage(CausesTestCase):
    def test_it_tells_shares_the_chart_and_what_makes_readings_uncertain(self) -> None:
        self.type_all({7: "2.20"})
        page = self.client.get(f"{self.address}causes/")
        self.assertContains(page, "9 of 10 read · 1 outside")
        self.assertContains(page, "likely: transposed digits, 2.02 V")
        self.assertContains(page, "Percent error of 9 readings against a limit of 5 %: 1 outside")
        self.assertContains(page, "voltage gain of an ordinary handheld")
        self.assertContains(page, "R2, as it was read")
        self.assertContains(page, "|E| = ")
        self.assertContains(page, "At the very worst")
        first = page.content.decode().index("In order of trouble")
        self.assertLess(
            page.content.decode().index("Voltage across R2", first), page.content.decode().index("R1 by itself", first)
        )

    def test_of_a_clean_run_it_says_that_nothing_speaks_for_a_fault(self) -> None:
        self.type_all()
        self.assertContains(self.client.get(f"{self.address}causes/"), "Nothing speaks for anything being wrong")

    def test_an_empty_run_has_a_page_too(self) -> None:
        self.assertContains(self.client.get(f"{self.address}causes/"), "0 of 10 read")

    def test_a_sealed_run_gives_no_value_away(self) -> None:
        RunRow.objects.update(sealed=True)
        self.type_all({7: "2.20"})
        for text in (self.line(), self.client.get(f"{self.address}causes/").content.decode()):
            self.assertIn("read it again", text)
            for value in ("2.02 V", "2.0 V", 'name="cause"', "|E|"):
                self.assertNotIn(value, text)
        self.assertContains(self.correction("transposed digits:readings[7]"), "sealed", status_code=422)
