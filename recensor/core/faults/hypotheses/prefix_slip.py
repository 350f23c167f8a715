"""A prefix was left out or is another: milli for kilo, V for mV."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, Scene
from recensor.core.faults.hypotheses.rewriting import rewritten
from recensor.core.faults.kinds import FaultKind
from recensor.core.slips import scaled

_POWERS = (-3, 3, -6, 6)


def candidates(scene: Scene) -> Iterator[Candidate]:
    """Those that make a reading possible."""
    chances = len(_POWERS) * scene.observed.count
    for place in range(scene.observed.count):
        reading = scene.observed.reading(place)
        for power in _POWERS:
            shown = scaled(reading.value, power, reading.target.unit)
            if shown and scene.is_plausible(place, float(shown)):
                yield rewritten(scene, FaultKind.PREFIX_SLIP, place, shown, "its prefix is another", chances)
