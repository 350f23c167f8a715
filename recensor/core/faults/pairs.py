"""Two faults at once: each of the best single ones with every other, where none explains what is wrong by itself."""

from collections.abc import Sequence

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.given_up import with_slips
from recensor.core.faults.model.batch import SLOTS
from recensor.core.faults.model.evidence import Whitening, likeness
from recensor.core.faults.screening import screened
from recensor.core.faults.weighing import Contender, Scored, best_of_each, prior, weigh_in_stages, written

# Pairs are made of so many of the best singles, each with every other; so many of them are screened, and weighed.
_FIRST, _SCREENED, _WEIGHED, _WORTH = 8, 160, 24, 8

# Of more hypotheses than this only the first are second.
_MOST_SECONDS = 1500

# So many of the best singles are thought of together with slips of what they give up.
_WITH_SLIPS = 3

# How many are glanced at together.
_AT_A_GLANCE = 512


def pairs(context: FaultContext, singles: Sequence[Scored], candidates: Sequence[Candidate]) -> list[Scored]:
    """The best pairs, weighed.

    What is left of a reading with two at once is at a glance what the one leaves and the other leaves, less what is
    left with none: each single one is looked at once.
    """
    slips = [one for scored in singles[:_WITH_SLIPS] for one in with_slips(context, scored)]
    firsts = [scored.contender for scored in singles[:_FIRST] if len(scored.candidates) == 1]
    if not firsts or not context.observed.count:
        return slips
    seconds = [Contender((one,), start) for one in candidates[:_MOST_SECONDS] for start in range(one.starts)]
    rows = [Contender(()), *firsts, *seconds]
    left, extra = _left(context, rows)
    whitening = Whitening.of(context.model)
    likely = np.array([prior(row.candidates) for row in rows]) + extra
    behind = len(firsts) + 1
    found: list[tuple[float, Contender]] = []
    for k, first in enumerate(firsts, 1):
        may = np.array([_may_be_two(first.candidates[0], row.candidates[0]) for row in seconds], bool)
        which = np.flatnonzero(may) + behind
        fits = likeness(left[k] + left[which] - left[0], whitening) + likely[k] + likely[which]
        best = which[np.argsort(-fits)[:_SCREENED]]
        logs = dict(zip(which.tolist(), fits.tolist(), strict=True))
        found += [(logs[j], _both(first, rows[j])) for j in best.tolist()]
    distinct: dict[frozenset[int], Contender] = {}
    for _, row in sorted(found, key=lambda one: -one[0]):
        distinct.setdefault(frozenset(map(id, row.candidates)), row)
    rough = screened(context, list(distinct.values())[:_SCREENED])
    two = weigh_in_stages(context, [one.contender for one in rough[:_WEIGHED]], _WORTH)
    return best_of_each([*slips, *two])


def _left(context: FaultContext, rows: Sequence[Contender]) -> tuple[np.ndarray, np.ndarray]:
    """What each leaves of every reading, (rows, readings), and what else is known of its probability."""
    left, extra = [], []
    for begin in range(0, len(rows), _AT_A_GLANCE):
        batch = written(context, rows[begin : begin + _AT_A_GLANCE])
        left.append(np.where(batch.counts, batch.values - context.model.glance(batch), 0.0))
        extra.append(batch.extra)
    return np.concatenate(left), np.concatenate(extra)


def _both(first: Contender, second: Contender) -> Contender:
    return Contender((*first.candidates, *second.candidates), max(first.start, second.start))


def _may_be_two(one: Candidate, other: Candidate) -> bool:
    return one is not other and one.targets != other.targets and one.fitted + other.fitted <= SLOTS
