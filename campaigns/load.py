"""A room of fifty benches: all sign in at once, then each records every two seconds and looks at its page."""

import random
import threading
import time
import uuid
from collections.abc import Callable

import requests

from campaigns.report import Report, share
from campaigns.site import Person, Site

BENCHES, EVERY = 50, 2.0


def run(site: Site, seconds: float, seed: int) -> Report:
    """Sign in, then work; half of the time each."""
    report = Report("load")
    names = [f"load-{number}" for number in range(BENCHES)]
    site.people("load-early", *names)
    early = Person(site, "load-early")
    early_run, over, usual = early.begin_run(), threading.Event(), list[float]()

    def record_meanwhile(times: list[float], over: threading.Event) -> None:
        while not over.is_set():
            times.append(_timed(report, lambda: early.record(early_run, "1.01", str(uuid.uuid4()))))
            time.sleep(0.1)

    def while_recording(times: list[float], act: Callable[[], object]) -> None:
        over.clear()
        recorder = threading.Thread(target=record_meanwhile, args=(times, over))
        recorder.start()
        act()
        over.set()
        recorder.join()

    while_recording(usual, lambda: time.sleep(min(3, seconds / 4)))
    people: dict[str, Person] = {}
    meanwhile = list[float]()

    def all_sign_in() -> None:
        _at_once([lambda name=name: people.update({name: Person(site, name)}) for name in names])

    begun = time.monotonic()
    while_recording(meanwhile, all_sign_in)
    signed_in = time.monotonic() - begun
    runs = {name: people[name].begin_run() for name in names}
    recorded, looked, end = list[float](), list[float](), time.monotonic() + seconds / 2

    def work(name: str) -> None:
        draw = random.Random(f"{seed} {name}")
        time.sleep(draw.uniform(0, EVERY))
        while time.monotonic() < end:
            begun = time.monotonic()
            key = str(uuid.uuid4())
            recorded.append(_timed(report, lambda: people[name].record(runs[name], f"1.{draw.randrange(999):03}", key)))
            looked.append(_timed(report, lambda: people[name].get(f"/runs/{runs[name]}/")))
            time.sleep(max(0.0, EVERY - (time.monotonic() - begun)))

    _at_once([lambda name=name: work(name) for name in names])
    report.figures = (
        f"{BENCHES} sign-ins at once in {signed_in:.1f} s; recording beside it p95 {share(meanwhile, 95):.0f} ms, "
        f"before {share(usual, 95):.0f} ms; then {len(recorded)} recordings p50 {share(recorded, 50):.0f}, "
        f"p95 {share(recorded, 95):.0f}, p99 {share(recorded, 99):.0f} ms; pages p95 {share(looked, 95):.0f} ms"
    )
    return report


def _timed(report: Report, ask: Callable[[], requests.Response]) -> float:
    begun = time.monotonic()
    answer = ask()
    if answer.status_code != 200:
        report.wrong.append(f"{answer.request.url}: {answer.status_code}")
    return time.monotonic() - begun


def _at_once(acts: list[Callable[[], object]]) -> None:
    threads = [threading.Thread(target=act) for act in acts]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
