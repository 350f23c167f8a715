"""What a person sees, and what the log says, when a request cannot be served."""

import contextlib
import io
import json
import logging
import socket
import tempfile
import threading
import time
from pathlib import Path
from unittest import TestCase as PlainTestCase
from unittest import mock

import MySQLdb
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.test import RequestFactory, override_settings

from recensor.site import logs
from recensor.site.launch.worker import LimitedSocket
from recensor.site.middleware import OnePageAtATime
from tests.served import HTMX, BenchTestCase


class Failing(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.raise_request_exception = False
        terminal = logging.getLogger("django.request").handlers[-1]
        self.addCleanup(terminal.setStream, terminal.setStream(io.StringIO()))
        self.log = Path(settings.LOGS, logs.APPLICATION)
        self.before = self.log.read_text() if self.log.exists() else ""

    def logged(self) -> list[dict[str, object]]:
        return [json.loads(line) for line in self.log.read_text().removeprefix(self.before).splitlines()]

    def failing(self, error: Exception):
        with mock.patch("recensor.runs.queries.load", side_effect=error):
            return self.client.get(self.address)

    def test_a_failure_says_a_reference_that_stands_in_the_log(self) -> None:
        page = self.failing(RuntimeError("a flaw in the program"))
        line = self.logged()[-1]
        self.assertContains(page, f"reference: <b>{line['reference']}</b>", status_code=500)
        self.assertIn("a flaw in the program", line["exc_info"])
        self.assertEqual((line["person"], line["path"]), ("bench-1", self.address))
        self.assertNotContains(page, "flaw", status_code=500)

    def test_an_outage_is_one_page_that_asks_no_database_and_one_line(self) -> None:
        for error, words in [
            (OperationalError(2002, "Can't connect to server"), "database does not answer"),
            (OperationalError(2013, "Lost connection"), "database does not answer"),
            (OperationalError(1047, "WSREP has not yet prepared node"), "database does not answer"),
            (InterfaceError(0, ""), "database does not answer"),
            (OperationalError(1180, "Not connected to Primary Component"), "database does not answer"),
            (OperationalError(1205, "Lock wait timeout exceeded"), "Others hold what this needs"),
            (OperationalError(1114, "The table is full"), "no room left"),
            (OperationalError(1290, "running with --read-only"), "takes nothing at the moment"),
        ]:
            with self.subTest(error=error):
                page = self.failing(error)
                self.assertContains(page, words, status_code=503)
                self.assertTrue(page["Retry-After"])
        with mock.patch.object(MySQLdb, "connect", side_effect=OperationalError(2002, "gone")):
            for _ in range(5):
                self.failing(OperationalError(2002, "gone"))
        lines = [line["event"] for line in self.logged()]
        self.assertEqual(len(lines), len(set(lines)), lines)
        self.assertFalse(any("exc_info" in line for line in self.logged()))

    def test_a_large_file_is_refused_by_its_size_before_it_is_read(self) -> None:
        form = {"by": "import", "file": SimpleUploadedFile("x", b"0" * (settings.LARGEST_REQUEST + 1))}
        with mock.patch("django.http.request.HttpRequest._load_post_and_files", side_effect=AssertionError("read")):
            page = self.client.post("/experiments/new/", form)
        self.assertContains(page, "at most 3.0 MB", status_code=413)

    def test_a_request_that_was_cut_off_records_nothing(self) -> None:
        whole = b"measurement=of.r.R1&text=1.01k&key=6f9619ff-8b86-d011-b42d-00c04fc964ff"
        for sent, recorded in [(whole[:15], 0), (whole, 1)]:
            more = {"content_type": "application/x-www-form-urlencoded", "wsgi.input": io.BytesIO(sent)}
            page = self.client.post(f"{self.address}record/", whole, **more)
            self.assertEqual(page.status_code, 302 if recorded else 400)
            self.assertEqual(self.run_row.readings.count(), recorded)

    def test_pages_are_kept_nowhere(self) -> None:
        self.assertEqual(self.client.get("/")["Cache-Control"], "no-store")


class InTurn(PlainTestCase):
    def test_pages_wait_for_one_another_parts_of_pages_for_nobody_and_nobody_for_ever(self) -> None:
        let_go, order = threading.Event(), []

        def answering(request: HttpRequest) -> HttpResponse:
            order.append(f"{request.path} begins")
            if request.path == "/slow/":
                let_go.wait(20)
            order.append(f"{request.path} ends")
            return HttpResponse()

        ask, factory = OnePageAtATime(answering), RequestFactory()

        def begin(path: str, **headers: str) -> threading.Thread:
            thread = threading.Thread(target=ask, args=(factory.get(path, headers=headers),))
            thread.start()
            return thread

        slow = begin("/slow/")
        while not order:
            time.sleep(0.01)
        waiting = begin("/page/")
        begin("/part/", **HTMX).join()
        self.assertEqual(order, ["/slow/ begins", "/part/ begins", "/part/ ends"])
        with override_settings(LONGEST_WAIT_FOR_A_TURN=0.05):
            begin("/impatient/").join()
        let_go.set()
        for thread in (slow, waiting):
            thread.join()
        self.assertEqual(order[3:], [
            "/impatient/ begins", "/impatient/ ends", "/slow/ ends", "/page/ begins", "/page/ ends",
        ])  # fmt: skip


class SlowClient(PlainTestCase):
    def test_a_drip_is_cut_off_when_its_time_is_over(self) -> None:
        ours, theirs = socket.socketpair()
        self.addCleanup(ours.close)
        self.addCleanup(theirs.close)

        def drip() -> None:
            with contextlib.suppress(OSError):
                for _ in range(8):
                    theirs.send(b"x")
                    time.sleep(0.05)

        threading.Thread(target=drip, daemon=True).start()
        limited, read = LimitedSocket(ours, seconds=0.2), b""
        with self.assertRaises(ConnectionResetError):
            while True:
                read += limited.recv(10)
        self.assertTrue(1 <= len(read) <= 5, read)
        limited.begin()
        self.assertTrue(limited.recv(10))


class Rotation(PlainTestCase):
    def test_a_long_log_moves_on_and_the_oldest_goes(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            log = Path(folder, "log")
            for number in range(5):
                log.write_text(str(number) * 100)
                self.assertTrue(logs.rotate(log, most_bytes=50, kept=3))
            self.assertFalse(logs.rotate(log))
            kept = {file.name: file.read_text()[0] for file in Path(folder).iterdir()}
            self.assertEqual(kept, {"log.1": "4", "log.2": "3", "log.3": "2"})
