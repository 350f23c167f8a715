"""One digit of the display was taken for another, or written as another: which, only the display can say.

So nothing is entered in its place: it is struck, and read again.
"""

from collections.abc import Iterator
from dataclasses import replace

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import likeliest, rewritten
from recensor.core.sentences import say
from recensor.core.slips import one_digit_other

# So many are tried of each reading.
_MOST = 4


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Those that make possible a reading that does not fit the others."""
    texts = (context.observed.reading(place).value.text for place in range(context.observed.count))
    chances = 9 * sum(character.isdigit() for text in texts for character in text)
    for place, shown in likeliest(context, one_digit_other, _MOST):
        why = say("faults.digit_another")
        told = rewritten(context, FaultKind.MISREAD_DIGIT, place, shown, why, chances, is_firm=True)
        again = Struck(say("faults.strike_and_read_again"), (int(context.observed.indexes[place]),))
        yield replace(told, correction=again)
