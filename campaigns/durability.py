"""Everything is killed again and again while people record; what was acknowledged must be there once, as typed."""

import os
import random
import signal
import time
from collections import Counter
from contextlib import suppress

from campaigns.recorders import Recorder, Recording, lost
from campaigns.report import Report, until
from campaigns.site import Person, Site

RECORDERS = 4
VICTIMS = ("worker", "master", "database", "launcher", "everything")


def run(site: Site, seconds: float, seed: int) -> Report:
    """Kill, start again, and look what is there."""
    draw, report = random.Random(seed), Report("durability")
    site.people(*(f"durable-{number}" for number in range(RECORDERS)))
    people = [Person(site, f"durable-{number}") for number in range(RECORDERS)]
    recorders = [Recorder(person, person.begin_run()) for person in people]
    kills, starts = Counter[str](), list[float]()
    with Recording(recorders) as recording:
        for number in until(seconds):
            time.sleep(draw.uniform(0.5, 2.5))
            victim = VICTIMS[number % len(VICTIMS)]
            _kill(site, victim, draw)
            kills[victim] += 1
            if victim != "worker":
                begun = time.monotonic()
                if site.launcher is not None:
                    site.launcher.wait(60)
                site.start(90)
                starts.append(time.monotonic() - begun)
    report.wrong += lost(recording.acknowledged, _kept([recorder.run for recorder in recorders]))
    starts.sort()
    report.figures = (
        f"{len(recording.acknowledged)} acknowledged, {recording.resent} resent, {kills.total()} kills "
        f"({', '.join(kills)}), restart median {starts[len(starts) // 2] if starts else 0:.1f} s, "
        f"longest {max(starts, default=0):.1f} s"
    )
    return report


def _kill(site: Site, victim: str, draw: random.Random) -> None:
    there = site.processes()
    pids = [pid for group in there.values() for pid in group] if victim == "everything" else there[victim][:1]
    if victim == "worker" and there["worker"]:
        pids = [draw.choice(there["worker"])]
    for pid in pids:
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)


def _kept(runs: list[int]) -> dict[str, list[str]]:
    from django.db import connection

    from recensor.runs.models import ReadingRow

    connection.close()
    found: dict[str, list[str]] = {}
    for key, text in ReadingRow.objects.filter(run__in=runs).values_list("key", "text"):
        found.setdefault(str(key), []).append(text)
    return found
