"""The ammeter's own resistance lowers the current that it reads: volts at full scale, or the same ohms always."""

import math
from collections import Counter
from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, reading_at
from recensor.core.faults.correction import MeterProperty
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.meter.found import meter_found
from recensor.core.faults.model.changes import AmmeterBurden, Fitted
from recensor.core.quantity import CURRENT, OHM
from recensor.core.sentences import PENDING, say

_VOLTS = Fitted(math.log(0.5), 1.0, (math.log(0.3), math.log(1.5)))
_OHMS = Fitted(math.log(30.0), 1.5, (math.log(10.0), math.log(100.0)))

# No ammeter has more inside (common practice, no source).
_MOST = 1e3


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Two where any current was read."""
    observed = context.observed
    places = observed.of(CURRENT)
    if not places:
        return
    targets = tuple(reading_at(int(observed.indexes[k])) for k in places)
    words = say("faults.ammeter_resistance", value=PENDING)
    act = say("faults.judge_with_ammeter", value=PENDING)
    usual = Counter(float(observed.full[k]) for k in places).most_common(1)[0][0]
    kind = FaultKind.AMMETER_RESISTANCE
    if len({float(observed.full[k]) for k in places}) > 1:
        number = Number(1.0 / usual, OHM, most=_MOST)
        in_volts = meter_found(context, act, MeterProperty.DROP, CURRENT, full=usual)
        yield Candidate(kind, targets, (AmmeterBurden(_VOLTS),), words, 2, number, correction=in_volts)
    in_ohms, number = meter_found(context, act, MeterProperty.BURDEN, CURRENT), Number(1.0, OHM, most=_MOST)
    yield Candidate(kind, targets, (AmmeterBurden(_OHMS, same_ohms=True),), words, 2, number, correction=in_ohms)
