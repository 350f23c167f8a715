"""A part is open inside: nothing flows through it, in the circuit or by itself."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, Scene, part_at
from recensor.core.faults.changes import Stands
from recensor.core.faults.hypotheses.built import OPEN
from recensor.core.faults.kinds import FaultKind
from recensor.core.faults.mends import Rebuilt


def candidates(scene: Scene) -> Iterator[Candidate]:
    """One for each part."""
    names = scene.resistors()
    for name in names:
        changes = (Stands(name, ohms=OPEN),)
        words = f"{name} is open: nothing flows through it."
        mend = Rebuilt(f"Exchange {name} and read again", ohms={name: OPEN})
        yield Candidate(FaultKind.PART_OPEN, (part_at(name),), changes, words, len(names), mend=mend)
