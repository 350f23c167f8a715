"""A source is in its current limit: it delivers that current, at whatever voltage it takes."""

import math
from collections.abc import Iterator

from recensor.core.circuit import SourceType
from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import CurrentLimited, Fitted
from recensor.core.quantity import AMPERE, VOLT
from recensor.core.sentences import PENDING, say

_SHARES = (0.9, 0.5, 0.2)

# Where nobody stated a limit it rather sags: but a bench supply, and cells have none (common practice, no source).
_RARER = {None: 3, SourceType.SUPPLY: 1, SourceType.PACK: 5, SourceType.BATTERY: 20}


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each voltage source and each setup in which it delivers a current."""
    found = []
    for name in context.sources():
        if context.run.sheet.parts[name].kind.unit != VOLT:
            continue
        for setup in context.where(name):
            loads = [context.load(name, s) for n, s in context.setups.items() if setup in (None, n)]
            delivered = [amperes for _, amperes in (load for load in loads if load)]
            if delivered:
                found.append((name, setup, max(delivered)))
    for name, setup, amperes in found:
        part = context.run.sheet.parts[name]
        fitted = Fitted(math.log(0.5 * amperes), 0.6, tuple(math.log(share * amperes) for share in _SHARES))
        if part.limit is not None:
            fitted = Fitted(math.log(float(part.limit)), 0.05, (math.log(float(part.limit)),))
        yield Candidate(
            FaultKind.SOURCE_LIMIT,
            (part_at(name),),
            (CurrentLimited(name, fitted, setup),),
            say_in_setup("faults.in_current_limit_delivers", setup, name=name, value=PENDING),
            len(found) if part.limit is not None else _RARER[part.source] * len(found),
            Number(1.0, AMPERE),
            correction=Rebuilt(say("faults.turn_limit_up_and", name=name), setup=setup),
        )
