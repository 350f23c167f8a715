"""A prefix was left out or is another: milli for kilo, V for mV."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import rewritten, scaled_readings
from recensor.core.sentences import say

_POWERS = (-3, 3, -6, 6)


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make a reading possible."""
    chances = len(_POWERS) * context.observed.count
    for place, shown in scaled_readings(context, _POWERS):
        yield rewritten(context, FaultKind.PREFIX_SLIP, place, shown, say("faults.prefix_another"), chances)
