"""The decimal point is one or two places off."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import is_shown, rewritten, scaled_readings
from recensor.core.sentences import say

_POWERS = (-1, 1, -2, 2)


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make a reading possible, and that its display could show."""
    chances = len(_POWERS) * context.observed.count
    for place, shown in scaled_readings(context, _POWERS):
        if is_shown(context, place, shown):
            yield rewritten(context, FaultKind.DECIMAL_SLIP, place, shown, say("faults.decimal_point_off"), chances)
