"""Two parts stand in each other's places. A current through one was read where it is drawn, or where it stands."""

from collections.abc import Iterator
from itertools import combinations

from recensor.core.faults.candidate import Candidate, FaultContext, part_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Change, Exchanged, LeadElsewhere
from recensor.core.sentences import say

# Parts closer to each other than this ratio cannot be told apart, nor does it matter.
_ALIKE = 1.02


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each two parts that differ; two where a current through one of them was read."""
    found = []
    for one, other in combinations(context.resistors(), 2):
        ratio = context.nominal(one) / context.nominal(other)
        if max(ratio, 1.0 / ratio) > _ALIKE:
            found += [(one, other, setup) for setup in context.where(one) if setup in context.where(other)]
    targets = [context.observed.target(place) for place in range(context.observed.count)]
    carrying = {target.part for target in targets if target.is_through}
    for one, other, setup in found:
        ways: list[tuple[Change, ...]] = [(Exchanged((one, other), setup),)]
        if carrying & {one, other}:
            ways.append(tuple(_moved(context, one, other, setup)))
        for k, changes in enumerate(ways):
            yield Candidate(
                FaultKind.EXCHANGED_PARTS,
                (part_at(one), part_at(other)),
                changes,
                say_in_setup(
                    "faults.and_stand_in_each_others",
                    setup,
                    one=one,
                    other=other,
                ),
                len(found) * len(ways),
                correction=Rebuilt(
                    say("faults.exchange_and_and_read", one=one, other=other),
                    exchanged=(one, other),
                    by_part=k > 0,
                    setup=setup,
                ),
            )


def _moved(context: FaultContext, one: str, other: str, setup: str | None) -> Iterator[LeadElsewhere]:
    """Both parts with their leads where the other's are drawn."""
    for part, there in ((one, other), (other, one)):
        for lead, node in enumerate(context.leads(there, setup)):
            yield LeadElsewhere(part, lead, node, setup)
