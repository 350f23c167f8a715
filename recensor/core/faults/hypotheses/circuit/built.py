"""What stands for a part that is open, or shorted."""

from recensor.core.faults.candidate import FaultContext
from recensor.core.faults.model.changes import Change, LeadElsewhere, ResistanceIs
from recensor.core.sentences import say

# Ohms of an open part, and of a shorted one.
OPEN, SHORT = 1e10, 0.05

# An empty row of the board, as a node.
EMPTY_ROW = say("faults.row_own")


def opened(context: FaultContext, name: str, setup: str | None) -> Change:
    """A part through which nothing flows in a circuit.

    Beside a diode, on which the least current leaves volts, one of its leads touches nothing.
    """
    if any(context.run.sheet.parts[part].kind.polarised for part in context.passive() if context.where(part)):
        return LeadElsewhere(name, 1, None, setup)
    return ResistanceIs(name, OPEN, out_of_circuit=False, setup=setup)
