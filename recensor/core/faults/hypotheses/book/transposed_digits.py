"""Two neighbouring digits were written the other way round."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import odd_places, rewritten
from recensor.core.sentences import say
from recensor.core.slips import transposed


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make possible a reading that does not fit the others."""
    chances = 2 * context.observed.count
    for place in odd_places(context):
        reading = context.observed.reading(place)
        for shown in transposed(reading.value, reading.target.unit):
            if context.is_plausible(place, float(shown)):
                why = say("faults.two_digits_transposed")
                yield rewritten(context, FaultKind.TRANSPOSED_DIGITS, place, shown, why, chances)
