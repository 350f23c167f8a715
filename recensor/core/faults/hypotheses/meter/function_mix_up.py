"""The meter was set to another quantity: what was written is the current, voltage or resistance at the same place."""

import math
from collections.abc import Iterator

from recensor.core.circuit import Across, Target, Through
from recensor.core.faults.candidate import PLAUSIBLE, Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.sentences import say

# By how much the other function of a meter may be off, as a ratio (common practice, no source).
_OTHER_FUNCTION = 0.01

# Digits are written down, and the prefix of the other quantity is not.
_SHARES = (1.0, 1e3, 1e-3, 1e6)


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each reading that is another quantity of its place, in some prefix."""
    observed, found = context.observed, []
    for place in range(observed.count):
        for other in _others(context, observed.target(place)):
            row = context.row(other)
            if row is None:
                continue
            for share in _SHARES:
                value, should = abs(observed.values[place]), share * abs(context.expected[row])
                if should and abs(value - should) <= PLAUSIBLE * share * context.broad[row] + 0.03 * value:
                    found.append(
                        (place, other, row, math.copysign(share, observed.values[place] * context.expected[row]))
                    )
    for place, other, row, share in found:
        index = int(observed.indexes[place])
        text = context.said(place)
        words = say("faults.written", text=text, measurand=other.measurand, measurands=observed.measurands[place])
        yield Candidate(
            FaultKind.FUNCTION_MIX_UP,
            (reading_at(index),),
            (OtherTarget(place, row, share, _OTHER_FUNCTION),),
            words,
            3 * observed.count,
            correction=Struck(say("faults.set_meter_and_read", measurands=observed.measurands[place]), (index,)),
        )


def _others(context: FaultContext, target: Target) -> Iterator[Target]:
    """The other quantities at the place of a target."""
    setup = context.run.sheet.setups.get(target.setup or "")
    if setup is None:
        return
    if target.is_through:
        leads = setup.connections[target.part]
        if leads[0] != leads[1]:
            yield Across(VOLTAGE, leads, setup.name)
            yield Across(RESISTANCE, leads, setup.name)
    elif target.is_across:
        if target.measurand is VOLTAGE:
            yield Across(RESISTANCE, target.nodes, setup.name)
            yield from (Through(name, setup.name) for name in setup.across(*target.nodes))
        else:
            yield Across(VOLTAGE, target.nodes, setup.name)
