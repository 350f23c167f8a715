"""Start Recensor: private database, migrations, demo, web server. Called by ``./start``."""

import argparse
import hashlib
import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import ExitStack
from pathlib import Path
from types import FrameType

from recensor.site.launch import children, private_database
from recensor.site.launch.private_database import DatabaseError, PrivateDatabase

ROOT = Path(__file__).resolve().parents[3]
VAR = Path(os.environ.get("RECENSOR_VAR", ROOT / "var"))
HOST = "127.0.0.1"
SERVER_PID = VAR / "server.pid"
WORKER_PID = VAR / "worker.pid"
STOP_SECONDS = 15
OLDEST_MARIADB = (10, 11)
CLEAR_EVERY = 3600.0  # seconds
BEGIN_AGAIN = 2.0  # seconds


class Stop(BaseException):
    """Someone asked this program to end."""


def main() -> int:
    """Run the start command and return its exit status."""
    options = _options()
    try:
        VAR.mkdir(parents=True, exist_ok=True)
        for number in (signal.SIGTERM, signal.SIGHUP):  # asked to end, or the terminal was closed
            signal.signal(number, _stop)
        with ExitStack() as stack:
            stack.callback(os.close, children.hold(VAR))
            children.stop_orphan(SERVER_PID, str(VAR), STOP_SECONDS)
            children.stop_orphan(WORKER_PID, str(VAR), STOP_SECONDS)
            _check_port(options.port, needed=not options.prepare)
            database = None
            if "DATABASE_URL" not in os.environ:
                database = stack.enter_context(PrivateDatabase(VAR / "mariadb"))
                os.environ["DATABASE_URL"] = private_database.url(VAR / "mariadb")
            first_account = _prepare(options, elsewhere=database is None)
            if options.prepare:
                print("Everything is prepared; ./start serves it.")
                if first_account:
                    print(first_account)
                return 0
            return _serve(options.port, database, first_account)
    except (Stop, KeyboardInterrupt):
        return 0
    except (DatabaseError, CannotStartError, children.FolderInUseError, OSError) as error:
        print(error, file=sys.stderr)
        return 1


class CannotStartError(RuntimeError):
    """Something stands in the way; the message says what, in one line."""


def _options() -> argparse.Namespace:
    parser = argparse.ArgumentParser(
        prog="./start", description="Prepare what is missing and serve Recensor on this machine."
    )
    parser.add_argument("--port", type=int, default=8000, help="the port on 127.0.0.1 (default 8000)")
    parser.add_argument("--prepare", action="store_true", help="do everything but serve")
    start = parser.add_mutually_exclusive_group()
    start.add_argument("--empty", action="store_true", help="load no demo; make one account to begin with")
    start.add_argument("--demo", action="store_true", help="load the demo also into an empty database elsewhere")
    start.add_argument("--reset-demo", action="store_true", help="put the demo's runs back as they were")
    start.add_argument("--remove-demo", action="store_true", help="take the demo away with its accounts")
    options = parser.parse_args()
    if not 1 <= options.port <= 65535:
        parser.error(f"--port must be from 1 to 65535, not {options.port}")
    return options


def _check_port(port: int, *, needed: bool) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            if needed:
                raise CannotStartError(
                    f"Port {port} cannot be used ({error.strerror}); choose another, as in ./start --port 8001."
                ) from None


def _prepare(options: argparse.Namespace, *, elsewhere: bool) -> str | None:
    """Migrate, collect static files, see to the accounts. Returns a line about one made just now."""
    import django
    from django.core.management import call_command

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "recensor.site.settings")
    django.setup()
    from django.db import DatabaseError as DjangoDatabaseError
    from django.db import NotSupportedError

    try:
        _refuse_another_shape()
        call_command("migrate", interactive=False, verbosity=0)
    except (DjangoDatabaseError, NotSupportedError) as error:
        raise CannotStartError(f"The database cannot be used: {error}") from None
    _collect_static()
    return _accounts(options, elsewhere=elsewhere)


def _accounts(options: argparse.Namespace, *, elsewhere: bool) -> str | None:
    """Load the demo, put it back or take it away; where nobody can sign in then, make one account.

    A database `elsewhere`, which is not our private one, gets no published password unasked.
    """
    from django.core.management import CommandError, call_command

    from recensor.people.models import DemoAccount, User
    from recensor.people.services import add_person

    wanted = options.demo and not DemoAccount.objects.exists()
    usual = not (User.objects.exists() or options.empty or elsewhere)
    try:
        if options.reset_demo or options.remove_demo:
            call_command("load_demo", reset=options.reset_demo, remove=options.remove_demo)
        elif wanted or usual:
            call_command("load_demo")
    except CommandError as error:
        raise CannotStartError(str(error)) from None
    if User.objects.filter(is_active=True).exists():
        return None
    if not (options.empty or options.remove_demo):
        raise CannotStartError(
            "The database that DATABASE_URL names has no accounts yet: start with --empty for one to begin with, or "
            "with --demo for the demo, whose password is published."
        )
    password = add_person("owner", supervisor=True)
    return f"Sign in as owner with the password {password} (shown this once; change it under your name)."


