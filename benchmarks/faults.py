"""The fault trial: how often the cause of a misfit is found, and a clean bench accused, and how honest shares are.

``python -m benchmarks.faults [cases of each kind] [share left out]`` prints, as Markdown, a table of all kinds, what
was named in the place of what, a reliability table, two faults at once, and what a hypothesis costs by how many are
weighed side by side. The benches are those of ``tests.injected_faults``, which know nothing of the model; then come
those of ``benchmarks.rough_benches``.
"""

import sys
import time
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import starmap

import numpy as np

from benchmarks import rough_benches
from recensor.core.faults import FaultKind, explain
from recensor.core.faults.after_correction import anything_outside
from recensor.core.faults.context import fault_context
from recensor.core.faults.ranking import rank
from recensor.core.faults.weighing import Scored, prior
from recensor.core.judgement import Assessment, assess
from tests.injected_faults import INJECTED, Case, NoRoomForFaultError, draw_case, draw_pair

# A fault counts where it is expected to be told from nothing, and from every other, by so much log evidence.
OVER_NOTHING, OVER_OTHERS = 7.0, 3.0

# Two faults count where the best single one leaves a reading this far off, in standard deviations.
ONE_IS_NOT_ENOUGH = 5.0

# Clean benches for each case of a kind, and the bins of the reliability table.
CLEAN, BINS = 20, ((0.5, 0.65), (0.65, 0.8), (0.8, 0.95))

# What is named of a clean bench, and accuses nobody: a meter that does disturb, and an odd reading.
DISTURBANCES = {FaultKind.AMMETER_RESISTANCE, FaultKind.VOLTMETER_LOADING, FaultKind.UNEXPLAINED}


@dataclass(frozen=True)
class Outcome:
    """What came of one case: the place at which the fault is named (by itself, and with what comes to the same).

    `kept`: whether it was among those that screening left to be weighed well.
    """

    kind: FaultKind | None
    counts: bool
    place: int | None
    place_with_same: int | None
    named: str
    score: float
    kept: bool


def trial(kind: FaultKind | None, number: int, left_out: float) -> Outcome | None:
    """One case; None where no bench has room for it."""
    draw = np.random.default_rng([31, number, list(INJECTED).index(kind) if kind else 99, round(100 * left_out)])
    try:
        case = draw_case(kind, draw, parts_read=bool(number % 2), several=number % 5 == 4, left_out=left_out)
    except NoRoomForFaultError:
        return None
    assessment = assess(case.run)
    causes = explain(assessment).told
    by_itself = [k for k, c in enumerate(causes) if c.kind is kind and set(c.targets) & set(case.targets)]
    with_same = [
        k
        for k, c in enumerate(causes)
        if k in by_itself or any(same is kind and target in case.targets for same, target in c.same)
    ]
    return Outcome(
        kind,
        kind is None or (anything_outside(assessment) and _can_be_told(case)),
        by_itself[0] if by_itself else None,
        with_same[0] if with_same else None,
        str(causes[0].kind) if causes else "nothing",
        causes[0].score if causes else 0.0,
        kind is None or _is_weighed(case, assessment),
    )


def _is_weighed(case: Case, assessment: Assessment) -> bool:
    """Whether the true cause is among those that are weighed well."""
    scene = fault_context(assessment)
    return scene is not None and any(
        _is(one, case) for entry in rank(scene).entries for one in (entry.leader, *entry.others)
    )


def _can_be_told(case: Case) -> bool:
    """Whether the true values let the fault be told, by the readings that a perfect meter would show."""
    scene = fault_context(assess(case.exact))
    if scene is None:
        return False
    found = rank(scene)
    mine, others = -np.inf, -np.inf
    for entry in found.entries:
        members = [entry.leader, *entry.others]
        if any(_is(one, case) for one in members):
            mine = max(mine, *(_evidence(one) for one in members))
        else:
            others = max(others, _evidence(entry.leader))
    fine = max(_evidence(found.nothing), _evidence(found.ordinary))
    return bool(mine - fine >= OVER_NOTHING and mine - others >= OVER_OTHERS)


def _is(weighed: Scored, case: Case) -> bool:
    named = [(c.kind, t) for c in weighed.candidates for t in c.targets]
    named += [one for c in weighed.candidates for one in c.also]
    return any(kind is case.kind and target in case.targets for kind, target in named)


def _evidence(weighed: Scored) -> float:
    return weighed.log - prior(weighed.candidates)


def pair(number: int) -> bool | None:
    """Two faults at once: whether both are among the first three, together or singly; None where one hides one."""
    draw = np.random.default_rng([32, number])
    kinds = list(INJECTED)
    first, second = (kinds[int(k)] for k in draw.choice(len(kinds), 2, replace=False))
    try:
        case = draw_pair(first, second, draw, parts_read=bool(number % 2))
    except NoRoomForFaultError:
        return None
    scene = fault_context(assess(case.exact))
    singles = [e for e in rank(scene).entries if len(e.leader.candidates) == 1] if scene else []
    if not singles or np.abs(singles[0].leader.misfits).max(initial=0.0) < ONE_IS_NOT_ENOUGH:
        return None  # one of them hides the other
    causes = explain(assess(case.run)).told[:3]
    named = [(c.kind, t) for c in causes for t in c.targets] + [one for c in causes for one in c.same]
    return all(any(kind is k and t in targets for k, t in named) for kind, targets in case.faults)


