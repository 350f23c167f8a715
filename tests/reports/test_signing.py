"""Signing off: whose name stands under what, that nothing gets into a closed run, and what a revision says."""

import json
import re
from collections.abc import Iterator
from unittest.mock import patch

from django.db import connection
from django.urls import URLPattern
from django_q.models import OrmQ

from recensor import __version__
from recensor.bench import urls as bench
from recensor.board_page import urls as board_page
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.meters.services import keep_meter, shipped
from recensor.reports.prose import rendered
from recensor.run_pages import urls as run_pages
from recensor.runs import queries, services
from recensor.runs.models import KeptAssessment, RunRow, SignatureRow
from recensor.transfer import books
from tests.pressing import press
from tests.reports.test_reports import ReportTestCase
from tests.served import HTMX, work_off

PASSWORD = "a-long-word"
SHOWN = r'id="shown-data"\s+value="(\w+)"'

# What changes no data of a run: it goes off the list, its parts go back, another one like it begins.
CHANGES_NOTHING = {"put_away", "return_parts", "same_again", "shows_readings", "shows_own"}


class SigningTestCase(ReportTestCase):
    def data(self) -> str:
        """The checksum of what the rows say."""
        run = self.now()
        return checksum(run_document.to_tree(queries.unsigned(run, queries.load(run))))

    def sign(self, signed_as: str = "performer", password: str = PASSWORD, name: str = "", seen: str = ""):
        typed = {"signed_as": signed_as, "password": password, "name": name, "seen": seen or self.data()}
        return self.client.post(f"{self.report}sign/", typed)

    def revise(self, why: str):
        return self.client.post(f"{self.report}revise/", {"why": why})


