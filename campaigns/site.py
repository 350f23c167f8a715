"""A whole Recensor on a folder of its own, started and killed like a person would, and people who use it over HTTP."""

import contextlib
import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Protocol

import requests

from recensor.site.launch import private_database

ROOT = Path(__file__).resolve().parents[1]
PASSWORD = "four-grey-herons"
PATIENCE = 30.0  # seconds for an answer, before it counts as a hang


class HasAddress(Protocol):
    """Where a site is found."""

    @property
    def base(self) -> str:
        """The beginning of its addresses."""


class Site:
    """Recensor in a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.base = f"http://127.0.0.1:{self.port}"
        self.log = (folder / "said").open("ab")
        self.launcher: subprocess.Popen[bytes] | None = None

    def start(self, seconds: float = 180) -> float:
        """Start it, and wait until it answers; after how many seconds it did."""
        begun = time.monotonic()
        mine = ("DATABASE_URL", "DJANGO_SETTINGS_MODULE", "SECRET_KEY")
        environment = {name: value for name, value in os.environ.items() if name not in mine}
        command = [sys.executable, "-m", "recensor.site.launch", "--empty", "--port", str(self.port)]
        self.launcher = subprocess.Popen(
            command, cwd=ROOT, env={**environment, "RECENSOR_VAR": str(self.folder)}, stdout=self.log, stderr=self.log
        )
        while time.monotonic() - begun < seconds:
            with contextlib.suppress(requests.RequestException):
                requests.get(f"{self.base}/sign-in/", timeout=5)
                return time.monotonic() - begun
            if self.launcher.poll() is not None:
                raise RuntimeError((self.folder / "said").read_text()[-2000:])
            time.sleep(0.1)
        raise RuntimeError("it does not answer")

    def stop(self) -> None:
        """Stop it in good order."""
        if self.launcher is not None:
            self.launcher.send_signal(signal.SIGTERM)
            self.launcher.wait(90)
        self.log.close()

    @property
    def runs(self) -> bool:
        """Whether the launcher is there."""
        return self.launcher is not None and self.launcher.poll() is None

    def processes(self) -> dict[str, list[int]]:
        """The processes that belong to it, by what they are."""
        found: dict[str, list[int]] = {"launcher": [], "database": [], "master": [], "worker": []}
        mark = os.fsencode(self.folder)
        masters = set()
        for place in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError):
                words, pid = (place / "cmdline").read_bytes(), int(place.name)
                parent = int((place / "stat").read_text().rpartition(") ")[2].split()[1])
                if b"mariadbd" in words and mark in words:
                    found["database"].append(pid)
                elif b"gunicorn" in words and mark in words:
                    masters.add((pid, parent))
        pids = {pid for pid, _ in masters}
        found["worker"] = [pid for pid, parent in masters if parent in pids]
        found["master"] = [pid for pid, parent in masters if parent not in pids]
        if self.launcher is not None and self.runs:
            found["launcher"] = [self.launcher.pid]
        return found

    def people(self, *names: str, **flags: bool) -> None:
        """Make accounts, all with one password."""
        from django.contrib.auth import get_user_model
        from django.contrib.auth.hashers import make_password

        password = make_password(PASSWORD)
        users = get_user_model()
        users.objects.bulk_create([users(username=name, password=password, **flags) for name in names])


@contextlib.contextmanager
def served() -> Iterator[Site]:
    """A site that is started, with this process's Django on its database; all is gone afterwards."""
    with tempfile.TemporaryDirectory(prefix="recensor-campaign-") as folder:
        site = Site(Path(folder))
        site.start()
        os.environ.update(
            RECENSOR_VAR=folder, DJANGO_SETTINGS_MODULE="recensor.site.settings",
            DATABASE_URL=private_database.url(site.folder / "mariadb"),
        )  # fmt: skip
        import django

        django.setup()
        try:
            yield site
        finally:
            from django.db import connections

            connections.close_all()
            site.stop()


class Person:
    """Somebody with a browser. Raises `requests.RequestException` where there is no answer."""

    def __init__(self, site: HasAddress, name: str = "", certificate: str = "") -> None:
        self.site, self.name = site, name
        self.session = requests.Session()
        self.session.headers["Referer"] = site.base
        self.session.headers["Connection"] = "close"  # one kept open may be closed just as the next request is sent
        self.session.verify = certificate or True
        self.session.trust_env = False  # no proxy and no other certificates out of the environment
        if name:
            self.sign_in()
        else:
            self.get("/sign-in/")

    def sign_in(self) -> requests.Response:
        """Come in."""
        self.get("/sign-in/")
        return self.post("/sign-in/", {"username": self.name, "password": PASSWORD})

    def get(self, path: str, **named: Any) -> requests.Response:
        """Look at a page."""
        return self.ask("GET", path, **named)

    def post(self, path: str, fields: Any = None, *, part: bool = False, **named: Any) -> requests.Response:
        """Send a form; `part` as htmx does."""
        return self.ask("POST", path, data=fields, headers={"HX-Request": "true"} if part else {}, **named)

    def ask(self, method: str, path: str, **named: Any) -> requests.Response:
        """Any request; redirections are followed only where that is asked for."""
        cookies = self.session.cookies.items()
        token = {"X-CSRFToken": next((value for name, value in cookies if name.endswith("csrftoken")), "")}
        named = {"timeout": PATIENCE, "allow_redirects": False, **named, "headers": token | named.get("headers", {})}
        return self.session.request(method, f"{self.site.base}{path}", **named)

    def begin_run(self, line: str = "9V: 1k + 2k + 3k; 5%", kit: int | None = None) -> int:
        """An experiment of this line and a run of it; the run's number."""
        made = self.post("/experiments/new/", {"by": "line", "line": line, "title": "Campaign"})
        started = self.post(f"{made.headers['Location']}start/", {"kit": kit or "", "key": str(uuid.uuid4())})
        found = re.fullmatch(r"/runs/(\d+)/", started.headers.get("Location", ""))
        if not found:
            raise RuntimeError(f"no run was begun: {started.status_code} {started.text[:300]}")
        return int(found[1])

    def record(self, run: int, text: str, key: str, measurement: str = "of.r.R1") -> requests.Response:
        """Type another trial and press Enter."""
        typed = {"measurement": measurement, "text": text, "unit": "kΩ", "key": key, "declared_as": "trial"}
        return self.post(f"/runs/{run}/record/", typed, part=True)
