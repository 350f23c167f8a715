"""Two app servers, and the TLS proxy of `deploy/nginx` before them."""

import os
import re
import signal
import subprocess
import sys
import time
from pathlib import Path

import requests

from recensor.site.launch import children

DEPLOY = Path(__file__).resolve().parents[1]
SETTINGS = "python:recensor.site.launch.gunicorn_settings"


class AppServer:
    """gunicorn on a port, with the database node beside it."""

    def __init__(self, folder: Path, number: int, port: int, environment: dict[str, str]) -> None:
        self.port, self.environment = port, {**os.environ, **environment, "RECENSOR_VAR": str(folder / f"app-{number}")}
        self.process: subprocess.Popen[bytes] | None = None

    def manage(self, *words: str) -> str:
        """One of Django's commands, with its settings."""
        command = [sys.executable, "-m", "recensor.site.manage", *words]
        return subprocess.run(command, env=self.environment, check=True, capture_output=True, text=True).stdout

    def start(self) -> None:
        """Start it; it answers soon."""
        bind = f"127.0.0.1:{self.port}"
        command = [sys.executable, "-m", "gunicorn", "--config", SETTINGS, "--bind", bind, "recensor.site.wsgi"]
        self.process = subprocess.Popen(command, env=self.environment, start_new_session=True)

    def kill(self) -> None:
        """Master and workers at once."""
        if self.process is not None:
            os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()

    def stop(self) -> None:
        """Stop it in good order."""
        if self.process is not None:
            children.stop(self.process, 15)


class Proxy:
    """nginx with the files of `deploy/nginx`, on other ports and with a certificate made here."""

    def __init__(self, folder: Path, port: int, apps: list[AppServer]) -> None:
        self.folder, self.port = folder / "proxy", port
        self.folder.mkdir()
        self.certificate = self.folder / "fullchain.pem"
        key = self.folder / "privkey.pem"
        subprocess.run(
            ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes",
             "-days", "2", "-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost", "-keyout", str(key),
             "-out", str(self.certificate)],
            check=True, capture_output=True,
        )  # fmt: skip
        site = (DEPLOY / "nginx" / "recensor.conf").read_text()
        servers = "".join(f"    server 127.0.0.1:{app.port} max_fails=2 fail_timeout=5s;\n" for app in apps)
        site = re.sub(r"(?m)(?:^    server 192\.0\.2\..*\n)+", servers, site)
        for there, here in {
            "listen 80;": f"listen 127.0.0.1:{port + 1};",
            "listen 443 ssl": f"listen 127.0.0.1:{port} ssl",
            "recensor.example": "localhost",
            "/etc/ssl/recensor": str(self.folder),
            "/etc/nginx/recensor-proxy.conf": str(DEPLOY / "nginx" / "recensor-proxy.conf"),
        }.items():
            if there not in site:
                raise RuntimeError(f"deploy/nginx/recensor.conf has no {there!r} any more")
            site = site.replace(there, here)
        temporary = "".join(
            f"{kind}_temp_path {self.folder}/{kind};\n" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
        )
        (self.folder / "nginx.conf").write_text(
            f"daemon off; pid {self.folder}/pid; error_log {self.folder}/error.log;\nworker_processes 1;\n"
            f"events {{ worker_connections 512; }}\n"
            f"http {{\naccess_log {self.folder}/access.log;\n{temporary}{site}}}\n"
        )
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def base(self) -> str:
        """Where people find the site."""
        return f"https://localhost:{self.port}"

    def start(self) -> None:
        """Start it, and wait until an app server answers through it."""
        command = ["nginx", "-e", str(self.folder / "error.log"), "-c", str(self.folder / "nginx.conf")]
        self.process = children.start(command)
        for _ in range(200):
            try:
                if requests.get(f"{self.base}/sign-in/", verify=str(self.certificate), timeout=5).status_code == 200:
                    return
            except requests.RequestException:
                pass
            time.sleep(0.1)
        raise RuntimeError(f"the proxy gets no answer: {(self.folder / 'error.log').read_text()[-2000:]}")

    def stop(self) -> None:
        """Stop it."""
        if self.process is not None:
            children.stop(self.process, 5)