class Signatures(SigningTestCase):
    def test_performer_then_reviewer_sign_the_same_data_and_file_and_paper_say_so(self) -> None:
        data = self.data()
        self.assertRedirects(self.sign(), self.report)
        self.assertRedirects(self.sign("reviewer", name="bench-2"), self.report)
        self.sign("reviewer", name="bench-2")  # pressed twice
        signed = json.loads(self.taken("json"))["signed"]
        self.assertEqual([(one["by"], one["as"], one["checksum"]) for one in signed],
                         [(self.person.username, "performer", data), ("bench-2", "reviewer", data)])  # fmt: skip
        self.assertEqual(checksum(json.loads(self.taken("json"))), data)
        page = self.client.get(self.report)
        for said in ("Performer and reviewer have signed", "Signed by bench-2 as reviewer", printed(data)):
            self.assertContains(page, said)
        self.assertNotContains(page, "Sign off and close")
        self.assertContains(self.client.get(self.address), "Signed on")
        self.assertContains(self.client.get("/"), "signed off")

    def test_nobody_signs_as_what_they_are_not_or_what_they_were_not_shown(self) -> None:
        for said, answer in (
            ("do not belong together", self.sign(password="guessed")),
            ("The performer signs first", self.sign("reviewer", name="bench-2")),
            ("Say who reviews", self.sign("reviewer")),
            ("Look at it once more", self.sign(seen="0" * 64)),
            ("Select a valid choice", self.sign("owner")),
        ):
            with self.subTest(said):
                self.assertContains(answer, said, status_code=answer.status_code)
                self.assertIn(answer.status_code, (409, 422))
        self.assertFalse(SignatureRow.objects.exists())
        self.sign()
        other_data = self.sign("reviewer", name="bench-2", seen="0" * 64)
        self.assertContains(other_data, "Look at it once more", status_code=409)
        self.assertEqual(SignatureRow.objects.count(), 1)
        own = self.sign("reviewer", name=self.person.username)
        self.assertContains(own, "somebody else than the performer", status_code=422)
        self.client.force_login(self.other)
        self.assertEqual(self.sign().status_code, 404)  # somebody else's run is none of theirs

    def test_who_writes_and_then_signs_signs_what_they_wrote(self) -> None:
        page = self.client.get(self.report)
        shown = re.search(SHOWN, page.content.decode())[1]
        kept = self.client.post(f"{self.report}conclusion/written/", {"text": "It fits.", "found": "", "seen": shown},
                                headers=HTMX)  # fmt: skip
        renewed = re.search(SHOWN, kept.content.decode())[1]
        self.assertEqual(renewed, self.data())
        self.assertNotEqual(renewed, shown)
        self.assertRedirects(press(self.client, page, "Sign off", password=PASSWORD, seen=renewed), self.report)
        self.assertEqual(SignatureRow.objects.get().revision.checksum, renewed)

    def test_what_somebody_else_changed_meanwhile_is_not_signed_along(self) -> None:
        page = self.client.get(self.report)
        shown = re.search(SHOWN, page.content.decode())[1]
        self.enter(3, "5.98", "kΩ")  # in another tab
        kept = self.client.post(f"{self.report}conclusion/written/", {"text": "It fits.", "found": "", "seen": shown},
                                headers=HTMX)  # fmt: skip
        self.assertEqual(re.search(SHOWN, kept.content.decode())[1], shown)
        self.assertEqual(press(self.client, page, "Sign off", password=PASSWORD).status_code, 409)

    def test_it_shows_what_was_judged_when_it_was_signed_and_where_todays_rules_differ(self) -> None:
        self.enter(5, "1.5", "V")  # outside, and a cause is looked for
        self.client.post(
            f"{self.address}readings/{self.now().readings.latest('pk').pk}/answer/", {"answer": "as typed"}
        )
        self.sign()
        kept = KeptAssessment.objects.get()
        self.assertEqual((kept.rules, kept.revision.number), (__version__, 1))
        page = self.client.get(self.report)
        self.assertNotContains(page, "say otherwise")
        self.assertContains(page, f"Judged by Recensor {__version__}.")
        # As it would be had the rules been others then.
        tree = kept.tree
        drop = next(one for one in tree["targets"] if one.get("across") == ["A", "B"])
        self.assertEqual(drop["verdict"], "outside")
        for judged in (drop, tree["readings"][drop["indexes"][0]]):
            judged |= {"verdict": "agrees", "reason": "By what was held for enough then."}
        tree["faults"] = [{**tree["faults"][0], "text": "What was thought of then.", "score": 0.6}]
        KeptAssessment.objects.filter(pk=kept.pk)._raw_delete("default")
        KeptAssessment(revision=kept.revision, rules="0.1.9", tree=tree, time=kept.time).save()
        page = self.client.get(self.report)
        self.assertContains(page, "By what was held for enough then.")
        self.assertContains(page, "Voltage across R1: outside, not agrees")
        self.assertContains(page, "Judged by Recensor 0.1.9.")
        self.assertContains(self.client.get(f"{self.report}causes/", headers=HTMX), "What was thought of then.")
        self.assertContains(self.client.get(f"{self.report}causes/", headers=HTMX), "60 %")
        for ending in ("html", "pdf", "ods"):
            self.assertEqual(self.client.get(f"{self.report}{ending}/").status_code, 200)
        self.assertIn("agrees", next(row for row in self.taken("csv").splitlines() if b",1.5," in row).decode())
        # What cannot be read any more is as today's rules have it.
        drop["verdict"] = "splendid"
        KeptAssessment.objects.filter(revision=kept.revision)._raw_delete("default")
        KeptAssessment(revision=kept.revision, rules="0.1.9", tree=tree, time=kept.time).save()
        self.assertNotContains(self.client.get(self.report), "say otherwise")

    def test_what_was_signed_before_anything_was_kept_is_judged_in_the_background(self) -> None:
        self.sign()
        before = KeptAssessment.objects.get()
        KeptAssessment.objects.filter(pk=before.pk)._raw_delete("default")
        services.keep_missing()
        work_off()
        self.assertEqual(KeptAssessment.objects.get().tree, json.loads(json.dumps(before.tree)))
        OrmQ.objects.all().delete()
        services.keep_missing()
        self.assertFalse(OrmQ.objects.exists())  # nothing is left to do

    def test_an_open_question_is_answered_first(self) -> None:
        self.enter(3, "5.98M")  # what is in k
        self.assertTrue(queries.load(self.now()).questions)
        self.assertContains(self.sign(), "still open", status_code=422)


