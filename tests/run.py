"""Run Django's test runner on throwaway MariaDBs: ``python -m tests.run [LABEL...]``.

Without a label everything is run, shared out to processes that take about the same time and run side by side, each
with a server of its own.
"""

import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from recensor.site.launch import private_database
from recensor.site.launch.private_database import PrivateDatabase

MOST_SECONDS = 14 * 60
HERE = Path(__file__).parent

# Two of the shares; what is in neither makes the third.
SHARES = (
    (
        "tests.browser.test_bench",
        "tests.browser.test_every_screen",
        "tests.browser.test_unacknowledged",
        "tests.kits",
        "tests.reference",
        "tests.formats",
        "tests.experiments",
        "tests.bench",
    ),
    ("tests.campaigns", "tests.core", "tests.drawing", "tests.outside", "tests.house"),
)


def main() -> int:
    """Run the labels as one process, or everything side by side."""
    if labels := sys.argv[1:]:
        return run(labels, capture=False).returncode
    begun = time.monotonic()
    shares = [*SHARES, remaining()]
    with ThreadPoolExecutor(len(shares)) as processes:
        done = list(processes.map(lambda labels: run(labels, capture=True), shares))
    for process in done:
        print(process.stdout, flush=True)
    ran = counted(r"^Ran (\d+) tests?", done)
    bad = counted(r"\b(?:failures|errors|unexpected successes)=(\d+)", done)
    wrong = any(process.returncode for process in done)
    print(f"Ran {ran} tests in {time.monotonic() - begun:.1f}s\n\n{'FAILED' if wrong else 'OK'}")
    print(f"{ran - bad} passed, {max(bad, wrong)} failed")
    return int(wrong)


def remaining() -> tuple[str, ...]:
    """Every package of tests, and every module of browser tests, that is in no other share."""
    packages = [f"tests.{file.parent.name}" for file in HERE.glob("*/__init__.py") if file.parent.name != "browser"]
    browser = [f"tests.browser.{file.stem}" for file in HERE.glob("browser/test_*.py")]
    return tuple(sorted({*packages, *browser}.difference(*SHARES)))


def counted(pattern: str, done: "list[subprocess.CompletedProcess[str]]") -> int:
    """The sum of what the summaries say."""
    return sum(int(number) for process in done for number in re.findall(pattern, process.stdout, re.MULTILINE))


def run(labels: Sequence[str], *, capture: bool) -> "subprocess.CompletedProcess[str]":
    """Start a server, run the tests of some labels, take everything away again."""
    with tempfile.TemporaryDirectory(prefix="recensor-test-") as folder:
        database = Path(folder) / "mariadb"
        with PrivateDatabase(database, throwaway=True):
            environment = {
                **os.environ,
                "DATABASE_URL": private_database.url(database),
                "DJANGO_SETTINGS_MODULE": "tests.settings",
                "RECENSOR_VAR": folder,
                # Playwright's own event loop would otherwise forbid Django's calls in browser tests.
                "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
            }
            command = [sys.executable, "-m", "django", "test", "--timing", "--top-level-directory", ".", *labels]
            said = {"stdout": subprocess.PIPE, "stderr": subprocess.STDOUT} if capture else {}
            try:
                return subprocess.run(command, env=environment, check=False, timeout=MOST_SECONDS, text=True, **said)
            except subprocess.TimeoutExpired:
                said = f"The tests of {', '.join(labels)} did not end within {MOST_SECONDS} seconds."
                print(said, file=sys.stderr)
                return subprocess.CompletedProcess(command, 1, said)


if __name__ == "__main__":
    sys.exit(main())
