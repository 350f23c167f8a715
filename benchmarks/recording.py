"""Recording a reading over HTTP against the barest view: ``.venv/bin/python -m benchmarks.recording``.

Both are served by gunicorn with one worker, on the same durable MariaDB, asked over one kept connection each.
"""

import http.client
import os
import re
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Callable
from functools import partial
from pathlib import Path
from urllib.parse import urlencode

from recensor.site.launch import private_database
from recensor.site.launch.private_database import PrivateDatabase

OURS, BARE, SIGNED_IN = 8765, 8766, 8767
REQUESTS, ROUNDS = 60, 5


def served(application: str, settings: str, port: int) -> subprocess.Popen[bytes]:
    """Serve one of the two sites."""
    command = [
        sys.executable,
        "-m",
        "gunicorn",
        "--bind",
        f"127.0.0.1:{port}",
        "--threads",
        "2",
        "--keep-alive",
        "60",
        application,
    ]
    return subprocess.Popen(
        [*command, "--log-level", "warning"], env={**os.environ, "DJANGO_SETTINGS_MODULE": settings}
    )


def connected(port: int) -> http.client.HTTPConnection:
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


def asker(
    connection: http.client.HTTPConnection, method: str, path: str, headers: dict[str, str]
) -> Callable[..., bytes]:
    """A function that sends one request and returns the answer's body."""

    def ask(**fields: object) -> bytes:
        connection.request(method, path, urlencode(fields) if fields else None, headers)
        answer = connection.getresponse()
        body = answer.read()
        if answer.status != 200:
            raise RuntimeError(f"{path}: {answer.status} {body[:300]!r}")
        return body

    return ask


def mean(action: Callable[[], object]) -> float:
    """Mean seconds for each of `REQUESTS` calls."""
    begun = time.perf_counter()
    for _ in range(REQUESTS):
        action()
    return (time.perf_counter() - begun) / REQUESTS


def one_reading(record: Callable[..., bytes]) -> bytes:
    """Record one reading under a key of its own."""
    return record(point=3, text="1.00", unit="kΩ", key=uuid.uuid4())


def main() -> None:
    """Prepare both sites, take turns, print the ratio."""
    with tempfile.TemporaryDirectory() as folder, PrivateDatabase(Path(folder) / "mariadb"):
        os.environ.update(DATABASE_URL=private_database.url(Path(folder) / "mariadb"), RECENSOR_VAR=folder,
                          DJANGO_SETTINGS_MODULE="recensor.site.settings")  # fmt: skip
        import django
        from django.core.management import call_command

        django.setup()
        call_command("migrate", verbosity=0)
        call_command("collectstatic", interactive=False, verbosity=0)
        from django.contrib.auth import SESSION_KEY, get_user_model
        from django.contrib.sessions.backends.db import SessionStore
        from django.db import connection as database
        from django.middleware.csrf import _get_new_csrf_string

        from benchmarks.core import best, sixty_readings
        from recensor.bench import queries, services
        from recensor.core import judgement

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        planned = sixty_readings()
        run = services.start_run(person, planned)
        for k, reading in enumerate(planned.readings):
            services.record_reading(run, person, reading.target, reading.value, services.numbered_key(run, k))
        session = SessionStore()
        session[SESSION_KEY] = str(person.pk)
        session["_auth_user_backend"] = "django.contrib.auth.backends.ModelBackend"
        session["_auth_user_hash"] = person.get_session_auth_hash()
        session.save()
        token = _get_new_csrf_string()
        headers = {
            "Cookie": f"sessionid={session.session_key}; csrftoken={token}",
            "X-CSRFToken": token,
            "HX-Request": "true",
            "Content-Type": "application/x-www-form-urlencoded",
        }
        servers = [
            served("recensor.site.wsgi", "recensor.site.settings", OURS),
            served("benchmarks.bare", "benchmarks.bare_settings", BARE),
            served("benchmarks.bare", "benchmarks.signed_in_settings", SIGNED_IN),
        ]
        try:
            record = asker(connected(OURS), "POST", f"/runs/{run.pk}/record/", headers)
            bare = asker(connected(BARE), "GET", "/bare/", {})
            signed_in = partial(asker(connected(SIGNED_IN), "POST", "/bare/signed-in/", headers), text="1.00")
            body = one_reading(record)
            bare(), signed_in()
            bare_times, signed_in_times, our_times = [], [], []
            for _ in range(ROUNDS):
                begun = services.start_run(person, planned)
                for k, reading in enumerate(planned.readings[:30]):
                    services.record_reading(
                        begun, person, reading.target, reading.value, services.numbered_key(begun, k)
                    )
                record = asker(connected(OURS), "POST", f"/runs/{begun.pk}/record/", headers)
                our_times.append(mean(partial(one_reading, record)))
                bare_times.append(mean(bare))
                signed_in_times.append(mean(signed_in))
            loaded = queries.load(type(run).objects.select_related("sheet").get(pk=begun.pk))
            judged = best(lambda: judgement.assess(loaded.core), 20)
            ours, barest, behind = min(our_times), min(bare_times), min(signed_in_times)
            print(
                f"recording into a run of 30 to 90 readings: {ours * 1e3:.1f} ms, of which assess {judged * 1e3:.1f} ms"
            )
            for name, other in (("barest view", barest), ("the same for someone signed in", behind)):
                ratios = f"{(ours - judged) / other:.1f} times without assess, {ours / other:.1f} with it"
                print(f"{name}: {other * 1e3:.1f} ms; recording takes {ratios}")
            print(f"the answer is {len(body)} bytes with {len(re.findall(b'<tr', body))} ledger rows")
        finally:
            for server in servers:
                server.terminate()
                server.wait()
            database.close()


if __name__ == "__main__":
    main()