class Closed(SigningTestCase):
    def ways_in(self) -> Iterator[tuple[str, str, dict[str, str]]]:
        """Every address of a run at the bench to which something can be sent, and the two fields of its report."""
        reading = self.now().readings.latest("pk").pk
        for route in (*bench.urlpatterns, *board_page.urlpatterns, *run_pages.urlpatterns):
            assert isinstance(route, URLPattern)
            names = route.pattern.converters
            if "run_id" in names and route.name not in CHANGES_NOTHING:
                path = str(route.pattern).replace("<int:run_id>", str(self.run_row.pk))
                path = path.replace("<int:reading_id>", str(reading)).replace("<int:photo_id>", "1")
                acts = ("rename", "meter", "correct", "change", "add_setup", "plan", "place", "undo", "clear")
                for act in ("", *(acts if route not in bench.urlpatterns else ())):
                    yield f"{route.name} {act}", f"/{path}", {
                        "act": act, "title": "Another", "meter": "Another", "part": "R1", "name": "R9", "nominal": "2k",
                        "what_happens": "set", "what": "3k", "setup": "", "measurement": "of.v.V1",
                        "text": "2.9", "unit": "V",
                        "power": "ON", "light": "dark", "answer": "count", "correction": "strike", "reason": "why",
                    }  # fmt: skip
        for kind in ("notes", "conclusion"):
            yield kind, f"{self.report}{kind}/written/", {"text": "more", "found": ""}

    def test_nothing_gets_into_it_by_any_way_and_what_was_typed_is_still_there(self) -> None:
        before = self.data()
        self.sign()
        kept = RunRow.objects.filter(pk=self.run_row.pk).values().get()
        for name, path, fields in self.ways_in():
            with self.subTest(name):
                self.assertLess(self.client.post(path, fields).status_code, 500)
                self.assertEqual(self.data(), before)
                self.assertEqual(RunRow.objects.filter(pk=self.run_row.pk).values().get(), kept)
        typed = self.enter(4, "2.93", "V", switches=False)
        self.assertContains(typed, "signed off, and closed", status_code=409)
        written = self.write("notes", "more")
        self.assertContains(written, "signed off, and closed", status_code=409)

    def test_its_pages_offer_nothing_that_would_be_refused(self) -> None:
        self.sign()
        for page in ("", "change/", "board/", "board/?side=built", "causes/"):
            with self.subTest(page):
                shown = self.client.get(f"{self.address}{page}").content.decode()
                offered = set(re.findall(r'<button[^>]*value="(\w+)"', shown))
                self.assertFalse(offered & {"change", "correct", "rename", "meter", "add_setup", "put", "as_planned"})
                self.assertNotIn(f'action="{self.address}record/"', shown)
                self.assertNotIn(f'action="{self.address}undo/"', shown)
        self.assertContains(self.client.get(f"{self.address}change/"), "revision 1, as its performer")

    def test_a_revision_names_the_one_before_and_both_can_be_checked(self) -> None:
        first = self.data()
        self.sign()
        self.assertContains(self.revise(" "), "Say why", status_code=422)
        self.revise("R3 was read in the circuit")
        self.assertContains(self.revise("again"), "open already", status_code=422)
        self.enter(2, "3.02", "kΩ")
        self.sign()
        document = json.loads(self.taken("json"))
        said = document["history"][0]["text"]
        self.assertIn("revision 2, R3 was read in the circuit", said)
        self.assertIn(printed(first), said)
        self.assertEqual(document["signed"][0]["checksum"], checksum(document))
        old = self.client.get(f"{self.report}revisions/1/").content
        self.assertEqual(checksum(json.loads(old)), first)
        self.assertEqual(len(run_document.read(old).readings), 3)
        self.assertEqual(self.client.get(f"{self.report}revisions/3/").status_code, 404)

    def test_a_report_stays_what_was_signed_and_says_what_changed_around_it(self) -> None:
        self.act_on_meter("2026-01-31")
        data = self.data()
        self.sign()
        self.assertNotContains(self.client.get(self.report), "would give another checksum")
        self.act_on_meter("2026-11-01")
        page = self.client.get(self.report)
        self.assertContains(page, "would give another checksum")
        self.assertContains(page, printed(data))
        self.assertContains(page, "calibrated 2026-01-31")

    def act_on_meter(self, calibrated: str) -> None:
        """The run's meter, a shipped one, was calibrated then."""
        run = self.now()
        meter = keep_meter(run.owner, run.meter, "Bench meter", "7", calibrated, shipped(run.owner, "3½-digit manual"))
        if run.meter is None:
            RunRow.objects.filter(pk=run.pk).update(meter=meter)
            self.enter(3, "9.02", "V")

    @patch.object(books, "_damaged_tables", lambda: ())  # looking at tables ends a transaction
    def test_a_document_that_was_tampered_with_is_found(self) -> None:
        self.sign()
        self.assertEqual(list(books.faults()), [])
        with connection.cursor() as cursor:
            cursor.execute("UPDATE bench_revision SET document = REPLACE(document, '1.002', '1.003')")
        self.assertTrue(any("not the one that was signed" in fault for fault in books.faults()))


class Suggested(SigningTestCase):
    def test_sentences_left_as_suggested_are_marked_in_the_report_and_nothing_of_the_writers_own(self) -> None:
        self.assertHTMLEqual(rendered("A **b.** C.\n\n<b>", ["C."]),
                             "<p>A <strong>b.</strong> <mark>C.</mark></p><p>&lt;b&gt;</p>")  # fmt: skip
        self.assertNotIn("<mark>", rendered("\ue000as typed\ue001"))
        sentence = self.client.get(self.report).context["starters"][0]
        self.write("conclusion", f"Mine. {sentence}")
        self.assertContains(self.client.get(self.report), f"Mine. <mark>{sentence}</mark>")
