"""Work in the background: step by step, left and taken up again, cancelled, bounded, and nobody else's."""

import io
import json
import zipfile
from datetime import timedelta
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.utils import timezone
from django_q.models import OrmQ, Task

from recensor.core.errors import Refused
from recensor.jobs import queue
from recensor.jobs import services as job_services
from recensor.jobs.models import Job, JobFile
from recensor.people.models import User
from recensor.reports.files import of
from recensor.runs.models import RunRow
from recensor.transfer import services
from tests.served import HTMX, BenchTestCase, chain_run


class JobTestCase(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.runs = [self.run_row.pk, *(chain_run(self.person, f"Chain {k}").pk for k in range(2))]

    def ask(self, ending: str = ".json", **sent: object):
        return self.client.post("/archives/reports/", {"runs": self.runs, "ending": ending, **sent})

    def work(self, job: Job, most: int = 99) -> Job:
        """Do the steps that a worker would do, from the queue."""
        for _ in range(most):
            task = OrmQ.objects.order_by("pk").first()
            if task is None:
                break
            queue.step(task.args()[0])
            task.delete()
        job.refresh_from_db()
        return job

    def taken(self, job: Job) -> zipfile.ZipFile:
        page = self.client.get(f"/archives/{job.pk}/file/")
        return zipfile.ZipFile(io.BytesIO(b"".join(page.streaming_content)))


class Steps(JobTestCase):
    def test_one_report_for_each_run_in_a_file_with_names_and_progress_meanwhile(self) -> None:
        self.assertRedirects(self.ask(), "/archives/")
        job = self.work(Job.objects.get(), most=1)
        self.assertEqual((job.state, job.made, job.total), (Job.State.WORKING, 1, 3))
        part = self.client.get("/archives/", headers=HTMX)
        self.assertContains(part, "1 of 3")
        self.assertContains(part, "every 2s")
        self.assertEqual(self.client.get(f"/archives/{job.pk}/file/").status_code, 404)
        job = self.work(job)
        self.assertEqual((job.state, job.made), (Job.State.DONE, 3))
        with self.taken(job) as archive:
            self.assertEqual(archive.namelist(), ["001-chain.json", "002-chain-0.json", "003-chain-1.json"])
            self.assertEqual(json.loads(archive.read("002-chain-0.json"))["title"], "Chain 0")
        done = self.client.get("/archives/", headers=HTMX)
        self.assertContains(done, "Take it")
        self.assertNotContains(done, "every 2s")
        self.assertEqual(job.size, sum(len(one.content) for one in job.files.all()))

    def test_what_a_worker_left_in_the_middle_of_a_step_is_taken_up_and_no_step_is_kept_twice(self) -> None:
        self.ask()
        job = Job.objects.get()
        self.work(job, most=1)
        with patch.object(queue, "_keep", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            queue.step(job.pk)  # killed when the report was written, and not yet kept
        OrmQ.objects.all().delete()
        self.assertEqual(queue.wake(), 0)  # somebody may be at it still
        Job.objects.update(claimed=timezone.now() - timedelta(seconds=1))
        for _ in range(3):
            self.client.get("/archives/", headers=HTMX)  # who looks at it is enough, and however often
        self.assertEqual(OrmQ.objects.count(), 1)
        job = self.work(job)
        self.assertEqual((job.state, list(job.files.values_list("number", flat=True))), (Job.State.DONE, [0, 1, 2]))

    def test_two_workers_at_once_do_a_step_once(self) -> None:
        self.ask()
        job = Job.objects.get()
        with patch("recensor.reports.many_reports.report_of") as report:
            report.side_effect = lambda one: queue.step(one.pk) or JobFile(job=one, number=one.made, name="a")
            queue.step(job.pk)
        self.assertEqual(report.call_count, 1)

    def test_cancelled_it_stops_and_what_was_made_can_be_had(self) -> None:
        self.ask()
        job = self.work(Job.objects.get(), most=1)
        self.client.post(f"/archives/{job.pk}/cancel/")
        job = self.work(job)
        self.assertEqual((job.state, job.made), (Job.State.CANCELLED, 1))
        with self.taken(job) as archive:
            self.assertEqual(archive.namelist(), ["001-chain.json"])
        self.client.post(f"/archives/{job.pk}/drop/")
        self.assertFalse(JobFile.objects.exists())

    def test_a_report_that_cannot_be_written_says_so_in_its_place_and_the_others_come(self) -> None:
        RunRow.objects.filter(pk=self.runs[0]).update(sealed=True)
        self.ask(".csv")
        RunRow.objects.filter(pk=self.runs[2]).update(owner=self.other)
        job = self.work(Job.objects.get())
        with self.taken(job) as archive:
            self.assertIn(b"sealed", archive.read("001-chain.csv.txt"))
            self.assertTrue(archive.read("002-chain-0.csv").startswith(b"index"))
            self.assertIn(b"not there any more", archive.read(archive.namelist()[2]))

    def test_a_step_that_never_ends_is_given_up_and_what_goes_wrong_ends_the_job(self) -> None:
        self.ask()
        Job.objects.update(tries=queue.MOST_TRIES)
        job = self.work(Job.objects.get())
        self.assertIn("never ended", job.files.get(number=0).why)
        self.assertEqual((job.state, job.made), (Job.State.DONE, 3))
        self.ask()
        with (
            patch("recensor.reports.files.of", side_effect=of),
            patch("recensor.reports.many_reports.report_of", side_effect=ZeroDivisionError),
            self.assertLogs("recensor.jobs", "ERROR"),
        ):
            job = self.work(Job.objects.latest("pk"))
        self.assertEqual(job.state, Job.State.FAILED)
        self.assertContains(self.client.get("/archives/"), "Something went wrong here")
        self.ask()
        User.objects.filter(pk=self.person.pk).update(is_active=False)
        self.assertEqual(self.work(Job.objects.latest("pk")).why, "The account was closed.")


class Limits(JobTestCase):
    def test_nothing_chosen_too_much_at_once_and_no_room_are_said_where_it_was_asked(self) -> None:
        for sent, said in (
            ({"runs": []}, "Choose the runs first"),
            ({"runs": ["1e9", "x", "-1"]}, "Choose the runs first"),
            ({"runs": [chain_run(self.other).pk]}, "Choose the runs first"),
            ({"runs": self.runs * 100}, "at most 200"),
            ({"ending": ".exe"}, "Select a valid choice"),
        ):
            with self.subTest(said):
                self.assertContains(self.ask(**sent), said, status_code=422)
        self.assertFalse(Job.objects.exists())
        for _ in range(job_services.MOST_OPEN):
            self.ask()
        self.assertContains(self.ask(), "in hand already", status_code=422)
        Job.objects.update(state=Job.State.DONE, size=job_services.MOST_KEPT)
        self.assertContains(self.ask(), "no room for more", status_code=422)

    def test_pressed_twice_it_is_one_and_what_is_old_goes_with_its_files(self) -> None:
        key = "6f9619ff-8b86-d011-b42d-00c04fc964ff"
        for _ in range(2):
            self.ask(key=key)
        self.assertEqual(Job.objects.count(), 1)
        job = self.work(Job.objects.get())
        long_ago = timezone.now() - Job.KEPT - timedelta(hours=1)
        Job.objects.update(created=long_ago)
        call_command("clear", verbosity=0)
        self.assertTrue(Job.objects.exists())  # asked for long ago, done just now
        Job.objects.filter(pk=job.pk).update(ended=long_ago)
        Task.objects.create(id="0" * 32, name="old", func="f", started=long_ago, stopped=long_ago)
        call_command("clear", verbosity=0)
        self.assertFalse(Job.objects.exists() or JobFile.objects.exists() or Task.objects.exists())

    def test_somebody_elses_does_not_exist(self) -> None:
        self.ask()
        job = self.work(Job.objects.get())
        self.client.force_login(self.other)
        for way in ("", "file/"):
            self.assertEqual(self.client.get(f"/archives/{job.pk}/{way}").status_code, 404)
        for way in ("cancel/", "drop/", "bring/", "piece/"):
            self.assertEqual(self.client.post(f"/archives/{job.pk}/{way}").status_code, 404)
        self.assertTrue(Job.objects.filter(state=Job.State.DONE).exists())


class Accounts(JobTestCase):
    def send(self, content: bytes, piece: int = 1_000) -> Job:
        begun = self.client.post("/archives/send/", {"name": "mine.zip", "size": len(content)}).json()
        for number, at in enumerate(range(0, len(content), piece)):
            sent = SimpleUploadedFile("piece", content[at : at + piece])
            for _ in range(2):  # the answer was lost
                answer = self.client.post(f"/archives/{begun['piece']}", {"number": number, "piece": sent})
                sent.seek(0)
                self.assertEqual(answer.status_code, 200)
        return Job.objects.latest("pk")

    def packed(self) -> bytes:
        self.client.post("/archives/account/")
        job = self.work(Job.objects.latest("pk"))
        self.assertEqual(job.state, Job.State.DONE)
        return b"".join(self.client.get(f"/archives/{job.pk}/file/").streaming_content)

    def test_packed_by_one_and_brought_in_by_another_in_pieces(self) -> None:
        self.enter(0, "1.002", "kΩ")
        content = self.packed()
        self.client.force_login(self.other)
        job = self.send(content)
        page = self.client.get(f"/archives/{job.pk}/")
        self.assertContains(page, "by bench-1")
        self.assertContains(page, "Bring it all in")
        self.assertFalse(RunRow.objects.filter(owner=self.other).exists())
        for _ in range(2):
            self.assertRedirects(self.client.post(f"/archives/{job.pk}/import/"), "/archives/")
        with patch.object(queue, "_keep", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            queue.step(job.pk)  # killed when the rows were there, and before anything was said of it
        Job.objects.filter(state__in=Job.OPEN).update(claimed=None)
        queue.wake()
        job = self.work(job)
        self.assertEqual((job.state, job.size, job.files.count()), (Job.State.DONE, 0, 0))
        self.assertContains(self.client.get("/archives/", headers=HTMX), "3 runs came")
        self.assertEqual(RunRow.objects.filter(owner=self.other).count(), 3)
        self.assertContains(self.client.get(RunRow.objects.filter(owner=self.other).last().get_absolute_url()), "1.002")

    def test_cancelled_while_it_is_brought_nothing_comes(self) -> None:
        content = self.packed()
        self.client.force_login(self.other)
        job = self.send(content)
        self.client.post(f"/archives/{job.pk}/import/")
        with patch("recensor.transfer.checks.faults_of", side_effect=lambda *_: job_services.cancel(job) or []):
            job = self.work(job)
        self.assertEqual(job.why, "It was cancelled.")
        self.assertFalse(RunRow.objects.filter(owner=self.other).exists())

    def test_what_is_no_archive_or_was_damaged_says_so_and_brings_nothing(self) -> None:
        content = self.packed()
        self.client.force_login(self.other)
        for spoilt in (b"no zip at all", content[: len(content) // 2], content.replace(b"about.json", b"above.json")):
            job = self.send(spoilt)
            self.assertContains(self.client.get(f"/archives/{job.pk}/"), "Nothing was written", status_code=422)
            self.client.post(f"/archives/{job.pk}/import/")
            job = self.work(job)
            self.assertEqual((job.state, "Something went wrong" in job.why), (Job.State.FAILED, False))
        middle = bytearray(content)
        middle[200] ^= 255
        job = self.send(bytes(middle))
        self.client.post(f"/archives/{job.pk}/import/")
        job = self.work(job)
        self.assertEqual((job.state, "Something went wrong" in job.why), (Job.State.FAILED, False))
        self.assertFalse(RunRow.objects.filter(owner=self.other).exists())

    def test_pieces_come_in_order_and_no_more_than_was_announced(self) -> None:
        for size in (0, services.MOST_SENT + 1, "much"):
            answer = self.client.post("/archives/send/", {"name": "a.zip", "size": size})
            self.assertEqual(answer.status_code, 422)
            self.assertTrue(answer.json()["message"])
        job = services.begin_sending(self.person, "a.zip", 10)
        for number, content in ((1, b"a"), (0, b""), (0, b"a" * 11), (0, b"a" * (services.PIECE + 1))):
            with self.subTest(number=number, size=len(content)), self.assertRaises(Refused):
                services.take_piece(job, number, content)
        other = Job.objects.create(
            person=self.person, kind=Job.Kind.ACCOUNT, state=Job.State.DONE, size=job_services.MOST_KEPT
        )
        with self.assertRaisesRegex(Refused, "no room for more"):
            services.take_piece(job, 0, b"a" * 4)
        other.delete()
        services.take_piece(job, 0, b"a" * 4)
        with self.assertRaisesRegex(Refused, "not arrived"):
            services.start_import(job)
        self.assertContains(self.client.get("/archives/"), "did not arrive in whole")
        self.assertEqual(self.client.post(f"/archives/{job.pk}/piece/", {"number": "x"}).status_code, 422)
