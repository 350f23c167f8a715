"""A part is open inside: nothing flows through it, in the circuit or by itself."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, part_at
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import OPEN, opened
from recensor.core.faults.model.changes import ResistanceIs
from recensor.core.sentences import say

# A lamp burns out so many times as often as another part fails (common practice, no source).
_BURNS_OUT = 6.0


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part."""
    names = context.passive()
    for name in names:
        changes = (opened(context, name, None), ResistanceIs(name, ohms=OPEN, in_circuit=False))
        is_lamp = context.run.sheet.parts[name].kind.has_cold
        words = say("faults.burnt_out_nothing_flows" if is_lamp else "faults.open_nothing_flows_through", name=name)
        correction = Rebuilt(say("faults.exchange_and_read_again", name=name), ohms={name: OPEN})
        chances = len(names) / _BURNS_OUT if is_lamp else len(names)
        yield Candidate(FaultKind.PART_OPEN, (part_at(name),), changes, words, chances, correction=correction)
