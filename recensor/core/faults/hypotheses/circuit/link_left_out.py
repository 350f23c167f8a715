"""The loop was opened for a current and not closed again: from there on the branch is open."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, part_at
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import OPEN
from recensor.core.faults.model.changes import LeadElsewhere, ResistanceIs, SinceReading
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each current after which something else was read in its setup."""
    observed, found = context.observed, []
    for place in range(observed.count - 1):
        target = observed.target(place)
        if not target.is_through:
            continue
        part = target.at or target.part
        later = [k for k in range(place + 1, observed.count) if observed.target(k).setup == target.setup]
        if later and not any(observed.target(k).key == target.key for k in later[:1]):
            found.append((place, part, target.setup, later))
    for place, part, setup, later in found:
        opened = (
            LeadElsewhere(part, 1, None, setup)
            if context.run.sheet.parts[part].kind.is_source
            else ResistanceIs(part, ohms=OPEN, out_of_circuit=False, setup=setup)
        )
        words = say("faults.after_current_through_read", part=part)
        indexes = tuple(int(observed.indexes[k]) for k in later)
        correction = Struck(say("faults.put_link_beside_back", part=part), indexes)
        yield Candidate(
            FaultKind.LINK_LEFT_OUT,
            (part_at(part),),
            (opened, SinceReading(place + 1)),
            words,
            len(found),
            correction=correction,
        )
