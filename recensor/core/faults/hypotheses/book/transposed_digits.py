"""Two neighbouring digits were written the other way round."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import likeliest, rewritten
from recensor.core.sentences import say
from recensor.core.slips import transposed

# So many are tried of each reading.
_MOST = 2


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make possible a reading that does not fit the others."""
    chances = 2 * context.observed.count
    for place, shown in likeliest(context, transposed, _MOST):
        why = say("faults.two_digits_transposed")
        yield rewritten(context, FaultKind.TRANSPOSED_DIGITS, place, shown, why, chances, is_firm=True)
