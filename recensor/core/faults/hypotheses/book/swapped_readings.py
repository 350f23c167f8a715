"""Two readings were entered at each other's points."""

from collections.abc import Iterator
from itertools import combinations

import numpy as np

from recensor.core.faults.candidate import PLAUSIBLE, Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.quantity import Measurand
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make two readings possible of which one at least does not fit."""
    observed, found, chances = context.observed, [], 0
    fits = np.abs(context.away) <= PLAUSIBLE
    for measurand in Measurand:
        places = observed.of(measurand)
        chances += len(places) * (len(places) - 1) // 2
        for one, other in combinations(places, 2):
            if observed.rows[one] == observed.rows[other] or max(abs(context.odd[one]), abs(context.odd[other])) < 2.0:
                continue
            if fits[one, observed.rows[other]] and fits[other, observed.rows[one]]:
                found.append((one, other))
    for one, other in found:
        first, second = int(observed.indexes[one]), int(observed.indexes[other])
        changes = (
            OtherTarget(one, int(observed.rows[other]), float(observed.signs[other])),
            OtherTarget(other, int(observed.rows[one]), float(observed.signs[one])),
        )
        exchanged = {
            first: (observed.target(other), observed.reading(one).value),
            second: (observed.target(one), observed.reading(other).value),
        }
        yield Candidate(
            FaultKind.SWAPPED_READINGS,
            (reading_at(first), reading_at(second)),
            changes,
            say("faults.and_stand_in_each", said=context.said(one), other_said=context.said(other)),
            chances,
            correction=Reentered(say("faults.exchange_two"), exchanged),
        )
