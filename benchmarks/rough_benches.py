"""The second trial of causes: benches as people leave them, ``python -m benchmarks.rough_benches [cases]``.

Clean and rough, thinned, two faults at once, renamed, and with lamps and diodes; the benches are those of
``tests.rough_benches``. Prints a Markdown table, what was named in the place of what, and how honest shares are.
"""

import json
import sys
from collections import Counter
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from recensor.core.faults import Cause, Explanation, explain
from recensor.core.judgement import assess
from recensor.formats.documents import run_document
from tests.rough_benches import BOOK, CIRCUIT, KINDS, NONLINEAR, NoRoomError, drawn_case, is_named

BINS = ((0.5, 0.65), (0.65, 0.8), (0.8, 0.95), (0.95, 1.01))


@dataclass(frozen=True)
class Wanted:
    """One case: which trial, what goes wrong, its number."""

    trial: str
    kinds: tuple[str, ...]
    number: int


@dataclass(frozen=True)
class Found:
    """What came of it: places at which each fault is named, what was named first, with which share, and renamed."""

    wanted: Wanted
    places: tuple[int | None, ...]
    named: str
    share: float
    is_same_renamed: bool


def main(count: int) -> None:
    """Run all trials and print them."""
    wanted = list(_all(count))
    with ProcessPoolExecutor() as pool:
        found = [one for one in pool.map(tried, wanted, chunksize=8) if one is not None]
    print("| trial | cases | first or same | in three |\n| --- | ---: | ---: | ---: |")
    for trial in dict.fromkeys(one.wanted.trial for one in found):
        here = [one for one in found if one.wanted.trial == trial]
        if trial.startswith("clean"):
            accused = Counter(one.named for one in here if one.named not in ("nothing", "unexplained"))
            odd = sum(one.named == "unexplained" for one in here)
            print(f"| {trial} | {len(here)} | accused {_percent(accused.total(), len(here))} {dict(accused)} |", end="")
            print(f" a reading named {_percent(odd, len(here))} |")
            continue
        first = sum(all(p is not None for p in one.places) and 0 in one.places for one in here)
        three = sum(all(p is not None and p < 3 for p in one.places) for one in here)
        print(f"| {trial} | {len(here)} | {_percent(first, len(here))} | {_percent(three, len(here))} |")
    print("\nThe same when renamed:", _percent(sum(one.is_same_renamed for one in found), len(found)), "\n")
    _by_kind(found)
    for trials in (("tidy", "thinned", "nonlinear"), ("rough",)):
        _reliability([one for one in found if one.wanted.trial in trials], " ".join(trials))
    wrong = Counter(
        (one.wanted.trial, " and ".join(one.wanted.kinds), one.named)
        for one in found if one.wanted.kinds and len(one.wanted.kinds) == 1 and one.places[0] != 0
    )  # fmt: skip
    print("\n".join(f"- {trial}: {kind} told as {named}: {n}" for (trial, kind, named), n in wrong.most_common(40)))


def _all(count: int) -> Iterable[Wanted]:
    for number in range(count):
        for trial in ("tidy", "thinned", "rough"):
            yield from (Wanted(trial, (kind,), number) for kind in KINDS)
        yield from (Wanted("nonlinear", (kind,), number) for kind in NONLINEAR)
        draw = np.random.default_rng([8, number])
        for _ in range(4):
            yield Wanted("two", (str(draw.choice(list(CIRCUIT))), str(draw.choice(list(BOOK)))), number)
        for trial in ("clean tidy", "clean rough", "clean nonlinear"):
            yield from (Wanted(trial, (), 10 * number + k) for k in range(10))


def tried(wanted: Wanted) -> Found | None:
    """Draw a case and see what is named; None where there is no room."""
    seed = [77, wanted.number, sum(map(ord, wanted.trial)), *(sum(map(ord, kind)) for kind in wanted.kinds)]
    try:
        case = drawn_case(
            np.random.default_rng(seed), wanted.kinds, rough="rough" in wanted.trial,
            thinned=wanted.trial == "thinned", nonlinear="nonlinear" in wanted.trial,
        )  # fmt: skip
    except NoRoomError:
        return None
    explanation = _explained(case.document)
    if case.faults and not explanation.is_outside:
        return None  # the books say that all is well, and nothing is told
    causes, again = explanation.told, _explained(case.renamed).told
    same = [(c.kind, c.targets) for c in causes[:1]] == [(c.kind, c.targets) for c in again[:1]]
    places = tuple(_place(causes, kind, targets) for kind, targets in case.faults)
    first = causes[0] if causes else None
    return Found(wanted, places, str(first.kind) if first else "nothing", first.score if first else 0.0, same)


def _explained(tree: dict[str, object]) -> Explanation:
    return explain(assess(run_document.read(json.dumps(tree).encode())))


def _place(causes: Sequence[Cause], kind: str, targets: Sequence[str]) -> int | None:
    """Where a fault is named."""
    return next((k for k, cause in enumerate(causes) if is_named(cause, kind, targets)), None)


def _by_kind(found: Sequence[Found]) -> None:
    trials = ("tidy", "thinned", "rough", "nonlinear")
    print("| kind | " + " | ".join(trials) + " |\n| --- |" + " ---: |" * len(trials))
    for kind in KINDS:
        cells = []
        for trial in trials:
            here = [one for one in found if (one.wanted.trial, one.wanted.kinds) == (trial, (kind,))]
            cells.append(_percent(sum(one.places[0] == 0 for one in here), len(here)) if here else "–")
        print(f"| {kind} | {' | '.join(cells)} |")


def _reliability(found: Sequence[Found], name: str) -> None:
    print(f"\n| {name}: share said | cases | mean | right |\n| --- | ---: | ---: | ---: |")
    for low, high in BINS:
        here = [one for one in found if one.named != "nothing" and low <= one.share < high]
        mean = f"{np.mean([one.share for one in here]):.2f}" if here else "–"
        right = _percent(sum(0 in one.places for one in here), len(here))
        print(f"| {low:g}–{min(high, 1.0):g} | {len(here)} | {mean} | {right} |")


def _percent(part: int, whole: int) -> str:
    return f"{100 * part / whole:.1f} %" if whole else "–"


if __name__ == "__main__":
    main(int(sys.argv[1]) if sys.argv[1:] else 20)
