"""What a meter shows beyond its range was written as a number: the bare 1 of some displays."""

import math
from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import odd_places
from recensor.core.faults.model.changes import Uninformative
from recensor.core.sentences import say

# How such displays show it, and how likely that is written down as it stands.
_TEXTS, _SO_WRITTEN = ("1", "1.", "-1"), 0.5


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each reading that is a bare 1 and does not fit."""
    observed = context.observed
    for place in odd_places(context):
        reading = observed.reading(place)
        digits = reading.value.text.strip().rstrip("ΩVAmkMµu ")
        if digits not in _TEXTS:
            continue
        index = int(observed.indexes[place])
        density = math.log(_SO_WRITTEN / float(reading.value.resolution or 1))
        yield Candidate(
            FaultKind.OVER_RANGE_AS_NUMBER,
            (reading_at(index),),
            (Uninformative((place,), density),),
            say("faults.no_number_alone_what", said=context.said(place)),
            1,
            correction=Struck(say("faults.take_larger_range_and"), (index,)),
        )
