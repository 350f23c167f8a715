"""Recording a reading over HTTP against the barest view: ``.venv/bin/python -m benchmarks.recording``."""

import re
import uuid
from collections.abc import Callable
from functools import partial

from benchmarks import sites
from benchmarks.core import best, sixty_readings

ROUNDS = 5


def one_reading(record: Callable[..., bytes]) -> bytes:
    """Record one reading under a key of its own."""
    return record(point=3, text="1.00", unit="kΩ", key=uuid.uuid4())


def main() -> None:
    """Prepare the sites, take turns, print the ratios."""
    with sites.database():
        from django.contrib.auth import get_user_model

        from recensor.bench import queries, services
        from recensor.core import judgement

        person = get_user_model().objects.create_user("bench", password="bench-bench")
        planned = sixty_readings()

        def run_of(count: int) -> object:
            run = services.start_run(person, planned.sheet)
            for k, reading in enumerate(planned.readings[:count]):
                services.record_reading(run, person, reading, services.numbered_key(run, k))
            return run

        run, headers = run_of(60), sites.signed_in(person)
        with sites.served():
            body = one_reading(sites.asker(sites.OURS, "POST", f"/runs/{run.pk}/record/", headers))
            bare = sites.asker(sites.BARE, "GET", "/bare/", {})
            signed_in = partial(sites.asker(sites.SIGNED_IN, "POST", "/bare/signed-in/", headers), text="1.00")
            bare(), signed_in()
            bare_times, signed_in_times, our_times = [], [], []
            for _ in range(ROUNDS):
                begun = run_of(30)
                services.switch(begun, person, planned.sheet.asked[3], None, on=False)  # or each is asked about
                record = sites.asker(sites.OURS, "POST", f"/runs/{begun.pk}/record/", headers)
                our_times.append(sites.mean(partial(one_reading, record)))
                bare_times.append(sites.mean(bare))
                signed_in_times.append(sites.mean(signed_in))
            loaded = queries.load(type(run).objects.following().get(pk=begun.pk))
            judged = best(lambda: judgement.assess(loaded.core), 20)
        ours, barest, behind = min(our_times), min(bare_times), min(signed_in_times)
        print(f"recording into a run of 30 to 90 readings: {ours * 1e3:.1f} ms, of which assess {judged * 1e3:.1f} ms")
        for name, other in (("barest view", barest), ("the same for someone signed in", behind)):
            ratios = f"{(ours - judged) / other:.1f} times without assess, {ours / other:.1f} with it"
            print(f"{name}: {other * 1e3:.1f} ms; recording takes {ratios}")
        print(f"the answer is {len(body)} bytes with {len(re.findall(b'<tr', body))} ledger rows")


if __name__ == "__main__":
    main()
