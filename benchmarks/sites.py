"""The site and the barest view, served by gunicorn with one worker each on one durable MariaDB, asked over HTTP."""

import http.client
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from types import MappingProxyType
from urllib.parse import urlencode

from recensor.site.launch import private_database
from recensor.site.launch.private_database import PrivateDatabase

OURS, BARE, SIGNED_IN = 8765, 8766, 8767
REQUESTS = 60


@contextmanager
def database() -> Iterator[None]:
    """A migrated MariaDB of its own, and Django set up on it."""
    with tempfile.TemporaryDirectory() as folder, PrivateDatabase(Path(folder) / "mariadb"):
        os.environ.update(DATABASE_URL=private_database.url(Path(folder) / "mariadb"), RECENSOR_VAR=folder,
                          DJANGO_SETTINGS_MODULE="recensor.site.settings")  # fmt: skip
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0)
        call_command("collectstatic", interactive=False, verbosity=0)
        from django.db import connection

        try:
            yield
        finally:
            connection.close()


def signed_in(person: object) -> dict[str, str]:
    """The headers of an htmx request by someone who is signed in."""
    from django.contrib.auth import SESSION_KEY
    from django.middleware.csrf import _get_new_csrf_string

    from recensor.people.sessions import SessionStore

    session = SessionStore()
    session[SESSION_KEY] = str(person.pk)
    session["_auth_user_backend"] = "django.contrib.auth.backends.ModelBackend"
    session["_auth_user_hash"] = person.get_session_auth_hash()
    session.save()
    token = _get_new_csrf_string()
    return {
        "Cookie": f"session={session.session_key}; csrftoken={token}",
        "X-CSRFToken": token,
        "HX-Request": "true",
        "Content-Type": "application/x-www-form-urlencoded",
    }


@contextmanager
def served() -> Iterator[dict[int, int]]:
    """The site, the barest view, and the barest view behind sign-in, each on its port; their processes by port."""
    sites = (
        ("recensor.site.wsgi", "recensor.site.settings", OURS),
        ("benchmarks.bare", "benchmarks.bare_settings", BARE),
        ("benchmarks.bare", "benchmarks.signed_in_settings", SIGNED_IN),
    )
    servers = {site[-1]: _serve(*site) for site in sites}
    try:
        yield {port: server.pid for port, server in servers.items()}
    finally:
        for server in servers.values():
            server.terminate()
            server.wait()


def _serve(application: str, settings: str, port: int) -> subprocess.Popen[bytes]:
    command = [sys.executable, "-m", "gunicorn", "--bind", f"127.0.0.1:{port}", "--threads", "2",
               "--keep-alive", "60", "--no-control-socket", "--log-level", "warning", application]  # fmt: skip
    return subprocess.Popen(command, env={**os.environ, "DJANGO_SETTINGS_MODULE": settings})


def asker(port: int, method: str, path: str, headers: dict[str, str]) -> Callable[..., bytes]:
    """A function that sends one request, perhaps with `more` headers, over a kept connection; it returns the body."""
    connection = _connected(port)

    def ask(more: Mapping[str, str] = MappingProxyType({}), **fields: object) -> bytes:
        connection.request(method, path, urlencode(fields) if fields else None, {**headers, **more})
        answer = connection.getresponse()
        body = answer.read()
        if answer.status != 200:
            raise RuntimeError(f"{path}: {answer.status} {body[:300]!r}")
        return body

    return ask


def _connected(port: int) -> http.client.HTTPConnection:
    """A connection, once the server answers."""
    for _ in range(100):
        try:
            connection = http.client.HTTPConnection("127.0.0.1", port)
            connection.connect()
        except OSError:
            time.sleep(0.1)
        else:
            return connection
    raise RuntimeError(f"nothing answers on port {port}")


def cpu_seconds(server: int) -> float:
    """The processor time that a server's workers have taken so far, of the server's own and of the kernel's for it."""
    workers = Path(f"/proc/{server}/task/{server}/children").read_text().split()
    ticks = 0
    for worker in workers:
        after_name = Path(f"/proc/{worker}/stat").read_text().rpartition(")")[2].split()
        ticks += int(after_name[11]) + int(after_name[12])
    return ticks / os.sysconf("SC_CLK_TCK")


def mean(action: Callable[[], object]) -> float:
    """Mean seconds for each of `REQUESTS` calls."""
    begun = time.perf_counter()
    for _ in range(REQUESTS):
        action()
    return (time.perf_counter() - begun) / REQUESTS
