"""Which hypotheses are worth weighing well: all are glanced at, many weighed by one linear step."""

from collections.abc import Callable, Iterable, Sequence
from itertools import islice
from typing import NamedTuple

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.hypotheses import HYPOTHESES
from recensor.core.faults.model.batch import Batch
from recensor.core.faults.model.changes import OtherTarget, Rewritten, Uninformative
from recensor.core.faults.model.evidence import Whitening, linear_score, prefilter
from recensor.core.faults.model.observations import noise
from recensor.core.faults.weighing import Contender, prior, together, written
from recensor.core.uncertainty import Array

# At fewer circuits than this is never glanced, and at no more than so much work allows: circuits times nodes cubed.
_FEWEST_CIRCUITS, _WORK = 300, 3e8

# Of more hypotheses of a kind than this the rest is left out, and it is said.
MOST_OF_A_KIND = 2500

# Of those that change a circuit, and of slips of the pen, so many are screened: the best at a glance, which is cast at
# so many together.
_CIRCUITS, _SLIPS, _AT_A_GLANCE = 112, 64, 512


class Rough(NamedTuple):
    """A contender with the logarithm of its weight by one linear step."""

    log: float
    contender: Contender


def every_candidate(context: FaultContext) -> tuple[list[Candidate], int]:
    """Every candidate, so many of each kind at most, and how many were left out."""
    candidates: list[Candidate] = []
    left_out = context.parts_left_out
    for hypothesis in HYPOTHESES:
        some = list(islice(hypothesis(context), MOST_OF_A_KIND))
        candidates += some
        if len(some) == MOST_OF_A_KIND:
            left_out += max(0, int(some[-1].chances) - len(some))
    return candidates, left_out + max(0, _in_circuits(candidates) - _most_circuits(context))


def worth_screening(context: FaultContext, candidates: Sequence[Candidate]) -> list[Contender]:
    """Each from every start, as far as it fits at a glance: so many that change a circuit, so many slips of the pen."""
    groups: dict[str, list[Contender]] = {"circuit": [], "book": [], "other": []}
    for candidate in candidates:
        by_pen = all(isinstance(change, Rewritten | OtherTarget | Uninformative) for change in candidate.changes)
        group = groups["circuit" if _solves(candidate) else "book" if by_pen else "other"]
        group += [Contender((candidate,), start) for start in range(candidate.starts)]
    if not context.observed.count:
        return [row for group in groups.values() for row in group]
    whitening = Whitening.of(context.model)
    circuits = groups["circuit"][: _most_circuits(context)]
    return [
        *_at_a_glance(context, circuits, whitening, context.model.glance, _CIRCUITS),
        *_at_a_glance(context, groups["book"], whitening, lambda b: context.expected[b.rows] * b.shares, _SLIPS),
        *groups["other"],
    ]


def _solves(candidate: Candidate) -> bool:
    """Whether it changes a circuit."""
    return any(change.solves for change in candidate.changes)


def _in_circuits(candidates: Iterable[Candidate]) -> int:
    """How many circuits these are, from each of their starts."""
    return sum(candidate.starts for candidate in candidates if _solves(candidate))


def _most_circuits(context: FaultContext) -> int:
    """How many circuits of this size there is time to glance at."""
    nodes = max((len(setup.nodes) for setup in context.run.sheet.setups.values()), default=1)
    return max(_FEWEST_CIRCUITS, int(_WORK / nodes**3))


def _at_a_glance(
    context: FaultContext, rows: Sequence[Contender], whitening: Whitening, shows: Callable[[Batch], Array], most: int
) -> Sequence[Contender]:
    """So many of the rows, those that fit best."""
    if len(rows) <= most:
        return rows
    fits = []
    for first in range(0, len(rows), _AT_A_GLANCE):
        batch = written(context, rows[first : first + _AT_A_GLANCE])
        fits.append(prefilter(batch, shows(batch), whitening) + batch.extra)
    likely = np.concatenate(fits) + np.array([prior(row.candidates) for row in rows])
    return [rows[k] for k in np.argsort(-likely)[:most]]


def screened(context: FaultContext, rows: Sequence[Contender]) -> list[Rough]:
    """Each with the logarithm of its weight by one linear step from its start, and what it then excuses; best first."""
    observed = context.observed
    variances = np.maximum(noise(observed, observed.by_digits, np.abs(observed.values), observed.gain), 1e-24)
    found: list[Rough] = []
    side_by_side = together(context)
    for begin in range(0, len(rows), side_by_side):
        block = rows[begin : begin + side_by_side]
        logs, excuses = linear_score(context.model, written(context, block), variances, context.wild)
        found += [
            Rough(log + prior(row.candidates), Contender(row.candidates, row.start, given_up))
            for log, given_up, row in zip(logs.tolist(), excuses, block, strict=True)
        ]
    return sorted(found, key=lambda rough: -rough.log)
