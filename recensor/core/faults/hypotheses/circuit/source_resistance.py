"""A source sags: it has a resistance of its own. What it sees says of which size that can be."""

import math
from collections.abc import Iterator

from recensor.core.circuit import SourceType
from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceResistance
from recensor.core.quantity import OHM, VOLT
from recensor.core.sentences import PENDING, say

# Where it is looked for, as shares of what the source sees.
_SHARES = (0.02, 0.1, 0.5)

# A bench supply does not sag before its limit (common practice, no source).
_RARER = 5


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each voltage source that delivers a current."""
    found = []
    for name in context.sources():
        if context.run.sheet.parts[name].kind.unit != VOLT:
            continue
        loads = [context.load(name, setup) for setup in context.setups.values() if name in setup.connections]
        seen = [volts / amperes for volts, amperes in (one for one in loads if one)]
        if seen:
            found.append((name, min(seen)))
    for name, load in found:
        starts = tuple(math.log(share * load) for share in _SHARES)
        fitted = Fitted(math.log(0.05 * load), 1.5, starts)
        yield Candidate(
            FaultKind.SOURCE_RESISTANCE,
            (part_at(name),),
            (SourceResistance(name, fitted),),
            say("faults.sags_under_load_inside", name=name, value=PENDING),
            len(found) * (_RARER if context.run.sheet.parts[name].source is SourceType.SUPPLY else 1),
            Number(1.0, OHM),
            correction=Restated(say("faults.take_having_inside", name=name, value=PENDING), name, inside=True),
        )
