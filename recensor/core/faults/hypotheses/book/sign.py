"""The sign is the other one: the leads were the other way round, or the minus was not written."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import rewritten
from recensor.core.sentences import say
from recensor.core.slips import turned


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make a reading possible."""
    chances = context.observed.count
    for place in range(context.observed.count):
        reading = context.observed.reading(place)
        if not reading.value.value:
            continue
        shown = turned(reading.value, reading.target.unit)
        if context.is_plausible(place, float(shown)):
            yield rewritten(context, FaultKind.SIGN, place, shown, say("faults.sign_other_one"), chances)
