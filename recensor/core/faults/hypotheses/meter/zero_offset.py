"""The meter does not read zero with nothing on it: the same amount comes to all readings of a quantity."""

from collections.abc import Iterator

import numpy as np

from recensor.core.faults.candidate import Candidate, FaultContext, Number, reading_at
from recensor.core.faults.correction import MeterProperty
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.meter.found import meter_found
from recensor.core.faults.model.changes import AddedToAll, Fitted
from recensor.core.quantity import Measurand
from recensor.core.sentences import PENDING, say

# It is a small part of the largest reading (common practice, no source).
_SHARE = 0.05


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each quantity of which there are several readings."""
    observed = context.observed
    found = [(measurand, places) for measurand in Measurand if len(places := observed.of(measurand)) > 2]
    for measurand, places in found:
        scale = _SHARE * float(np.abs(observed.values[places]).max())
        if not scale:
            continue
        yield Candidate(
            FaultKind.ZERO_OFFSET,
            tuple(reading_at(int(observed.indexes[k])) for k in places),
            (AddedToAll(measurand, scale, Fitted(0.0, 1.0, (-0.5, 0.5))),),
            say("faults.zero_offset", measurand=measurand, value=PENDING),
            len(found),
            Number(scale, measurand.unit, is_log=False),
            correction=meter_found(
                context,
                say("faults.judge_with_offset", measurand=measurand, value=PENDING),
                MeterProperty.OFFSET,
                measurand,
            ),
        )
