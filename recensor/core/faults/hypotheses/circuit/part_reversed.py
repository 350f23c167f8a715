"""A source is in the wrong way round, or a diode."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, part_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import LeadElsewhere, SourceReversed
from recensor.core.sentences import say

# A diode is put in the wrong way round more often than a source (common practice, no source).
_OFTEN_TURNED = 4.0


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each source and diode, and one more for each setup where there are several."""
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
    diodes = [name for name in context.passive() if context.run.sheet.parts[name].kind.polarised]
    for name in diodes:
        for setup in context.where(name):
            first, second = context.leads(name, setup)
            yield Candidate(
                FaultKind.PART_REVERSED,
                (part_at(name),),
                (LeadElsewhere(name, 0, second, setup), LeadElsewhere(name, 1, first, setup)),
                say_in_setup("faults.wrong_way_round", setup, name=name),
                len(diodes) / _OFTEN_TURNED,
                correction=Rebuilt(
                    say("faults.turn_round_and_read", name=name), leads={name: (second, first)}, setup=setup
                ),
            )
