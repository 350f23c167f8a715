"""A part is shorted inside: a few milliohms to half an ohm, in the circuit and by itself."""

import math
from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import SHORT
from recensor.core.faults.model.changes import Fitted, ResistanceIs
from recensor.core.quantity import OHM
from recensor.core.sentences import say

# Where the logarithm of a short's ohms lies beforehand: 5 mΩ to 0.5 Ω.
SHORTED = Fitted(math.log(SHORT), 1.2, (math.log(SHORT),))


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part."""
    names = context.passive()
    for name in names:
        changes = (ResistanceIs(name, ohms=1.0, fitted=SHORTED),)
        words = say("faults.shorted", name=name)
        correction = Rebuilt(say("faults.exchange_and_read_again", name=name), ohms={name: SHORT})
        yield Candidate(
            FaultKind.PART_SHORTED,
            (part_at(name),),
            changes,
            words,
            len(names),
            Number(1.0, OHM),
            correction=correction,
        )
