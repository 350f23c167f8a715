"""The voltmeter's input loads what it reads."""

import math
from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, reading_at
from recensor.core.faults.correction import MeterProperty
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.meter.found import meter_found
from recensor.core.faults.model.changes import Fitted, VoltmeterLoading
from recensor.core.quantity import OHM, VOLTAGE
from recensor.core.sentences import PENDING, say

_OHMS = Fitted(math.log(1e6), 1.5, (math.log(1e5), math.log(1e6)))

# No voltmeter has less inside (common practice, no source).
_LEAST = 1e5


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One where any voltage was read in a circuit."""
    observed = context.observed
    places = [k for k in observed.of(VOLTAGE) if observed.input_siemens[k] or observed.target(k).setup]
    if places:
        targets = tuple(reading_at(int(observed.indexes[k])) for k in places)
        words = say("faults.voltmeter_loading", value=PENDING)
        act = say("faults.judge_with_voltmeter", value=PENDING)
        yield Candidate(
            FaultKind.VOLTMETER_LOADING,
            targets,
            (VoltmeterLoading(_OHMS),),
            words,
            1,
            Number(1.0, OHM, least=_LEAST),
            correction=meter_found(context, act, MeterProperty.INPUT, VOLTAGE),
        )
