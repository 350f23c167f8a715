"""What holds over HTTPS, Django's own deploy checks, and that each promise of docs/security.md names a test."""

import importlib
import json
import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

from django.test import TransactionTestCase

from tests.site.test_launch import environment

ROOT = Path(__file__).resolve().parents[2]
SAY = """
import json, django
from django.conf import settings
django.setup()
from django.core.checks import run_checks
from django.core.management import call_command
from django.test import Client
call_command("collectstatic", interactive=False, verbosity=0)
page = Client().get("/sign-in/", secure=True, headers={"host": "localhost"})
cookies = {name: [cookie[flag] for flag in ("secure", "httponly", "samesite", "path", "domain")]
           for name, cookie in page.cookies.items()}
print(json.dumps({
    "checks": [str(check) for check in run_checks(include_deployment_checks=True) if not check.is_silenced()],
    "cookies": cookies, "session": settings.SESSION_COOKIE_NAME, "headers": dict(page.headers),
    "plain": Client().get("/sign-in/", headers={"host": "localhost"}).status_code,
    "list": Client().get("/static/staticfiles.json", secure=True, headers={"host": "localhost"}).status_code,
    "secure": [settings.SESSION_COOKIE_SECURE, settings.SESSION_COOKIE_HTTPONLY, settings.SESSION_COOKIE_SAMESITE],
}))
"""


class OverHttps(TransactionTestCase):
    def test_cookies_headers_and_deploy_checks(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            over_https = environment(
                Path(folder), RECENSOR_HTTPS="1", DJANGO_SETTINGS_MODULE="recensor.site.settings",
                DATABASE_URL=os.environ["DATABASE_URL"].replace("/recensor?", "/test_recensor?"),
            )  # fmt: skip
            command = [sys.executable, "-c", SAY]
            done = subprocess.run(command, cwd=ROOT, env=over_https, text=True, capture_output=True, check=False)
        self.assertEqual(done.returncode, 0, done.stderr)
        said = json.loads(done.stdout.splitlines()[-1])
        self.assertEqual(said["checks"], [])
        self.assertEqual(said["session"], "__Host-session")
        self.assertEqual(said["secure"], [True, True, "Lax"])
        self.assertEqual(said["cookies"]["__Host-csrftoken"], [True, "", "Lax", "/", ""])
        self.assertEqual(said["headers"]["Strict-Transport-Security"], "max-age=31536000; includeSubDomains")
        self.assertEqual((said["plain"], said["list"]), (301, 404))


class Promises(TestCase):
    def test_every_promise_names_a_test_that_exists(self) -> None:
        named = set(re.findall(r"`(tests\.[\w.]+)`", (ROOT / "docs" / "security.md").read_text()))
        self.assertGreater(len(named), 10)
        for name in named:
            importlib.import_module(name)
