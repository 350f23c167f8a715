"""The range was wrong: too small, and the meter shows over-range; far too large, and it shows nothing but zeros."""

import math
from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import RangeTooSmall, Uninformative
from recensor.core.sentences import say

# How likely a zero is where the range is far too large.
_ZERO = 0.5

# Zeros have mostly another reason.
_RARER = 10


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each over-range reading, and one for each zero."""
    observed = context.observed
    zeros = [k for k in range(observed.count) if observed.values[k] == 0.0]
    chances = observed.count + len(observed.over_range)
    unlikely = _RARER * chances
    for k, over_range in enumerate(observed.over_range):
        text = context.said_of(context.run.readings[over_range.index])
        words = say("faults.over_range_because_range", text=text)
        correction = Struck(say("faults.take_larger_range_and"), (over_range.index,))
        yield Candidate(
            FaultKind.WRONG_RANGE,
            (reading_at(over_range.index),),
            (RangeTooSmall(k),),
            words,
            chances,
            correction=correction,
        )
    for k in zeros:
        index = int(observed.indexes[k])
        density = math.log(_ZERO / float(observed.reading(k).value.resolution or 1))
        words = say("faults.zero_because_range_far", said=context.said(k))
        correction = Struck(say("faults.take_smaller_range_and"), (index,))
        yield Candidate(
            FaultKind.WRONG_RANGE,
            (reading_at(index),),
            (Uninformative((k,), density),),
            words,
            unlikely,
            correction=correction,
        )
