"""What was written is not what the meter showed: the candidates of every slip of the pen."""

from collections.abc import Iterable, Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Rewritten
from recensor.core.figures import as_read
from recensor.core.quantity import Quantity
from recensor.core.sentences import say
from recensor.core.slips import scaled

# Neighbours on the same range are within this ratio.
_NEIGHBOURS = 3.0


def rewritten(
    context: FaultContext, kind: FaultKind, place: int, shown: Quantity, why: str, chances: float
) -> Candidate:
    """The hypothesis that a reading was shown as something else than it was written."""
    observed = context.observed
    index, reading = int(observed.indexes[place]), observed.reading(place)
    precision = observed.precision(place, shown)
    unit = reading.target.unit
    stretch = float((shown.resolution or 1) / (reading.value.resolution or 1))
    text = as_read(shown, unit)
    change = Rewritten(
        place, float(shown), precision.by_digits, observed.gain_columns(precision.gains), max(stretch, 1e-12)
    )
    return Candidate(
        kind,
        (reading_at(index),),
        (change,),
        say("faults.reading_is", said=context.said(place), text=text, why=why),
        chances,
        value=float(shown),
        unit=unit,
        correction=Reentered(say("faults.enter_again", text=text), {index: (reading.target, shown)}),
    )


def scaled_readings(context: FaultContext, powers: Iterable[int]) -> Iterator[tuple[int, Quantity]]:
    """Each reading as its digits would be times these powers of ten, where that makes it possible."""
    for place in range(context.observed.count):
        reading = context.observed.reading(place)
        for power in powers:
            shown = scaled(reading.value, power, reading.target.unit)
            if shown and context.is_plausible(place, float(shown)):
                yield place, shown


def is_shown(context: FaultContext, place: int, shown: Quantity) -> bool:
    """Whether a display that shows its neighbours so could show this: their step is its step."""
    observed = context.observed
    mine = observed.reading(place)
    steps = [
        float(other.value.resolution or 0)
        for k in observed.of(observed.measurands[place])
        if k != place
        and (other := observed.reading(k)).meter == mine.meter
        and abs(float(other.value)) > 0.0
        and 1.0 / _NEIGHBOURS <= abs(float(shown) / float(other.value)) <= _NEIGHBOURS
    ]
    step = float(shown.resolution or 0)
    return not steps or any(0.9 * step <= one <= 1.1 * step for one in steps)


def odd_places(context: FaultContext, least: float = 2.0) -> Iterator[int]:
    """The readings that do not fit what all others say of them."""
    yield from (k for k in range(context.observed.count) if abs(context.odd[k]) >= least)
