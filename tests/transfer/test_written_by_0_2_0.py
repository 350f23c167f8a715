"""What version 0.2.0 wrote is read for good: a backup and an account's archive, with nine signed revisions.

Both were written by that version, of one account: struck, replaced, moved, shifted, swapped and later readings,
corrections and changes of the circuit, a potentiometer, boards, photos, own values, notes, a line, what was seen of a
lamp, a run that was opened again and signed twice. If a checksum differs here, a signature that somebody gave is void.
"""

import io
import json
import shutil
import tempfile
import zipfile
from pathlib import Path

from django.core.management import call_command
from django.db import connection
from django.test import TestCase, TransactionTestCase, override_settings

from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum
from recensor.meters.queries import profile_of
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import Photo, ReadingRow, Revision, RunRow, SignatureRow
from recensor.transfer import backup
from recensor.transfer.account.about import read_about
from recensor.transfer.account.unpacking import import_account
from recensor.transfer.checks import faults, faults_of
from recensor.transfer.published import published_name

WRITTEN = Path(__file__).parent / "written_by_0_2_0"

# The key of the installation that wrote them: by it an archive is known to be its own.
KEY = "the key of the installation that wrote these files"

# The checksums of what was signed, as that version printed them.
SIGNED = {
    "Regulator feed, a long morning": ["f3d1803ee901a71d41b55d5c1cbe0ec9ce2ad8d0390f2d35c40cd56a1dfc429a"],
    "Chain, signed twice": [
        "432953e6f85118204a4f7412a31e0457adca58200a159a739e2783e283243754",
        "0ccd43df99a8658bc2b03cf4d296af186877d3417fda9d3fcb9e6861f14d2fba",
    ],
    "Ladder, put right": ["20b391653509189f47f14513d4c97a9d49606f2c2c3594a5b36e5fce8696468a"],
    "Sensor offset": ["0545a90eeb591a210d96559f9ea01d34d8850c9776a87cf1e87c7fc523b64cff"],
    "Every key that a document may have": ["2b4d21974f4abcec8e39eb467092b13bbba4606e032be1792ec2f6c49039e48f"],
    "Mast lamp, cold and lit": ["6f0f72c0f42b69ac955aa2e417f02d0435870cba3876c7130a8ba6907253ba92"],
    "Night battery under load": ["9368a59ea22e2fe9bae4f528425e7fc431b2c54d00fa2e17714fd06c53ee7dcd"],
    "Wind vane drops, a busy morning": ["646c77f02b75f5b26ecff8d4b5fdcd510a5e486ac39f580bc1bb4abfa15cadbe"],
}


class Held:
    """What must hold of the account's rows, wherever they came from."""

    def assert_signed(self) -> None:
        """Every signed run, written as a document now, has the checksum that was signed, and its signatures."""
        person = User.objects.get(username="bench-1")
        found = {}
        for run in RunRow.objects.following().filter(owner=person).exclude(closed=None):
            revisions = list(run.revisions.all())
            found[run.title] = [revision.checksum for revision in revisions]
            now = checksum(run_document.to_tree(queries.unsigned(run, queries.load(run))))
            self.assertEqual(now, revisions[-1].checksum, run.title)
            for revision in revisions:
                read = run_document.read(revision.document)
                self.assertEqual(checksum(run_document.to_tree(read)), revision.checksum, run.title)
        self.assertEqual(found, SIGNED)
        self.assertEqual(SignatureRow.objects.filter(revision__run__owner=person).count(), 15)
        self.assertEqual((ReadingRow.objects.filter(run__owner=person).count(), Photo.objects.count()), (112, 3))


class Archive(Held, TestCase):
    @override_settings(SECRET_KEY=KEY)
    def test_an_account_comes_back_with_every_signature(self) -> None:
        person = User.objects.create_user("bench-1")
        User.objects.create_user("instructor")
        with zipfile.ZipFile(WRITTEN / "account.zip") as archive:
            about = read_about(archive)
            self.assertTrue(about.is_ours(person))
            made = import_account(person, about, archive)
        self.assertEqual(list(faults_of(made, person)), [])
        self.assertEqual({published_name(model): len(rows) for model, rows in made.items()}, dict(about.counts))
        self.assert_signed()

    def test_elsewhere_it_comes_without_them_and_its_documents_can_be_checked(self) -> None:
        person = User.objects.create_user("bench-1")
        with zipfile.ZipFile(WRITTEN / "account.zip") as archive:
            import_account(person, read_about(archive), archive)
            documents = [json.loads(archive.read(name)) for name in archive.namelist() if name.endswith(".run.json")]
        self.assertFalse(Revision.objects.exists())
        for run in RunRow.objects.following():
            now = checksum(run_document.to_tree(queries.unsigned(run, queries.load(run))))
            self.assertIn(now, [checksum(tree) for tree in documents], run.title)


class Backup(Held, TransactionTestCase):
    def test_a_backup_comes_back_with_every_signature(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
            for model in backup.kept():
                model._base_manager.all()._raw_delete(connection.alias)
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
        with tempfile.TemporaryDirectory() as folder:
            profile_of.cache_clear()  # rows of other tests had these keys
            call_command("restore", shutil.copy(WRITTEN / "backup.zip", folder), stdout=io.StringIO())
        self.assertEqual(list(faults()), [])
        self.assert_signed()
        page = self.client.post("/sign-in/", {"username": "bench-1", "password": "wind-vane"}, follow=True)
        self.assertContains(page, "Regulator feed, a long morning")
