"""What was written is not what the meter showed: the candidates of every slip of the pen."""

from collections.abc import Callable, Iterable, Iterator
from operator import itemgetter

from recensor.core.faults.candidate import PLAUSIBLE, Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Rewritten
from recensor.core.figures import as_read
from recensor.core.quantity import Quantity
from recensor.core.sentences import say
from recensor.core.slips import scaled

# So many of the readings that do not fit are thought to have a digit that is another.
_MOST_PLACES = 12

# Neighbours on the same range are within this ratio.
_NEIGHBOURS = 3.0


def rewritten(
    context: FaultContext,
    kind: FaultKind,
    place: int,
    shown: Quantity,
    why: str,
    chances: float,
    *,
    is_firm: bool = False,
) -> Candidate:
    """The hypothesis that a reading was shown as something else than it was written; one `is_firm` fits as it is."""
    observed = context.observed
    index, reading = int(observed.indexes[place]), observed.reading(place)
    precision = observed.precision(place, shown)
    unit = reading.target.unit
    stretch = float((shown.resolution or 1) / (reading.value.resolution or 1))
    text = as_read(shown, unit)
    change = Rewritten(
        place,
        float(shown),
        precision.by_digits,
        observed.gain_columns(precision.gains),
        max(stretch, 1e-12),
        is_firm,
        observed.burden_at(place, shown),
        context.unmarked_at(place) if shown.value else "",
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
    """Whether a display that shows its neighbours so could show this: their step is its step.

    Between the two may lie the edge of a range: the larger has then ten times the step of the smaller.
    """
    observed = context.observed
    mine = observed.reading(place)
    size, step = abs(float(shown)), float(shown.resolution or 0)
    steps = [
        (abs(float(other.value)), float(other.value.resolution or 0))
        for k in observed.of(observed.measurands[place])
        if k != place
        and (other := observed.reading(k)).meter == mine.meter
        and abs(float(other.value)) > 0.0
        and 1.0 / _NEIGHBOURS <= size / abs(float(other.value)) <= _NEIGHBOURS
    ]
    return not steps or any(
        0.9 <= step / (own * edge) <= 1.1 for other, own in steps for edge in (1.0, 10.0 if size > other else 0.1)
    )


def likeliest(
    context: FaultContext, texts: Callable[[Quantity, str], Iterable[Quantity]], most: int
) -> Iterator[tuple[int, Quantity]]:
    """Of each reading that does not fit the others so many of the texts that it may have been, the nearest ones."""
    observed = context.observed
    worst = sorted(odd_places(context), key=lambda k: -abs(context.odd[k]))[:_MOST_PLACES]
    for place in worst:
        row, reading = observed.rows[place], observed.reading(place)
        off = [
            (abs(float(shown) - context.reads[place, row]) / context.off[place, row], shown)
            for shown in texts(reading.value, reading.target.unit)
        ]
        near = sorted((one for one in off if one[0] <= PLAUSIBLE or context.unmarked_at(place)), key=itemgetter(0))
        yield from ((place, shown) for _, shown in near[:most])


def odd_places(context: FaultContext, least: float = 2.0) -> Iterator[int]:
    """The readings that do not fit what all others say of them."""
    yield from (k for k in range(context.observed.count) if abs(context.odd[k]) >= least)
