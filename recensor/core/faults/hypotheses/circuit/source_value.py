"""A source gives another value than it is set to."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, in_setup, part_at
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceGives

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
        where = "" if by_itself else in_setup(setup) or " in the circuit"
        words = f"{name} gives {{value}}{where}."
        yield Candidate(
            FaultKind.SOURCE_VALUE,
            (part_at(name),),
            (SourceGives(name, fitted=OFF, setup=setup, by_itself=by_itself),),
            words,
            len(found) if by_itself else _RARER * len(found),
            Number(float(stated or 0), part.kind.unit),
            mend=Restated(f"Take {name} as giving {{value}}{where}", name, setup=setup),
        )
