"""Run Django's test runner on throwaway MariaDBs: ``python -m tests.run [--durations N] [LABEL...]``.

Without a label everything is run, shared out to processes that take about the same time by what was measured, and run
side by side, each with a server of its own. Labels are run in one process; a server is started only where one is used.
"""

import argparse
import json
import os
import re
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

from recensor.site.launch import private_database
from recensor.site.launch.private_database import PrivateDatabase

MOST_SECONDS = 14 * 60
PROCESSES = 4
HERE = Path(__file__).parent

# Seconds of every module of tests, as they were measured; `--record` measures them anew. An unknown one takes so long.
MEASURED, UNKNOWN = HERE / "durations.json", 5.0

# The packages of tests that use no database.
WITHOUT_DATABASE = ("tests.core", "tests.formats", "tests.house", "tests.outside")


@dataclass(frozen=True)
class Done:
    """What came of the tests of some labels: all that they said, and the seconds that each of them took."""

    returncode: int
    said: str
    seconds: Mapping[str, float]


def main() -> int:
    """Run the labels as one process, or everything side by side."""
    parser = argparse.ArgumentParser(prog="python -m tests.run", description="Run the tests.")
    parser.add_argument("labels", nargs="*", metavar="LABEL", help="dotted names; all tests without one")
    parser.add_argument("--durations", type=int, default=0, metavar="N", help="name the N slowest tests")
    parser.add_argument("--processes", type=int, default=0, help="share the labels out to so many processes")
    parser.add_argument("--failfast", action="store_true", help="stop at the first that fails")
    parser.add_argument("--record", action="store_true", help="keep what every module took, for the next shares")
    options = parser.parse_args()
    begun = time.monotonic()
    if options.labels and not options.processes:
        shares = [options.labels]
    else:
        named = [name for name in modules() if is_named(name, options.labels)] if options.labels else modules()
        shares = shared_out(named, options.processes or PROCESSES)
    with ThreadPoolExecutor(len(shares)) as processes:
        done = list(processes.map(lambda labels: run(labels, failfast=options.failfast), shares))
    for share in done:
        print(share.said, flush=True)
    ran = counted(r"^Ran (\d+) tests?", done)
    bad = counted(r"\b(?:failures|errors|unexpected successes)=(\d+)", done)
    wrong = any(share.returncode for share in done)
    seconds = {test: took for share in done for test, took in share.seconds.items()}
    for test, took in sorted(seconds.items(), key=lambda pair: -pair[1])[: options.durations]:
        print(f"{took:7.2f} s  {test}")
    if options.record:
        record(seconds)
    print(f"Ran {ran} tests in {time.monotonic() - begun:.1f}s\n\n{'FAILED' if wrong else 'OK'}")
    print(f"{ran - bad} passed, {max(bad, wrong)} failed")
    return int(wrong)


def modules() -> list[str]:
    """Every module of tests, by its dotted name."""
    files = sorted(HERE.rglob("test_*.py"))
    return [".".join(("tests", *file.relative_to(HERE).with_suffix("").parts)) for file in files]


def is_named(module: str, labels: Iterable[str]) -> bool:
    """Whether a module is one of the labels, or lies below one."""
    return any(f"{module}.".startswith(f"{label}.") for label in labels)


def shared_out(names: Iterable[str], count: int) -> list[list[str]]:
    """The names in so many shares that take about the same time: the longest first, each to whoever has least."""
    known = json.loads(MEASURED.read_text(encoding="utf-8")) if MEASURED.is_file() else {}
    shares: list[list[str]] = [[] for _ in range(count)]
    loads = [0.0] * count
    for name in sorted(names, key=lambda name: -known.get(name, UNKNOWN)):
        least = loads.index(min(loads))
        shares[least].append(name)
        loads[least] += known.get(name, UNKNOWN)
    return [sorted(share) for share in shares if share]


def counted(pattern: str, done: Iterable[Done]) -> int:
    """The sum of what the summaries say."""
    return sum(int(number) for share in done for number in re.findall(pattern, share.said, re.MULTILINE))


def record(seconds: Mapping[str, float]) -> None:
    """Keep what every module took, to a tenth of a second."""
    known = json.loads(MEASURED.read_text(encoding="utf-8")) if MEASURED.is_file() else {}
    measured: dict[str, float] = {}
    for test, took in seconds.items():
        module = next((name for name in modules() if test.startswith(f"{name}.")), None)
        if module:
            measured[module] = measured.get(module, 0.0) + took
    kept = {**known, **{name: round(took, 1) for name, took in measured.items()}}
    kept = {name: kept[name] for name in modules() if name in kept}
    MEASURED.write_text(json.dumps(kept, indent=1) + "\n", encoding="utf-8")


def run(labels: Sequence[str], *, failfast: bool = False) -> Done:
    """Start a server where one is needed, run the tests of some labels, take everything away again."""
    with tempfile.TemporaryDirectory(prefix="recensor-test-") as folder, ExitStack() as stack:
        database, times = Path(folder) / "mariadb", Path(folder) / "times.json"
        if not all(label.startswith(WITHOUT_DATABASE) for label in labels):
            stack.enter_context(PrivateDatabase(database, throwaway=True))
        environment = {
            **os.environ,
            "DATABASE_URL": private_database.url(database),
            "DJANGO_SETTINGS_MODULE": "tests.settings",
            "RECENSOR_VAR": folder,
            "RECENSOR_TEST_TIMES": str(times),
            # Playwright's own event loop would otherwise forbid Django's calls in browser tests.
            "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        }
        command = [sys.executable, "-m", "django", "test", "--top-level-directory", ".", *labels]
        command += ["--failfast"] if failfast else []
        out = stack.enter_context(tempfile.TemporaryFile("w+", encoding="utf-8", errors="replace"))
        try:
            status = subprocess.run(
                command, env=environment, check=False, timeout=MOST_SECONDS, stdout=out, stderr=subprocess.STDOUT
            ).returncode
        except subprocess.TimeoutExpired:
            status = 1
            out.seek(0, os.SEEK_END)
            named = ", ".join(labels)
            out.write(f"\nNot ended within {MOST_SECONDS} seconds; above is what they said: {named}\n")
        out.seek(0)
        took = json.loads(times.read_text(encoding="utf-8")) if times.is_file() else {}
        return Done(status, out.read(), took)


if __name__ == "__main__":
    sys.exit(main())
