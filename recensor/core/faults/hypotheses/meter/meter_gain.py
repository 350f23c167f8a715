"""The meter reads one quantity too high or too low throughout: a weak battery, a meter out of adjustment."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, reading_at
from recensor.core.faults.correction import MeterProperty
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.meter.found import meter_found
from recensor.core.faults.model.changes import Fitted, MeterGain
from recensor.core.quantity import Measurand
from recensor.core.sentences import PENDING, say

_OFF = Fitted(0.0, 0.15, (-0.1, 0.1))


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each quantity of which there are several readings."""
    observed = context.observed
    found = [(measurand, places) for measurand in Measurand if len(places := observed.of(measurand)) > 1]
    for measurand, places in found:
        targets = tuple(reading_at(int(observed.indexes[k])) for k in places)
        yield Candidate(
            FaultKind.METER_GAIN,
            targets,
            (MeterGain(measurand, _OFF),),
            say("faults.meter_shows_every_times", measurand=measurand, value=PENDING),
            len(found),
            Number(1.0, ""),
            correction=meter_found(
                context,
                say("faults.judge_with_gain", measurand=measurand, value=PENDING),
                MeterProperty.GAIN,
                measurand,
            ),
        )