def table(outcomes: Sequence[Outcome]) -> Iterator[str]:
    """Every kind: how many can be told, how many of those come first, and of the rest how many among three."""
    yield "| kind | can be told | first | with same | in three | cannot be told | in three |"
    yield "| --- | ---: | ---: | ---: | ---: | ---: | ---: |"
    for kind in [*INJECTED, None]:
        here = [o for o in outcomes if o.kind is not None and kind in (None, o.kind)]
        told, untold = [o for o in here if o.counts], [o for o in here if not o.counts]
        cells = [
            _share(o.place == 0 for o in told),
            _share(o.place_with_same == 0 for o in told),
            _share(o.place_with_same is not None and o.place_with_same < 3 for o in told),
            str(len(untold)),
            _share(o.place_with_same is not None and o.place_with_same < 3 for o in untold),
        ]
        yield f"| {kind or '**all**'} | {len(told)} | {' | '.join(cells)} |"


def _share(hits: Iterator[bool]) -> str:
    found = list(hits)
    return f"{100 * sum(found) / len(found):.1f} %" if found else "–"


def confusion(outcomes: Sequence[Outcome]) -> Iterator[str]:
    """What was named in the place of what, where it can be told."""
    wrong = Counter((str(o.kind), o.named) for o in outcomes if o.kind and o.counts and o.place_with_same != 0)
    yield "| fault | named first | times |"
    yield "| --- | --- | ---: |"
    yield from (f"| {fault} | {named} | {times} |" for (fault, named), times in wrong.most_common(20))


def reliability(outcomes: Sequence[Outcome]) -> Iterator[str]:
    """Of causes that are named with such a share, how many are right."""
    yield "| share said | cases | mean share | right |"
    yield "| --- | ---: | ---: | ---: |"
    for low, high in BINS:
        here = [o for o in outcomes if o.kind and low <= o.score < high]
        mean = f"{np.mean([o.score for o in here]):.2f}" if here else "–"
        yield f"| {low:g}–{high:g} | {len(here)} | {mean} | {_share(o.place_with_same == 0 for o in here)} |"


def batching() -> Iterator[str]:
    """What one hypothesis costs, by how many are weighed side by side, against one by itself."""
    from recensor.core.faults import screening, weighing

    draw = np.random.default_rng(5)
    case = draw_case(FaultKind.VALUE_OFF, draw, parts_read=True, several=True)
    scene = fault_context(assess(case.run))
    if scene is None:
        return
    rows = screening.worth_screening(scene, screening.every_candidate(scene)[0])
    yield f"{len(case.run.readings)} readings, {len(rows)} hypotheses screened"
    alone = 0.0
    for side_by_side in (1, 8, 32, 128):
        weighing._SIDE_BY_SIDE = side_by_side
        began = time.perf_counter()
        screening.screened(scene, rows)
        each = (time.perf_counter() - began) / len(rows)
        alone = alone or each
        yield f"- {side_by_side} side by side: {each / alone:.2f} of what one by itself costs"


def main(count: int, left_out: float) -> None:
    """Run all of it and print it."""
    wanted: list[tuple[FaultKind | None, int, float]]
    wanted = [(kind, number, left_out) for number in range(count) for kind in INJECTED]
    wanted += [(None, number, left_out) for number in range(CLEAN * count)]
    with ProcessPoolExecutor() as pool:
        outcomes = [o for o in pool.map(_trial, wanted, chunksize=8) if o is not None]
        pairs = [found for found in pool.map(pair, range(8 * count), chunksize=4) if found is not None]
    clean = [o for o in outcomes if o.kind is None]
    wrong = [o for o in clean if o.named != "nothing" and o.named not in {str(kind) for kind in DISTURBANCES}]
    disturbed = sum(o.named in {str(kind) for kind in DISTURBANCES} for o in clean)
    print(f"{len(outcomes) - len(clean)} faulty benches, {100 * left_out:g} % of the readings left out\n")
    print("\n".join(table(outcomes)))
    told = [o.kept for o in outcomes if o.kind and o.counts]
    print(f"\nScreening kept the true cause in {_share(iter(told))} of {len(told)} that can be told.")
    print(f"\n{len(clean)} clean benches: {len(wrong)} accused ({100 * len(wrong) / len(clean):.1f} %), ", end="")
    print(f"{disturbed} with the meter's own disturbance or an odd reading named\n")
    print("\n".join(confusion(outcomes)), "\n")
    print("\n".join(reliability(outcomes)), "\n")
    print(f"Two faults at once: both among the first three in {_share(iter(pairs))} of {len(pairs)}\n")
    print("\n".join(batching()))
    rough_benches.main(max(1, count // 4))


def _trial(wanted: tuple[FaultKind | None, int, float]) -> Outcome | None:
    return next(starmap(trial, [wanted]))


if __name__ == "__main__":
    numbers = sys.argv[1:]
    main(int(numbers[0]) if numbers else 80, float(numbers[1]) if numbers[1:] else 0.0)
