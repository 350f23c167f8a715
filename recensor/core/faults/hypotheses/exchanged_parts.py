"""Two parts stand in each other's places."""

from collections.abc import Iterator
from itertools import combinations

from recensor.core.faults.candidate import Candidate, Scene, in_setup, part_at
from recensor.core.faults.changes import Exchanged
from recensor.core.faults.kinds import FaultKind
from recensor.core.faults.mends import Rebuilt

# Parts closer to each other than this ratio cannot be told apart, nor does it matter.
_ALIKE = 1.02


def candidates(scene: Scene) -> Iterator[Candidate]:
    """One for each two parts that differ."""
    found = []
    for one, other in combinations(scene.resistors(), 2):
        ratio = scene.nominal(one) / scene.nominal(other)
        if max(ratio, 1.0 / ratio) > _ALIKE:
            found += [(one, other, setup) for setup in scene.where(one) if setup in scene.where(other)]
    for one, other, setup in found:
        words = f"{one} and {other} stand in each other's places{in_setup(setup)}."
        mend = Rebuilt(f"Exchange {one} and {other} and read again", exchanged=(one, other), setup=setup)
        yield Candidate(
            FaultKind.EXCHANGED_PARTS,
            (part_at(one), part_at(other)),
            (Exchanged((one, other), setup),),
            words,
            len(found),
            mend=mend,
        )
