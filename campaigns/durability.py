"""Everything is killed again and again while people record; what was acknowledged must be there once, as typed."""

import os
import random
import signal
import threading
import time
import uuid
from collections import Counter
from contextlib import suppress
from dataclasses import dataclass, field

import requests

from campaigns.report import Report, until
from campaigns.site import Person, Site

RECORDERS, PAUSE = 4, 0.05
VICTIMS = ("worker", "master", "database", "launcher", "everything")


@dataclass
class _Recorder:
    """One person's readings: sent until they are acknowledged, as the page does."""

    person: Person
    run: int
    acknowledged: dict[str, str] = field(default_factory=dict)
    resent: int = 0

    def go_on(self, over: threading.Event) -> None:
        number = 0
        while not over.is_set():
            number += 1
            key, text = str(uuid.uuid4()), f"{1 + number % 9000 / 10000:.4f}"
            while key not in self.acknowledged:
                with suppress(requests.RequestException):
                    if self.person.record(self.run, text, key).status_code == 200:
                        self.acknowledged[key] = text
                        break
                if over.is_set():
                    return
                self.resent += 1
                time.sleep(0.2)
            time.sleep(PAUSE)


def run(site: Site, seconds: float, seed: int) -> Report:
    """Kill, start again, and look what is there."""
    draw, report = random.Random(seed), Report("durability")
    site.people(*(f"durable-{number}" for number in range(RECORDERS)))
    people = [Person(site, f"durable-{number}") for number in range(RECORDERS)]
    recorders = [_Recorder(person, person.begin_run()) for person in people]
    over, kills, starts = threading.Event(), Counter[str](), []
    threads = [threading.Thread(target=recorder.go_on, args=(over,)) for recorder in recorders]
    for thread in threads:
        thread.start()
    for number in until(seconds):
        time.sleep(draw.uniform(0.5, 2.5))
        victim = VICTIMS[number % len(VICTIMS)]
        _kill(site, victim, draw)
        kills[victim] += 1
        begun = time.monotonic()
        if victim != "worker":
            site.launcher and site.launcher.wait(60)
            starts.append(site.start(90) + time.monotonic() - begun if victim == "launcher" else site.start(90))
    time.sleep(1)
    over.set()
    for thread in threads:
        thread.join()
    kept = _kept([recorder.run for recorder in recorders])
    for recorder in recorders:
        for key, text in recorder.acknowledged.items():
            if kept.get(key) != [text]:
                report.wrong.append(f"{text} under {key} was acknowledged; kept is {kept.get(key)}")
    acknowledged = sum(len(recorder.acknowledged) for recorder in recorders)
    resent = sum(recorder.resent for recorder in recorders)
    starts.sort()
    report.figures = (
        f"{acknowledged} acknowledged, {resent} resent, {kills.total()} kills ({', '.join(kills)}), "
        f"restart median {starts[len(starts) // 2] if starts else 0:.1f} s, longest {max(starts, default=0):.1f} s"
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

    from recensor.bench.models import Reading

    connection.close()
    found: dict[str, list[str]] = {}
    for key, text in Reading.objects.filter(run__in=runs).values_list("key", "text"):
        found.setdefault(str(key), []).append(text)
    return found
