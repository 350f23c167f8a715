"""A source gives another value than it is set to."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at, say_in_setup
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceGives
from recensor.core.sentences import PENDING, say

# The logarithm of the ratio to its setting.
OFF = Fitted(0.0, 0.2, (-0.7, -0.2, 0.2, 0.6))


# No source gives more than so many times what it is set to.
_MOST = 3.0

# That it gives something else in the circuit than by itself has mostly another reason: it sags.
_RARER = 6


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each source altogether, one under load, and one for each setup where there are several."""
    found: list[tuple[str, str | None, bool]] = [(name, None, True) for name in context.sources()]
    found += [(name, setup, False) for name in context.sources() for setup in context.where(name)]
    for name, setup, out_of_circuit in found:
        part = context.run.sheet.parts[name]
        stated = context.run.sheet.setups[setup].stated(part) if setup else part.nominal
        if out_of_circuit or setup:
            words = say_in_setup("faults.gives", setup, name=name, value=PENDING)
            act = say_in_setup("faults.take_giving", setup, name=name, value=PENDING)
        else:
            words = say("faults.gives_in_circuit", name=name, value=PENDING)
            act = say("faults.take_giving_in_circuit", name=name, value=PENDING)
        yield Candidate(
            FaultKind.SOURCE_VALUE,
            (part_at(name),),
            (SourceGives(name, fitted=OFF, setup=setup, out_of_circuit=out_of_circuit),),
            words,
            sum(everywhere for _, _, everywhere in found) if out_of_circuit else _RARER * len(found),
            Number(float(stated or 0), part.kind.unit, most=_MOST * float(stated or 0)),
            correction=Restated(act, name, setup=setup),
        )
