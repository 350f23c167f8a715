"""What was read stays in the process, and is at any time what the rows say, whichever worker is asked."""

import random
import uuid
from unittest.mock import patch

from django.db import connection
from django.test.utils import CaptureQueriesContext

from recensor.core.entries import corrections
from recensor.core.kept import Kept
from recensor.runs import queries, readings_cache
from recensor.runs.models import ActRow
from tests.samples import samples
from tests.served import HTMX, BenchTestCase, address_of

TYPED = ("0.998k", "1.01k", "2.02k", "OL", "6.02 V", "-1.004 V", "1.006m", "0", "512")


class SameAsLoadedAnew(BenchTestCase):
    """Many acts in any order, by two workers in turn."""

    def setUp(self) -> None:
        super().setUp()
        self.chance = random.Random(27)
        self.workers = (Kept(readings_cache.MOST_RUNS), Kept(readings_cache.MOST_RUNS))

    def at(self, worker: Kept):
        return patch.object(readings_cache, "kept", worker)

    def record(self) -> None:
        point = address_of(self.run_row, self.chance.randrange(10))
        typed = {"measurement": point, "text": self.chance.choice(TYPED), "unit": "", "key": uuid.uuid4()}
        more = self.chance.choice([{}, {}, {"declared_as": "trial"}, {"declared_as": "instead"}, {"meter": "Second"}])
        self.client.post(f"{self.address}record/", {**typed, **more}, headers=HTMX)

    def correct(self) -> None:
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        if not loaded.reading_ids:
            return
        index = self.chance.randrange(len(loaded.reading_ids))
        if offered := list(corrections(loaded.core, loaded.points, index)):
            address = f"{self.address}readings/{loaded.reading_ids[index]}/correct/"
            self.client.post(address, {"correction": self.chance.choice(offered).name}, headers=HTMX)

    def undo(self) -> None:
        loaded = queries.load(queries.any_run().get(pk=self.run_row.pk))
        self.client.post(f"{self.address}undo/", {"last": loaded.last.get("bench-1", "")}, headers=HTMX)

    def rename(self) -> None:
        name = self.chance.choice(["R2", "Load"])
        part = "Load" if name == "R2" else "R2"
        stated = {"name": name, "value": "2k", "tolerance": "5", "rating": ""}
        self.client.post(f"{self.address}change/", {"act": "correct", "setup": "main", "part": part, **stated})

    def rename_a_meter(self) -> None:
        for meter in self.person.meters.all():
            meter.name = f"Meter {self.chance.randrange(1000)}"
            meter.save()

    def test_after_every_act(self) -> None:
        acts = [self.record] * 6 + [self.correct] * 2 + [self.undo, self.rename, self.rename_a_meter]
        for _ in range(samples(50, 100)):
            act = self.chance.choice(acts)
            with self.at(self.chance.choice(self.workers)), self.captureOnCommitCallbacks(execute=True):
                act()
            run = queries.any_run().get(pk=self.run_row.pk)
            with self.at(Kept(readings_cache.MOST_RUNS)):
                anew = queries.load(run)
            for worker in self.workers:
                with self.at(worker):
                    self.assertEqual(queries.load(run), anew, act.__name__)
        self.assertGreater(len(anew.reading_ids), samples(15, 30))
        self.assertGreater(ActRow.objects.count(), samples(5, 10))

    def test_an_entry_extends_what_is_there_and_asks_for_no_reading_again(self) -> None:
        worker = Kept(readings_cache.MOST_RUNS)
        with self.at(worker):
            for point in range(3):
                with (
                    CaptureQueriesContext(
                        connection,
                    ) as asked,
                    self.captureOnCommitCallbacks(execute=True),
                ):
                    self.enter(point, f"{point + 1}.00k")
            read = [q["sql"] for q in asked if q["sql"].startswith("SELECT") and "resolution" in q["sql"]]
            self.assertEqual(read, [])

    def test_two_meters_that_change_names_are_told_apart(self) -> None:
        meters = [self.person.meters.create(name=name) for name in ("First", "Second")]
        before = readings_cache.marks_of(self.run_row.pk)[0]
        for meter, name in zip((*meters, meters[0]), ("x", "First", "Second"), strict=True):
            meter.name = name
            meter.save()
        self.assertNotEqual(readings_cache.marks_of(self.run_row.pk)[0], before)
