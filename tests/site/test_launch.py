"""The private database server: made whole or not at all, durable, and never started twice."""

import contextlib
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from unittest import TestCase, mock

import MySQLdb
from django.core.management import call_command

from recensor.site.launch import children, private_database
from recensor.site.launch.children import FolderInUseError
from recensor.site.launch.private_database import DatabaseError, PrivateDatabase

ROOT = Path(__file__).resolve().parents[2]
LAUNCH = (sys.executable, "-m", "recensor.site.launch")


def ask(folder: Path, statement: str) -> tuple[tuple[object, ...], ...]:
    """Ask the server as our own account."""
    password = (folder / "password").read_text().strip()
    connection = MySQLdb.connect(
        unix_socket=str(private_database.socket_path(folder)), user="recensor", passwd=password, db="recensor"
    )
    connection.autocommit(True)
    cursor = connection.cursor()
    cursor.execute(statement)
    rows = cursor.fetchall()
    connection.close()
    return rows


class Server(TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name) / "mariadb"

    def test_a_killed_server_recovers_what_was_committed(self) -> None:
        server = PrivateDatabase(self.folder)
        self.addCleanup(server.stop)
        server.start()
        settings = dict(
            ask(
                self.folder,
                "SHOW VARIABLES WHERE Variable_name IN "
                "('innodb_flush_log_at_trx_commit', 'sql_mode', 'character_set_server', 'skip_networking')",
            )
        )
        self.assertEqual(settings["innodb_flush_log_at_trx_commit"], "1")
        self.assertIn("STRICT_TRANS_TABLES", settings["sql_mode"])
        self.assertEqual((settings["character_set_server"], settings["skip_networking"]), ("utf8mb4", "ON"))
        ask(self.folder, "CREATE TABLE kept (n INT) ENGINE=InnoDB")
        ask(self.folder, "INSERT INTO kept VALUES (42)")
        with self.assertRaisesRegex(FolderInUseError, "already running"):
            PrivateDatabase(self.folder).start()
        os.kill(int((self.folder / "pid").read_text()), signal.SIGKILL)
        while server.running:
            time.sleep(0.05)
        server.stop()
        with PrivateDatabase(self.folder):
            self.assertEqual(ask(self.folder, "SELECT n FROM kept"), ((42,),))

    def test_a_server_that_outlived_its_starter_is_ended_first(self) -> None:
        code = (
            f"from pathlib import Path; from recensor.site.launch.private_database import *; "
            f"children._end_with_parent = lambda: None; "
            f"PrivateDatabase(Path({str(self.folder)!r})).start(); import os; os._exit(9)"
        )
        subprocess.run([sys.executable, "-c", code], cwd=ROOT, check=False)
        orphan = int((self.folder / "pid").read_text())
        with PrivateDatabase(self.folder):
            self.assertFalse(Path(f"/proc/{orphan}").exists())
            self.assertEqual(ask(self.folder, "SELECT 1"), ((1,),))

    def test_half_made_folders(self) -> None:
        (self.folder / "data.new").mkdir(parents=True)
        (self.folder / "data.new" / "half").write_text("cut off here")
        with PrivateDatabase(self.folder):
            self.assertEqual(ask(self.folder, "SELECT 1"), ((1,),))
        other = self.folder.parent / "broken"
        (other / "data").mkdir(parents=True)
        (other / "data" / "ibdata1").write_text("not a database")
        with self.assertRaisesRegex(DatabaseError, "is not a whole database"):
            PrivateDatabase(other).start()
        self.assertEqual((other / "data" / "ibdata1").read_text(), "not a database")

    def test_data_of_an_older_server_are_brought_up_to_date_and_those_of_a_newer_one_left_alone(self) -> None:
        with PrivateDatabase(self.folder, throwaway=True):
            here = (self.folder / "server-version").read_text()
        for noted in ("10.5.8\n", ""):
            (self.folder / "server-version").write_text(noted)
            with PrivateDatabase(self.folder, throwaway=True):
                self.assertEqual((self.folder / "server-version").read_text(), here)
        (self.folder / "server-version").write_text("99.1.2\n")
        with self.assertRaisesRegex(DatabaseError, "last used by MariaDB 99.1.2; this machine has .*, an older one"):
            PrivateDatabase(self.folder).start()

    def test_a_full_disk_is_said_before_anything_is_made(self) -> None:
        full = mock.patch.object(private_database, "has_room", return_value=False)
        with full, self.assertRaisesRegex(DatabaseError, "is full: at least 250 MB are needed"):
            PrivateDatabase(self.folder).start()
        self.assertFalse((self.folder / "data").exists())

    def test_a_long_path_moves_the_socket_to_a_short_folder(self) -> None:
        deep = self.folder / ("d" * 60) / ("e" * 60)
        self.assertLess(len(str(private_database.socket_path(deep))), 100)
        with PrivateDatabase(deep, throwaway=True):
            self.assertEqual(ask(deep, "SELECT 1"), ((1,),))
        self.assertFalse(private_database.socket_path(deep).parent.exists())


