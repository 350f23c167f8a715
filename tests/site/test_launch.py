"""The private database server: made whole or not at all, durable, and never started twice."""

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from unittest import TestCase

import MySQLdb

from recensor.site.launch import private_database
from recensor.site.launch.private_database import DatabaseError, PrivateDatabase

ROOT = Path(__file__).resolve().parents[2]


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
                "('innodb_flush_log_at_trx_commit', 'sql_mode', 'character_set_server', 'bind_address')",
            )
        )
        self.assertEqual(settings["innodb_flush_log_at_trx_commit"], "1")
        self.assertIn("STRICT_TRANS_TABLES", settings["sql_mode"])
        self.assertEqual((settings["character_set_server"], settings["bind_address"]), ("utf8mb4", "127.0.0.1"))
        ask(self.folder, "CREATE TABLE kept (n INT) ENGINE=InnoDB")
        ask(self.folder, "INSERT INTO kept VALUES (42)")
        with self.assertRaisesRegex(DatabaseError, "already running"):
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

    def test_a_long_path_moves_the_socket_to_a_short_folder(self) -> None:
        deep = self.folder / ("d" * 60) / ("e" * 60)
        self.assertLess(len(str(private_database.socket_path(deep))), 100)
        with PrivateDatabase(deep, throwaway=True):
            self.assertEqual(ask(deep, "SELECT 1"), ((1,),))
        self.assertFalse(private_database.socket_path(deep).parent.exists())


class StartCommand(TestCase):
    def test_a_port_in_use_and_wrong_options_get_one_clear_line(self) -> None:
        import socket

        with socket.socket() as taken, tempfile.TemporaryDirectory() as folder:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = str(taken.getsockname()[1])
            for options, message in [
                (["--port", port], f"Port {port} cannot be used"),
                (["--port", "99999"], "from 1 to 65535"),
                (["--empty", "--reset-demo"], "exclude each other"),
            ]:
                done = subprocess.run(
                    [sys.executable, "-m", "recensor.site.launch", *options],
                    cwd=ROOT,
                    capture_output=True,
                    text=True,
                    env={**os.environ, "RECENSOR_VAR": folder},
                    check=False,
                )
                self.assertNotEqual(done.returncode, 0)
                self.assertIn(message, done.stderr.splitlines()[-1])
                self.assertNotIn("Traceback", done.stderr)
