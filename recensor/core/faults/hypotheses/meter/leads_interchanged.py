"""The meter's leads were in each other's jacks, or each in the other hand, for the whole job: all signs are turned."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.quantity import CURRENT, VOLTAGE
from recensor.core.sentences import say
from recensor.core.slips import turned


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """Of each meter: its voltages, its currents, and both."""
    observed = context.observed
    meters = dict.fromkeys(observed.reading(k).meter for k in range(observed.count))
    for meter in meters:
        for measurands in ((VOLTAGE,), (CURRENT,), (VOLTAGE, CURRENT)):
            places = [k for k in observed.of(*measurands) if observed.reading(k).meter == meter]
            if len(places) < 2 or len({observed.measurands[k] for k in places}) < len(measurands):
                continue
            changes = tuple(OtherTarget(k, int(observed.rows[k]), -float(observed.signs[k])) for k in places)
            indexes = [int(observed.indexes[k]) for k in places]
            again = {
                index: (observed.target(k), turned(observed.reading(k).value, observed.target(k).unit))
                for index, k in zip(indexes, places, strict=True)
                if observed.reading(k).value.value
            }
            yield Candidate(
                FaultKind.LEADS_INTERCHANGED,
                tuple(map(reading_at, indexes)),
                changes,
                say("faults.leads_interchanged", measurands=" and ".join(map(str, measurands))),
                3 * len(meters),
                correction=Reentered(say("faults.turn_all_signs"), again),
            )
