"""Recording a reading over HTTP against the barest view: ``.venv/bin/python -m benchmarks.recording``.

Sent as the browser does: with the names of the pieces that the page holds, which do not come again. The processor
time of the server's workers tells how much work an answer is, the time on the clock how long one waits.
"""

import gzip
import re
import uuid
from collections.abc import Callable
from functools import partial

from benchmarks import sites
from benchmarks.core import best, sixty_readings
from recensor.core.circuit import slug

ROUNDS = 5


class Page:
    """A bench page that is open in a browser: it holds what the last answer brought."""

    def __init__(self, ask: Callable[..., bytes], measurement: str) -> None:
        self.ask, self.measurement = ask, measurement
        self.held: set[str] = set()
        self.answer = b""

    def record(self) -> None:
        """Record one reading under a key of its own."""
        held = {"X-Bench-Holds": " ".join(sorted(self.held))}
        fields = {"measurement": self.measurement, "text": "1.00", "unit": "kΩ", "key": uuid.uuid4()}
        self.answer = self.ask(held, **fields)
        self.held = {name.decode() for name in re.findall(rb'id="((?:row|drawing)-[^"]+)"', self.answer)}


def main() -> None:
    """Prepare the sites, take turns, print the ratios."""
    with sites.database():
        from django.contrib.auth import get_user_model

        from recensor.core import judgement
        from recensor.runs import queries, services

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        planned = sixty_readings()

        def run_of(count: int) -> object:
            run = services.start_run(person, planned.sheet)
            for k, reading in enumerate(planned.readings[:count]):
                services.record_reading(run, person, reading, services.numbered_key(run, k))
            return run

        target, headers = planned.sheet.asked[3], sites.signed_in(person)
        with sites.served() as servers:
            bare = sites.asker(sites.BARE, "GET", "/bare/", {})
            signed_in = partial(sites.asker(sites.SIGNED_IN, "POST", "/bare/signed-in/", headers), text="1.00")
            run_of(0)  # the first run, which the barest views insert into
            bare(), signed_in()
            waited: dict[int, list[float]] = {port: [] for port in servers}
            worked: dict[int, list[float]] = {port: [] for port in servers}
            for _ in range(ROUNDS):
                begun = run_of(30)
                services.switch(begun, person, target, None, on=False)  # or each is asked about
                page = Page(sites.asker(sites.OURS, "POST", f"/runs/{begun.pk}/record/", headers), slug(target))
                page.record()
                for port, action in ((sites.OURS, page.record), (sites.BARE, bare), (sites.SIGNED_IN, signed_in)):
                    before = sites.cpu_seconds(servers[port])
                    waited[port].append(sites.mean(action))
                    worked[port].append((sites.cpu_seconds(servers[port]) - before) / sites.REQUESTS)
            loaded = queries.load(type(begun).objects.following().get(pk=begun.pk))
            judged = best(lambda: judgement.assess(loaded.core), 20)
        print(f"recording into a run of 31 to 91 readings; assess takes {judged * 1e3:.1f} ms of it")
        names = {sites.OURS: "recording", sites.BARE: "the barest view", sites.SIGNED_IN: "an insert by one signed in"}
        for port, name in names.items():
            ours, least = min(worked[sites.OURS]), min(worked[port])
            print(f"{name}: {least * 1e3:.1f} ms of processor time, {min(waited[port]) * 1e3:.1f} ms on the clock; "
                  f"recording takes {ours / least:.1f} times its processor time")  # fmt: skip
        packed = len(gzip.compress(page.answer))
        print(
            f"the answer is {len(page.answer)} bytes, {packed} compressed, for {page.answer.count(b'<tr')} ledger rows"
        )


if __name__ == "__main__":
    main()
