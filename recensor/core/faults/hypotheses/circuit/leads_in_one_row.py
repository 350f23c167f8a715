"""Both leads of a part are in one row of the board: it is shorted there, and reads right by itself."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, part_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import SHORT
from recensor.core.faults.hypotheses.circuit.part_shorted import SHORTED
from recensor.core.faults.model.changes import ResistanceIs
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part that is in a circuit."""
    found = [(name, setup) for name in context.passive() for setup in context.where(name)]
    for name, setup in found:
        changes = (ResistanceIs(name, ohms=1.0, fitted=SHORTED, out_of_circuit=False, setup=setup),)
        words = say_in_setup(
            "faults.both_leads_joined_one",
            setup,
            name=name,
        )
        correction = Rebuilt(say("faults.part_leads_and_read", name=name), ohms={name: SHORT}, setup=setup)
        yield Candidate(FaultKind.LEADS_IN_ONE_ROW, (part_at(name),), changes, words, len(found), correction=correction)
