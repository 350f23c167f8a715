"""A source is in the wrong way round."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, in_setup, part_at
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import SourceReversed


def candidates(scene: FaultContext) -> Iterator[Candidate]:
    """One for each source, and one more for each setup where there are several."""
    found = [(name, setup) for name in scene.sources() for setup in scene.where(name)]
    for name, setup in found:
        words = f"{name} is the wrong way round{in_setup(setup)}."
        mend = Rebuilt(f"Turn {name} round and read again", turned=name, setup=setup)
        yield Candidate(
            FaultKind.PART_REVERSED, (part_at(name),), (SourceReversed(name, setup),), words, len(found), mend=mend
        )
