"""The sign is the other one: the leads were the other way round, or the minus was not written."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import rewritten
from recensor.core.sentences import say
from recensor.core.slips import turned


def candidates(scene: FaultContext) -> Iterator[Candidate]:
    """Those that make a reading possible."""
    chances = scene.observed.count
    for place in range(scene.observed.count):
        reading = scene.observed.reading(place)
        if not reading.value.value:
            continue
        shown = turned(reading.value, reading.target.unit)
        if scene.is_plausible(place, float(shown)):
            yield rewritten(scene, FaultKind.SIGN, place, shown, say("faults.sign_other_one"), chances)