class Launched(TestCase):
    """./start as it is ended: by a closed terminal, by a kill, with half-written files left behind."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.prepared = Path(cls.enterClassContext(tempfile.TemporaryDirectory())) / "prepared"
        run([*LAUNCH, "--prepare"], environment(cls.prepared))

    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name)

    def start(self, port: int) -> subprocess.Popen[str]:
        """Start in this folder, made beforehand as the first start makes it."""
        if not (self.folder / "mariadb").exists():
            shutil.copytree(self.prepared, self.folder, dirs_exist_ok=True)
        return self._started(port)

    def _started(self, port: int) -> subprocess.Popen[str]:
        process = subprocess.Popen(
            [*LAUNCH, "--port", str(port)], cwd=ROOT, text=True,
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, env=environment(self.folder),
        )  # fmt: skip
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.kill)
        self.said = ""
        while "stops it" not in (line := process.stdout.readline()):
            self.said += line
            self.assertTrue(line, self.said)
        return process

    def ours(self) -> list[str]:
        """Whatever still runs out of this folder."""
        mark, found = os.fsencode(self.folder), []
        for place in Path("/proc").glob("[0-9]*/cmdline"):
            with contextlib.suppress(OSError):
                if mark in place.read_bytes():
                    found.append(place.read_bytes().decode())
        return found

    def assert_gone(self, seconds: float = 20) -> None:
        deadline = time.monotonic() + seconds
        while self.ours() and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertEqual(self.ours(), [])

    def test_a_closed_terminal_and_a_kill_leave_nothing_behind_and_the_next_start_works(self) -> None:
        port = free_port()
        for number in (signal.SIGHUP, signal.SIGKILL):
            process = self.start(port)
            self.assertIn("Sign in as bench-1, bench-2, instructor, technician", self.said)
            self.assertGreaterEqual(len(self.ours()), 2)  # the database and the web server; its workers come later
            second = run([*LAUNCH, "--port", str(free_port())], environment(self.folder))
            self.assertIn("already running from this folder", second.stderr)
            process.send_signal(number)
            process.wait(30)
            self.assert_gone()
        # Cut off in the writing: an empty key, and half a list of static files.
        (self.folder / "secret_key").write_text("")
        (self.folder / "staticfiles.json").write_text('{"paths": {')
        process = self.start(port)
        self.assertTrue((self.folder / "secret_key").read_text().strip())
        process.send_signal(signal.SIGTERM)
        process.wait(30)
        self.assert_gone()

    def test_work_in_the_background_survives_a_kill_and_ends_with_the_rest(self) -> None:
        process = self.start(port := free_port())
        asks = (
            "from recensor.reports.services import ask_reports; from recensor.runs.models import RunRow\n"
            "runs = RunRow.objects.filter(owner__username='bench-1')[:3]\n"
            "ask_reports(runs[0].owner, [run.pk for run in runs], '.pdf')"
        )
        manage = str(Path(sys.executable).with_name("recensor-manage"))
        asked = run([manage, "shell", "--no-imports", "-c", asks], environment(self.folder))
        self.assertEqual((asked.returncode, asked.stderr), (0, ""))
        self.wait_until("made >= 1 AND state = 'working'")
        # Its first process alone is killed: what that had started goes too, before another begins.
        first = int((self.folder / "worker.pid").read_text())
        os.kill(first, signal.SIGKILL)
        deadline = time.monotonic() + 30
        while int((self.folder / "worker.pid").read_text()) == first and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertNotEqual(int((self.folder / "worker.pid").read_text()), first)
        self.assertEqual(list(children.group_members(first)), [])
        self.wait_until("made >= 2 AND state = 'working'")
        process.send_signal(signal.SIGKILL)
        process.wait(30)
        self.assert_gone()
        process = self.start(port)
        self.wait_until("made = total AND state = 'done'")
        made = ask(self.folder / "mariadb", "SELECT number, LEFT(content, 5), why FROM archive_jobfile ORDER BY number")
        self.assertEqual(made, tuple((number, b"%PDF-", "") for number in range(len(made))))
        self.assertEqual(len(made), 3)
        process.send_signal(signal.SIGTERM)
        process.wait(30)
        self.assert_gone()

    def wait_until(self, condition: str, seconds: float = 120) -> None:
        """Wait until the one job there is stands so."""
        deadline = time.monotonic() + seconds
        statement = f"SELECT state, made, why, {condition} FROM archive_job"  # noqa: S608 (our own words)
        while not (rows := ask(self.folder / "mariadb", statement))[0][-1] and time.monotonic() < deadline:
            time.sleep(0.2)
        self.assertTrue(rows[0][-1], rows)

    def test_an_empty_database_elsewhere_is_asked_about_before_it_gets_a_published_password(self) -> None:
        there = PrivateDatabase(self.folder / "there", throwaway=True)
        there.start()
        self.addCleanup(there.stop)
        elsewhere = environment(self.folder, DATABASE_URL=private_database.url(there.folder))

        def prepare(*options: str) -> "subprocess.CompletedProcess[str]":
            return run([*LAUNCH, "--prepare", *options], elsewhere)

        def accounts() -> tuple[tuple[str], ...]:
            return ask(there.folder, "SELECT username FROM people_user WHERE is_superuser = 0 ORDER BY id")

        ask(there.folder, "CREATE TABLE library_sheet (id INT)")
        self.assertIn("was made by Recensor 0.1.0, and nothing of it was changed. Version 0.2.0", prepare().stderr)
        ask(there.folder, "DROP TABLE library_sheet")
        asked = prepare()
        self.assertIn("has no accounts yet: start with --empty", asked.stderr)
        self.assertEqual((asked.returncode, accounts()), (1, ()))
        self.assertRegex(prepare("--empty").stdout, r"Sign in as owner with the password \S{12} ")
        self.assertEqual(accounts(), (("owner",),))
        command = [str(Path(sys.executable).with_name("recensor-manage")), "add-person", "colleague", "a b"]
        made = run(command, elsewhere)
        self.assertRegex(made.stdout, r"^colleague signs in with the password \S{12}\n$")
        self.assertIn("a b: Enter a valid username", made.stderr)
        self.assertEqual(accounts(), (("owner",), ("colleague",)))
        ask(there.folder, "INSERT INTO django_migrations (app, name, applied) VALUES ('bench', '0099_later', NOW())")
        self.assertRegex(prepare().stderr, r"^This database was used by a later version .*bench.0099_later.*\n$")
        there.stop()
        late = run(command, elsewhere)
        self.assertRegex(late.stderr, r"^The database does not answer; is Recensor running\? .*\n$")

    def test_a_web_server_that_outlived_its_starter_is_ended_with_all_its_workers(self) -> None:
        command = ["sh", "-c", "sleep 300 & sleep 300 & trap '' TERM; while :; do sleep 1; done", str(self.folder)]
        orphan = subprocess.Popen(command, start_new_session=True)
        self.addCleanup(orphan.kill)
        children.write_whole(self.folder / "server.pid", f"{orphan.pid}\n")
        children.stop_orphan(self.folder / "server.pid", "another folder", 1)
        self.assertIsNone(orphan.poll())
        children.stop_orphan(self.folder / "server.pid", str(self.folder), 1)
        orphan.wait(5)
        deadline = time.monotonic() + 10
        while (living := self.living(orphan.pid)) and time.monotonic() < deadline:
            time.sleep(0.1)
        self.assertEqual(living, [])

    def living(self, group: int) -> list[int]:
        """The processes of a group that have not ended."""
        found = []
        for place in Path("/proc").glob("[0-9]*/stat"):
            with contextlib.suppress(OSError):
                pid, _, rest = place.read_text().partition(" (")
                state, _, its_group, *_ = rest.rpartition(") ")[2].split()
                if its_group == str(group) and state != "Z":
                    found.append(int(pid))
        return found


def environment(folder: Path, **more: str) -> dict[str, str]:
    """That of a person's terminal: without what the tests are run with."""
    ours = ("DATABASE_URL", "DJANGO_SETTINGS_MODULE", "DJANGO_ALLOW_ASYNC_UNSAFE", "SECRET_KEY")
    return {
        **{name: value for name, value in os.environ.items() if name not in ours},
        "RECENSOR_VAR": str(folder),
        **more,
    }


def run(command: Sequence[str], env: Mapping[str, str]) -> "subprocess.CompletedProcess[str]":
    """Run a command to its end, with all that it says."""
    return subprocess.run(command, cwd=ROOT, text=True, capture_output=True, env=env, check=False)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Migrations(TestCase):
    def test_they_make_the_tables_of_the_models(self) -> None:
        call_command("makemigrations", check_changes=True, dry_run=True, verbosity=0)  # SystemExit where they differ


class StartCommand(TestCase):
    def test_a_port_in_use_and_wrong_options_get_one_clear_line(self) -> None:
        with socket.socket() as taken, tempfile.TemporaryDirectory() as folder:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = str(taken.getsockname()[1])
            for options, message in [
                (["--port", port], f"Port {port} cannot be used"),
                (["--port", "99999"], "from 1 to 65535"),
                (["--empty", "--reset-demo"], "not allowed with argument --empty"),
            ]:
                done = run([*LAUNCH, *options], environment(Path(folder)))
                self.assertNotEqual(done.returncode, 0)
                self.assertIn(message, done.stderr.splitlines()[-1])
                self.assertNotIn("Traceback", done.stderr)
