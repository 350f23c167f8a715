"""A part was read by itself while it was still in the circuit: the other paths were read in parallel with it."""

from collections.abc import Iterator

from recensor.core.circuit import Across
from recensor.core.faults.candidate import PLAUSIBLE, Candidate, FaultContext, reading_at
from recensor.core.faults.correction import Reentered, Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.book.rewriting import odd_places
from recensor.core.faults.model.changes import OtherTarget
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part, each of its circuits, and the sources taken out or left in, where it makes a difference."""
    observed, found, chances = context.observed, [], 0
    odd = set(odd_places(context, 1.0))
    for place in range(observed.count):
        target = observed.target(place)
        if not target.is_part_alone or target.measurand is not RESISTANCE:
            continue
        for setup in context.run.sheet.setups.values():
            leads = setup.connections.get(target.part)
            if leads is None or leads[0] == leads[1]:
                continue
            chances += 2
            across = Across(RESISTANCE, leads, setup.name)
            for left_in in (False, True):
                row = context.row(across, left_in=left_in)
                if row is None or place not in odd:
                    continue
                if abs(context.away[place, row]) <= PLAUSIBLE:
                    found.append((place, target.part, across, row, left_in))
    for place, part, across, row, left_in in found:
        index = int(observed.indexes[place])
        how = "faults.read_in_circuit_with_supply" if left_in else "faults.read_while_in_circuit"
        again = say("faults.take_out_and_read", part=part)
        correction = (
            Struck(again, (index,)) if left_in else Reentered(again, {index: (across, observed.reading(place).value)})
        )
        yield Candidate(
            FaultKind.READ_IN_CIRCUIT,
            (reading_at(index),),
            (OtherTarget(place, row),),
            say(how, part=part),
            chances,
            correction=correction,
        )
