"""A source gives another value than it is set to."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at, say_in_setup
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceGives
from recensor.core.sentences import PENDING, say

# The logarithm of the ratio to its setting.
OFF = Fitted(0.0, 0.4, (-0.7, -0.2, 0.2, 0.6))


# That it gives something else in the circuit than by itself has mostly another reason: it sags.
_RARER = 6


def candidates(scene: FaultContext) -> Iterator[Candidate]:
    """One for each source altogether, one under load, and one for each setup where there are several."""
    found: list[tuple[str, str | None, bool]] = [(name, None, True) for name in scene.sources()]
    found += [(name, setup, False) for name in scene.sources() for setup in scene.where(name)]
    for name, setup, by_itself in found:
        part = scene.run.sheet.parts[name]
        stated = scene.run.sheet.setups[setup].stated(part) if setup else part.nominal
        if by_itself or setup:
            words = say_in_setup("faults.gives", setup, name=name, value=PENDING)
            act = say_in_setup("faults.take_giving", setup, name=name, value=PENDING)
        else:
            words = say("faults.gives_in_circuit", name=name, value=PENDING)
            act = say("faults.take_giving_in_circuit", name=name, value=PENDING)
        yield Candidate(
            FaultKind.SOURCE_VALUE,
            (part_at(name),),
            (SourceGives(name, fitted=OFF, setup=setup, by_itself=by_itself),),
            words,
            len(found) if by_itself else _RARER * len(found),
            Number(float(stated or 0), part.kind.unit),
            mend=Restated(act, name, setup=setup),
        )
