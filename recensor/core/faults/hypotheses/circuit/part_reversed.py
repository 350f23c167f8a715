"""A source is in the wrong way round."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, part_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import SourceReversed
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each source, and one more for each setup where there are several."""
    found = [(name, setup) for name in context.sources() for setup in context.where(name)]
    for name, setup in found:
        words = say_in_setup(
            "faults.wrong_way_round",
            setup,
            name=name,
        )
        correction = Rebuilt(say("faults.turn_round_and_read", name=name), turned=name, setup=setup)
        yield Candidate(
            FaultKind.PART_REVERSED,
            (part_at(name),),
            (SourceReversed(name, setup),),
            words,
            len(found),
            correction=correction,
        )
