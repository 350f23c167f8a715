"""A database as the first version made it: recognised, copied, brought over with every row, or left as it was."""

import gzip
import json
import tempfile
from collections import Counter
from io import StringIO
from pathlib import Path

from django.conf import settings
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import TransactionTestCase, override_settings

from recensor.bench import queries
from recensor.bench.models import Act, ActLine, Reading, Run, RunSheet
from recensor.core.boards import Piece
from recensor.core.circuit import TouchedLeads
from recensor.core.judgement import assess
from recensor.experiments.models import Experiment, Sheet
from recensor.experiments.queries import content_of, sheet_of
from recensor.kits.models import Kit, SortedPart
from recensor.people.models import User
from recensor.site import before

DUMP = Path(__file__).parent / "before.sql"


class BroughtOver(TransactionTestCase):
    def setUp(self) -> None:
        content_of.cache_clear()
        self.empty()
        with connection.cursor() as cursor:
            for statement in DUMP.read_text(encoding="utf-8").split(";\n"):
                if statement.strip():
                    cursor.execute(statement.replace("%", "%%"), [])
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(override_settings(VAR=self.folder))

    def tearDown(self) -> None:
        """The tables that every other test expects."""
        self.empty()
        call_command("migrate", interactive=False, verbosity=0)
        content_of.cache_clear()

    def empty(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
            for table in connection.introspection.table_names():
                cursor.execute(f"DROP TABLE `{table}`")
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")

    def counts(self) -> dict[str, int]:
        with connection.cursor() as cursor:
            found = {}
            for table in connection.introspection.table_names():
                cursor.execute(f"SELECT COUNT(*) FROM `{table}`")
                found[table] = cursor.fetchone()[0]
            # These follow from the apps there are; every migration fills them anew.
            return {key: n for key, n in found.items() if key not in ("auth_permission", "django_content_type")}

    def test_every_row_comes_over_and_means_what_it_meant(self) -> None:
        old = self.counts()
        said = StringIO()
        self.assertTrue(before.is_of_before())
        call_command("bring_over", stdout=said)
        self.assertFalse(before.is_of_before())
        new = self.counts()
        for table, now in (("library_sheet", "experiments_sheet"), ("library_experiment", "experiments_experiment"),
                           ("library_step", "experiments_version"), ("library_kit", "kits_kit"),
                           ("library_bin", "kits_bin"), ("library_sorting", "kits_sorting"),
                           ("library_sortedpart", "kits_sortedpart"), ("bench_run", "bench_run"),
                           ("bench_run", "bench_runsheet"), ("bench_reading", "bench_reading"),
                           ("bench_strike", "bench_act"), ("bench_strike", "bench_actline"),
                           ("bench_drawnpart", "bench_drawnpart"), ("bench_boardstate", "bench_boardstate"),
                           ("people_user", "people_user")):  # fmt: skip
            self.assertEqual(new[now], old[table], now)
        self.assertFalse([table for table in new if table.startswith(("library_", before.ASIDE))])
        self.copy_holds(old)
        self.assertIn(str(sum(1 for _ in self.folder.glob("before-*.jsonl.gz"))), said.getvalue())
        self.people_sign_in_and_runs_judge()

    def copy_holds(self, old: dict[str, int]) -> None:
        (copy,) = self.folder.glob("before-*.jsonl.gz")
        with gzip.open(copy, "rt", encoding="utf-8") as lines:
            held = Counter(json.loads(line)["table"] for line in lines)
        self.assertEqual(held, Counter({table: count for table, count in old.items() if count}))

    def people_sign_in_and_runs_judge(self) -> None:
        person = User.objects.get(username="Werkbank")
        with override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.PBKDF2PasswordHasher"]):
            self.assertTrue(person.check_password("a-long-password-9"))
        self.client.force_login(person)
        run = Run.objects.following().get(owner__username="Werkbank")
        self.assertEqual((run.meter.name, run.version, run.sheets.get().kind), ("DMM 3", 3, RunSheet.Kind.START))
        core = queries.with_boards(run, queries.load(run).core)
        self.assertEqual([reading.value.text for reading in core.readings if reading.struck is None][:3],
                         ["2.21k", "3.29k", "OL"])  # fmt: skip
        self.assertEqual([act.kind for act in Act.objects.filter(run=run)], ["strike", "move", "undo"])
        self.assertEqual(ActLine.objects.filter(act__run=run).count(), 3)
        pieces = Counter(placement.piece for placement in core.boards["main"].placements.values())
        self.assertEqual(pieces[Piece.PART], 5)  # V1, R1 to R3, and R7 which the circuit does not have
        self.assertGreater(pieces[Piece.LINK], 0)
        self.assertEqual(assess(core).parts["R2"].verdict, "within tolerance")
        self.assertEqual(self.client.get(run.get_absolute_url()).status_code, 200)
        self.assertEqual(self.client.get("/").status_code, 200)
        for experiment in Experiment.objects.all():
            sheet_of(experiment)  # also the one from a document with claims, which could not be read before
        leads = [r for other in Run.objects.following() for r in queries.load(other).core.readings
                 if r.target == TouchedLeads()]  # fmt: skip
        self.assertEqual(len(leads), Reading.objects.filter(of="", red="", through="").count())
        self.assertEqual(SortedPart.objects.exclude(takes_back=None).count(), 1)
        self.assertEqual(Kit.objects.get(owner__username="Werkbank").bins.count(), 3)
        self.assertEqual(User.objects.count(), len(settings.DEMO_ACCOUNTS) + 1)

    def test_a_row_that_cannot_be_read_is_named_and_nothing_is_changed(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT id FROM library_sheet LIMIT 1")
            sheet = cursor.fetchone()[0]
            cursor.execute("UPDATE library_sheet SET tree = '{}' WHERE id = %s", [sheet])
        self.left_as_it_was(str(sheet))

    def test_what_fails_half_way_is_taken_back(self) -> None:
        """A reading of a run that is gone: nothing in the tables of before forbids it once their checks are off."""
        with connection.cursor() as cursor:
            cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
            cursor.execute("UPDATE bench_drawnpart SET run_id = 999999 LIMIT 1")
            cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
        self.left_as_it_was("could not be brought over")

    def left_as_it_was(self, named: str) -> None:
        old = self.counts()
        keys = set(before._foreign_keys())
        with self.assertRaisesRegex(CommandError, named):
            call_command("bring_over", stdout=StringIO())
        self.assertEqual(self.counts(), old)
        self.assertTrue(before.is_of_before())
        self.assertEqual(set(before._foreign_keys()), keys)

    def test_a_new_database_has_nothing_to_bring_over(self) -> None:
        self.empty()
        call_command("migrate", interactive=False, verbosity=0)
        said = StringIO()
        call_command("bring_over", stdout=said)
        self.assertIn("nothing to bring over", said.getvalue())
        self.assertEqual(Sheet.objects.count(), 0)
