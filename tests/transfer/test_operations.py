"""Backups come back whole or not at all, and books that are wrong are told."""

import contextlib
import io
import json
import os
import tempfile
import threading
import zipfile
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase
from PIL import Image

from recensor.experiments.models import SheetRow
from recensor.people.models import User
from recensor.runs import services
from recensor.runs.models import ReadingRow, RunRow
from recensor.site import demo
from recensor.transfer import backup, books


class Operations(TransactionTestCase):
    def setUp(self) -> None:
        demo.load()
        run = RunRow.objects.order_by("pk")[0]
        picture = io.BytesIO()
        Image.new("RGB", (8, 6)).save(picture, "PNG")
        services.attach(run, run.owner, run.readings.order_by("pk")[0].pk, picture, picture.tell())
        for on in (False, True):
            services.switch(run, run.owner, None, None, on=on)
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name, "recensor.zip")

    def empty(self) -> None:
        """As ./start --empty leaves it."""
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
            for model in backup.kept():
                model._base_manager.all()._raw_delete(connection.alias)
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
        User.objects.create_user("owner", is_supervisor=True)

    @staticmethod
    def rows() -> list[dict[str, object]]:
        return [row for model in backup.kept() for row in model._base_manager.order_by("pk").values()]

    def test_a_backup_comes_back_to_the_letter_and_its_people_sign_in_as_before(self) -> None:
        written = io.StringIO()
        call_command("backup", self.file, stdout=written)
        self.assertEqual(os.stat(self.file).st_mode & 0o777, 0o600)
        before = self.rows()
        with self.assertRaisesRegex(CommandError, "^Something is here already"):
            call_command("restore", self.file)
        self.assertEqual(self.rows(), before)
        self.empty()
        call_command("restore", self.file, stdout=written)
        self.assertEqual(self.rows(), before)
        self.assertIn(f"{len(before)} rows", written.getvalue())
        page = self.client.post("/sign-in/", {"username": "bench-1", "password": "wind-vane"}, follow=True)
        self.assertContains(page, "everything balances")
        run = RunRow.objects.first()
        self.assertEqual(self.client.post(f"{run.get_absolute_url()}undo/").status_code, 422)
        call_command("check_books", stdout=written)
        self.assertIn("0 faults in 4 users", written.getvalue())

    def test_what_is_damaged_or_does_not_fit_changes_nothing(self) -> None:
        backup.backup(self.file)
        self.empty()
        before = self.rows()
        with zipfile.ZipFile(self.file) as archive:
            about, lines = json.loads(archive.read(backup.ABOUT)), archive.read(backup.ROWS)

        def written(about: dict[str, object], lines: bytes) -> None:
            with zipfile.ZipFile(self.file, "w") as archive:
                archive.writestr(backup.ABOUT, json.dumps(about))
                archive.writestr(backup.ROWS, lines)

        for damage, message in [
            (lambda: written(about, lines.replace(b"2.83", b"2.84", 1)), "^/.*zip is damaged"),
            (lambda: written({**about, "migrations": []}, lines), "^This backup was made by version .*another shape"),
            (lambda: self.file.write_bytes(b"PK half a file"), "^/.*zip is no backup"),
            (lambda: self.file.unlink(), "^There is no file"),
        ]:
            damage()
            with self.assertRaisesRegex(CommandError, message):
                call_command("restore", self.file)
            self.assertEqual(self.rows(), before)
        with self.assertRaisesMessage(CommandError, "cannot be written"):
            call_command("backup", self.file / "below" / "a-file")

    def test_a_backup_is_of_one_moment_whoever_goes_on_working(self) -> None:
        seen = backup._lines()
        first = next(seen)
        meanwhile = threading.Thread(target=self.go_on_working)
        meanwhile.start()
        meanwhile.join()
        rest = [line for _, line in [first, *seen]]
        self.assertFalse(any(b'"late"' in line or b'"tree": {}' in line for line in rest))
        self.assertEqual(len(rest), len(self.rows()) - 2)

    @staticmethod
    def go_on_working() -> None:
        SheetRow.objects.create(tree={}, author=User.objects.create_user("late"))
        connection.close()

    def test_wrong_books_are_told_row_by_row(self) -> None:
        self.assertEqual(list(books.faults()), [])
        reading, other = (
            ReadingRow.objects.exclude(value=None).order_by("run_id")[0],
            RunRow.objects.order_by("pk").last(),
        )
        sheet = SheetRow.objects.order_by("created")[0]
        with connection.cursor() as cursor:
            cursor.execute("UPDATE bench_reading SET value = value * 10 WHERE id = %s", [reading.pk])
            cursor.execute("UPDATE bench_reading SET run_id = %s WHERE id = %s", [other.pk, reading.pk])
            cursor.execute("UPDATE bench_photo SET picture = 'another'")
            cursor.execute("UPDATE bench_benchmove SET state = '{}'")
            cursor.execute("UPDATE experiments_sheet SET tree = '{}' WHERE id = %s", [sheet.pk.hex])
        said = io.StringIO()
        with self.assertRaises(SystemExit), contextlib.redirect_stderr(said):
            call_command("check_books", stdout=said)
        for words in (
            f"reading {reading.pk}:",
            f"reading on a sheet of another run: {reading.pk}",
            f"sheet {sheet.pk}:",
            "the picture is not the one that was kept",
            ": KeyError: 'opened'",
        ):
            self.assertIn(words, said.getvalue())
