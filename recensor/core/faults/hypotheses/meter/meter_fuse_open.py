"""The fuse of the meter's current jack is blown: every current reads zero, and the branch is open while it is read."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import NoCurrent
from recensor.core.quantity import CURRENT
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One where currents read zero from some reading on."""
    observed = context.observed
    places = observed.of(CURRENT)
    zero = [k for k in places if abs(observed.values[k]) <= 3.0 * observed.by_digits[k]]
    blown = [k for k in places if zero and k >= zero[0]]
    if not blown:
        return
    indexes = tuple(int(observed.indexes[k]) for k in blown)
    yield Candidate(
        FaultKind.METER_FUSE_OPEN,
        tuple(map(reading_at, indexes)),
        (NoCurrent(blown[0]),),
        say("faults.fuse_meters_current_jack"),
        correction=Struck(say("faults.change_fuse_and_read"), indexes),
    )
