"""A run out of a document: what comes, what is said to stay behind, and nothing where anything is wrong."""

import json
import uuid
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext

from recensor.core.circuit import one_line
from recensor.core.errors import Refused
from recensor.core.judgement import assess
from recensor.core.record import Run
from recensor.formats.documents import run_document
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow, RunRow
from recensor.site import demo
from tests.served import BenchTestCase

DOCUMENTS = sorted(Path(demo.__file__).parent.glob("*.run.json"))
EVERYTHING = Path(__file__).parents[1] / "formats/documents/everything.run.json"


def whole(row: RunRow) -> Run:
    row = queries.any_run().get(pk=row.pk)
    return queries.whole(row, queries.load(row))


def plain(run: Run) -> dict[str, Any]:
    """What a document says, without who read it and when, which a run begins anew."""
    tree = run_document.to_tree(run)
    for reading in tree["readings"]:
        for key in ("by", "time", "photos", "later", "meter"):
            reading.pop(key, None)
        if "struck" in reading:
            reading["struck"] = reading["struck"]["reason"]
    return {key: value for key, value in tree.items() if key not in ("history", "signed", "meters", "claims")}


class Services(BenchTestCase):
    def test_every_demo_document_is_the_same_run_and_judged_the_same(self) -> None:
        for file in DOCUMENTS:
            with self.subTest(file.name):
                run = run_document.read(file.read_bytes())
                brought = whole(services.import_run(self.person, run))
                self.assertEqual(plain(brought), plain(run))
                self.assertEqual([t.judged.verdict for t in assess(brought).targets.values()],
                                 [t.judged.verdict for t in assess(run).targets.values()])  # fmt: skip

    def test_a_simulated_run_above_60_volts_takes_its_own_document_and_no_other_does(self) -> None:
        sheet = one_line.read("120V: 1k + 2k; 5%")
        with self.assertRaisesRegex(Refused, "for paper only"):
            services.start_run(self.person, sheet)
        with self.assertRaisesRegex(Refused, "for paper only"):
            services.import_run(self.person, Run(sheet))
        run = services.start_run(self.person, sheet, simulated=True)
        document = run_document.read(run_document.write(whole(run)))
        self.assertTrue(services.import_run(self.other, document).simulated)

    def test_what_was_exported_comes_back_as_it_was(self) -> None:
        """Struck, replaced, a look, another trial, a note, a claim, notes and a conclusion."""
        for k, text in enumerate(["1.002", "1.99", "3.01", "5.99"]):
            self.enter(k, text, "kΩ")
        self.enter(1, "2.01", "kΩ")
        self.enter(0, "1.003", "kΩ", declared_as="trial")
        services.write_text(self.run_row, self.person, "notes", "*Dry* morning", None)
        first = whole(self.run_row)
        document = run_document.read(run_document.write(first))
        again = whole(services.import_run(self.other, document))
        self.assertEqual(plain(again), plain(first))
        self.assertEqual([r.standing for r in assess(again).readings], [r.standing for r in assess(first).readings])
        self.assertEqual(run_document.read(run_document.write(again)), again)

    def test_meters_come_as_instruments_of_ones_own_once(self) -> None:
        run = run_document.read(EVERYTHING.read_bytes())
        for _ in range(2):
            brought = whole(services.import_run(self.person, run))
        self.assertEqual({name: profile.ranges for name, profile in brought.meters.items()},
                         {name: profile.ranges for name, profile in run.meters.items()
                          if any(reading.meter in (name, None) for reading in run.readings)})  # fmt: skip
        names = list(self.person.meters.values_list("name", flat=True))
        self.assertEqual(sorted(names), sorted({*run.meters, *(r.meter for r in run.readings if r.meter)}))
        self.assertEqual(self.other.meters.count(), 0)

    def test_a_thousand_readings_take_few_queries_and_the_same_key_is_one_run(self) -> None:
        run = run_document.read(DOCUMENTS[0].read_bytes())
        many = replace(run, readings=(run.readings[0],) * 1_000)
        key = uuid.uuid4()
        with CaptureQueriesContext(
            connection,
        ) as asked:
            first = services.import_run(self.person, many, key)
        self.assertLess(len(asked), 40)
        self.assertEqual(services.import_run(self.person, many, key).pk, first.pk)
        self.assertEqual(first.readings.count(), 1_000)


class Pages(BenchTestCase):
    def look(self, content: bytes) -> Any:
        file = SimpleUploadedFile("brought.run.json", content, "application/json")
        return self.client.post("/runs/import/", {"file": file})

    def test_a_preview_first_then_the_run(self) -> None:
        content = DOCUMENTS[0].read_bytes()
        before = RunRow.objects.count()
        page = self.look(content)
        self.assertContains(page, "Wind vane ladder")
        self.assertContains(page, "struck: digits swapped")
        self.assertContains(page, "Who read: here it is you")
        self.assertEqual(RunRow.objects.count(), before)
        wanted = {"text": page.context["text"], "wanted": "on", "key": uuid.uuid4()}
        begun = self.client.post("/runs/import/", wanted, follow=True)
        self.assertContains(begun, "everything balances")
        self.client.post("/runs/import/", wanted)
        self.assertEqual(RunRow.objects.count(), before + 1)

    def test_what_is_wrong_is_said_at_its_place_and_nothing_is_written(self) -> None:
        content = json.loads(DOCUMENTS[0].read_bytes())
        broken = json.dumps({**content, "readings": [*content["readings"], {"of": "R9", "value": "1k"}]}).encode()
        parts = {**content["parts"], "V1": {**content["parts"]["V1"], "nominal": "400"}}
        runs, readings = RunRow.objects.count(), ReadingRow.objects.count()
        for sent, said in [
            (b"", "file is empty"),
            (broken, f"readings[{len(content['readings'])}]"),
            (DOCUMENTS[0].read_bytes()[:-40], "not JSON"),
            (b"\xff\xfe{}", "no UTF-8"),
            (b"PK\x03\x04 a zip", "not JSON"),
            (b"[" * 100_000, "nested too deeply"),
            (b" " * 1_000_001, "larger than 1000 kB"),
        ]:
            with self.subTest(said):
                self.assertContains(self.look(sent), said, status_code=422)
        page = self.client.post("/runs/import/", {"text": json.dumps({**content, "parts": parts}), "wanted": "on"})
        self.assertContains(page, "paper only", status_code=422)
        long = [{**content["readings"][0], "meter": "m" * 61}]
        for tree, said in [
            ({**content, "readings": long}, "at most 60 letters"),
            ({**content, "setups": {}, "readings": [], "asked": []}, "no circuit"),
        ]:
            page = self.client.post("/runs/import/", {"text": json.dumps(tree), "wanted": "on"})
            self.assertContains(page, said, status_code=422)
        self.assertEqual((RunRow.objects.count(), ReadingRow.objects.count()), (runs, readings))
        titled = {"text": json.dumps({**content, "title": "T" * 300}), "wanted": "on"}
        self.assertEqual(self.client.post("/runs/import/", titled).status_code, 302)
        self.assertEqual(RunRow.objects.latest("pk").title, "T" * 120)
        self.client.logout()
        self.assertEqual(self.client.get("/runs/import/").status_code, 302)
