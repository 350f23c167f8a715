"""People who record without a break, and send again what was not acknowledged, as the page does."""

import threading
import time
import uuid
from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from itertools import pairwise

import requests

from campaigns.site import Person

PAUSE, BEFORE_AGAIN = 0.05, 0.2  # seconds


@dataclass
class Recorder:
    """One person's readings in one run: what was acknowledged, when, and how often something was sent again."""

    person: Person
    run: int
    acknowledged: dict[str, str] = field(default_factory=dict)
    moments: list[float] = field(default_factory=list)
    resent: int = 0

    def go_on(self, over: threading.Event) -> None:
        """Record until it is over."""
        number = 0
        while not over.is_set():
            number += 1
            key, text = str(uuid.uuid4()), f"{1 + number % 9000 / 10000:.4f}"
            while key not in self.acknowledged:
                with suppress(requests.RequestException):
                    if self.person.record(self.run, text, key).status_code == 200:
                        self.acknowledged[key] = text
                        self.moments.append(time.monotonic())
                        break
                if over.is_set():
                    return
                self.resent += 1
                time.sleep(BEFORE_AGAIN)
            time.sleep(PAUSE)


class Recording:
    """Several of them at once, for as long as a block lasts."""

    def __init__(self, recorders: Sequence[Recorder]) -> None:
        self.recorders, self._over = recorders, threading.Event()
        self._threads = [threading.Thread(target=recorder.go_on, args=(self._over,)) for recorder in recorders]

    def __enter__(self) -> "Recording":
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        time.sleep(1)
        self._over.set()
        for thread in self._threads:
            thread.join()

    @property
    def acknowledged(self) -> dict[str, str]:
        """Everything that was acknowledged, by its key."""
        return {key: text for recorder in self.recorders for key, text in recorder.acknowledged.items()}

    @property
    def resent(self) -> int:
        """How often something was sent again."""
        return sum(recorder.resent for recorder in self.recorders)

    def longest_gap(self, since: float) -> float:
        """The longest time since a moment in which nobody got an acknowledgement, in seconds."""
        moments = sorted(m for recorder in self.recorders for m in recorder.moments if m >= since)
        moments = [since, *moments, time.monotonic()]
        return max(after - before for before, after in pairwise(moments))


def lost(acknowledged: Mapping[str, str], kept: Mapping[str, Sequence[str]]) -> list[str]:
    """What was acknowledged and is not kept once, as it was typed."""
    return [
        f"{text} under {key} was acknowledged; kept is {kept.get(key)}"
        for key, text in acknowledged.items()
        if list(kept.get(key, ())) != [text]
    ]