def _collect_static() -> None:
    """Collect static files where they are not those that were collected last, all of them."""
    from django.conf import settings
    from django.contrib.staticfiles.finders import get_finders
    from django.core.management import call_command

    digest = hashlib.sha256()
    files = [(name, storage) for finder in get_finders() for name, storage in finder.list([])]
    for name, storage in sorted(files, key=lambda file: file[0]):
        with storage.open(name) as file:
            digest.update(f"{name}:{file.size}:".encode() + file.read())
    manifest, collected = VAR / "staticfiles.json", VAR / "staticfiles.sha256"

    def sums() -> str:
        there = manifest.read_bytes() if manifest.exists() else b""
        return f"{digest.hexdigest()} {hashlib.sha256(there).hexdigest()}\n"

    if collected.exists() and collected.read_text() == sums() and settings.STATIC_ROOT.is_dir():
        return
    manifest.unlink(missing_ok=True)  # it may have been cut off in the writing
    call_command("collectstatic", interactive=False, verbosity=0)
    children.write_whole(collected, sums())


def _refuse_another_shape() -> None:
    """A server that is too old, or a database that a much earlier Recensor made, or a later one has used already."""
    from django.db import connection
    from django.db.migrations.loader import MigrationLoader

    version = connection.get_database_version()
    if version < OLDEST_MARIADB:
        here, oldest = (".".join(map(str, numbers)) for numbers in (version, OLDEST_MARIADB))
        raise CannotStartError(f"The database server is MariaDB {here}; Recensor needs {oldest} or newer.")
    tables = connection.introspection.table_names()
    if "library_sheet" in tables and "experiments_sheet" not in tables:  # sheets as the first version called them
        raise CannotStartError(
            "This database was made by Recensor 0.1.0, and nothing of it was changed. Version 0.2.0 brings all of "
            "it over: start that version once, and then this one."
        )
    loader = MigrationLoader(connection)
    unknown = set(loader.applied_migrations) - set(loader.disk_migrations)
    later = sorted(f"{app}.{name}" for app, name in unknown if app in loader.migrated_apps)
    if later:
        raise CannotStartError(
            f"This database was used by a later version of Recensor ({', '.join(later)}): start that version, or "
            "restore a backup of this one."
        )


def _serve(port: int, database: PrivateDatabase | None, first_account: str | None) -> int:
    """Run the web server until someone stops it, then stop it before the database."""
    from django.db import connections

    from recensor.site.demo import sign_in_lines

    connections.close_all()
    server = children.start(
        [sys.executable, "-m", "gunicorn", "--config", "python:recensor.site.launch.gunicorn_settings",
         "--bind", f"{HOST}:{port}", "--worker-tmp-dir", str(VAR), "--chdir", str(ROOT), "recensor.site.wsgi"],
        SERVER_PID,
    )  # fmt: skip
    worker = _begin_work(alone=database is not None)
    try:
        _wait_for_port(port, server)
        print(f"\nRecensor is at http://{HOST}:{port}\n")
        for line in [first_account] if first_account else sign_in_lines():
            print(f"  {line}")
        print("\nCtrl-C stops it.", flush=True)
        cleared = -CLEAR_EVERY
        while server.poll() is None:
            if time.monotonic() - cleared > CLEAR_EVERY:
                cleared = time.monotonic()
                _clear(database)
            if worker.poll() is not None:
                print("What works in the background ended; it is begun again.", file=sys.stderr)
                children.stop(worker, 0)  # and what it had started goes with it
                time.sleep(BEGIN_AGAIN)
                worker = _begin_work(alone=database is not None)
            if database is not None and not database.running:
                raise CannotStartError("The database stopped; start again, and it recovers what was recorded.")
            time.sleep(0.3)
        raise CannotStartError("The web server ended by itself; its messages are above.")
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        children.stop(worker, STOP_SECONDS)
        children.stop(server, STOP_SECONDS)
        for pid_file in (WORKER_PID, SERVER_PID):
            pid_file.unlink(missing_ok=True)


def _begin_work(*, alone: bool) -> "subprocess.Popen[bytes]":
    """What packs archives in the background; those who record come first."""
    command = ["nice", "-n", "10", sys.executable, "-m", "recensor.site.manage", "work", "--var", str(VAR)]
    return children.start([*command, "--alone"] if alone else command, WORKER_PID)


def _clear(database: PrivateDatabase | None) -> None:
    """Delete what counts no more and move long logs away, which nobody else would do."""
    from django.core.management import call_command
    from django.db import DatabaseError as DjangoDatabaseError
    from django.db import connections

    try:
        call_command("clear", verbosity=0)
        if database is not None:
            database.rotate_log()
    except (DjangoDatabaseError, OSError) as error:
        print(f"Old sign-ins and logs could not be cleared: {error}", file=sys.stderr)
    finally:
        connections.close_all()


def _wait_for_port(port: int, server: subprocess.Popen[bytes]) -> None:
    for _ in range(200):
        if server.poll() is not None:
            raise CannotStartError("The web server did not start; its messages are above.")
        with socket.socket() as probe:
            if probe.connect_ex((HOST, port)) == 0:
                return
        time.sleep(0.05)
    raise CannotStartError(f"The web server does not answer on port {port}.")


def _stop(number: int, frame: FrameType | None) -> None:
    raise Stop


if __name__ == "__main__":
    sys.exit(main())
