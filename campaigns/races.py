"""The same thing from many windows at one moment: done once, or as often as it was meant, and nothing lost."""

import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import TYPE_CHECKING

import requests

from campaigns.report import Report, until
from campaigns.site import Person, Site

if TYPE_CHECKING:
    from recensor.runs.queries import RunSnapshot

TOGETHER = 8


def run(site: Site, seconds: float, seed: int) -> Report:
    """Round after round of everything, each on things of its own."""
    report, answers, rounds = Report("races"), 0, 0
    site.people("racing")
    windows = [Person(site, "racing") for _ in range(TOGETHER)]
    kit = int(windows[0].post("/kits/", {"name": "Race"}).headers["Location"].strip("/").split("/")[-1])
    filled = 10_000
    for value in ("1k", "2k", "3k"):
        windows[0].post(f"/kits/{kit}/fill/", {"value": value, "tolerance": "5", "count": str(filled)})

    def together(act: Callable[[int], requests.Response]) -> list[requests.Response]:
        nonlocal answers
        start = Barrier(TOGETHER)

        def one(number: int) -> requests.Response:
            start.wait(20)
            return act(number)

        with ThreadPoolExecutor(TOGETHER) as threads:
            done = list(threads.map(one, range(TOGETHER)))
        answers += len(done)
        report.wrong.extend(
            f"{answer.request.url}: {answer.status_code}" for answer in done if answer.status_code >= 500
        )
        return done

    def expect(what: str, found: object, wanted: object) -> None:
        if found != wanted:
            report.wrong.append(f"{what}: {found}, not {wanted}")

    drawn = 0
    for _ in until(seconds):
        rounds += 1
        number = windows[0].begin_run("9V: 1k + 2k + 3k; 5%")
        run, key = f"/runs/{number}/", str(uuid.uuid4())
        together(lambda k: windows[k].record(number, "1.01", key))
        expect("readings of one key", _readings(number), [("1.01", True)])
        done = together(lambda k: windows[k].record(number, f"1.0{k}", "6f9619ff-8b86-d011-b42d-00c04fc964ff"))
        expect(
            "answers to one key with other texts",
            sorted(one.status_code for one in done),
            [200] + [409] * (TOGETHER - 1),
        )
        together(lambda k: windows[k].record(number, f"1.1{k}", str(uuid.uuid4())))
        expect("readings", len(_readings(number)), TOGETHER + 2)
        last = _last(number)
        together(lambda k: windows[k].post(f"{run}undo/", {"last": f"r{last}"}, part=True))
        expect("readings that still stand", sum(stands for _, stands in _readings(number)), TOGETHER + 1)
        first = _last(number, first=True)
        together(
            lambda k: windows[k].post(
                f"{run}readings/{first}/correct/", {"correction": "strike", "reason": f"{k}"}, part=True
            )
        )
        expect("after strikes of one", sum(stands for _, stands in _readings(number)), TOGETHER)
        # Starting: the same press many times, and many who start and put back out of one kit.
        experiment = _experiment(number)
        press = str(uuid.uuid4())
        begun = together(lambda k: windows[k].post(f"/experiments/{experiment}/start/", {"kit": kit, "key": press}))
        expect("runs of one press", len({one.headers.get("Location") for one in begun}), 1)
        drawn += 1
        begun = together(
            lambda k: windows[k].post(f"/experiments/{experiment}/start/", {"kit": kit, "key": str(uuid.uuid4())})
        )
        drawn += TOGETHER
        homes = [one.headers.get("Location", "") for one in begun]
        together(
            lambda k: (
                windows[k].post(f"{homes[k // 2]}return/")
                if k % 2
                else windows[k].post(f"/kits/{kit}/fill/", {"value": "1k", "tolerance": "5", "count": "0"})
            )
        )
        drawn -= TOGETHER // 2
        expect("parts in the kit and out of it", _counts(kit), [filled - drawn] * 3)
        # Editing: every step is kept, and undo goes back no further than there are steps.
        together(
            lambda k: windows[k].post(
                f"/experiments/{experiment}/",
                {"act": "redo" if k % 2 else "undo", "setup": "main", "part": ""},
                part=True,
            )
        )
        if windows[0].get(f"/experiments/{experiment}/").status_code != 200:
            report.wrong.append(f"experiment {experiment} cannot be opened any more")
    report.figures = f"{rounds} rounds of {TOGETHER} windows, {answers} answers"
    return report


def _readings(run: int) -> list[tuple[str, bool]]:
    """Each reading as typed, and whether it still stands."""
    return [(reading.value.text, reading.struck is None) for reading in _loaded(run).core.readings]


def _last(run: int, *, first: bool = False) -> int:
    loaded = _loaded(run)
    pairs = zip(loaded.reading_ids, loaded.core.readings, strict=True)
    stand = [pk for pk, reading in pairs if reading.struck is None]
    return stand[0] if first else stand[-1]


def _loaded(run: int) -> "RunSnapshot":
    from recensor.runs import queries

    return queries.load(queries.any_run().get(pk=run))


def _experiment(run: int) -> int:
    from recensor.runs.models import RunRow

    return int(RunRow.objects.get(pk=run).experiment_id or 0)


def _counts(kit: int) -> list[int]:
    from recensor.kits.models import Bin

    return list(Bin.objects.filter(kit=kit).order_by("value").values_list("count", flat=True))
