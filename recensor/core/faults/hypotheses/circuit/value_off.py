"""A part has another value: its own reading shows it, or another part stands in the circuit than the one read."""

from collections.abc import Iterator

from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at, say_in_setup
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, ResistanceIs
from recensor.core.quantity import OHM
from recensor.core.sentences import PENDING, say

# The logarithm of the ratio to what the part should be, with places to look for it on both sides.
OFF = Fitted(0.0, 1.0, (-2.0, -1.0, -0.35, 0.35, 1.0, 2.0))


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part; where it was read one more, or one for each setup: what stands there is another part."""
    read = context.read_alone
    found = [(name, setup) for name in context.resistors() if name in read for setup in context.where(name)]
    chances = len(found) + len(context.resistors())
    for name in context.resistors():
        part, nominal = context.run.sheet.parts[name], context.nominal(name)
        if part.nominal is not None:
            changes = (ResistanceIs(name, fitted=OFF),)
            words = say("faults.part_is", name=name, value=PENDING)
            correction, number = (
                Restated(say("faults.take", name=name, value=PENDING), name),
                Number(nominal, OHM, part=name),
            )
            yield Candidate(
                FaultKind.VALUE_OFF,
                (part_at(name),),
                changes,
                words,
                chances,
                number,
                correction=correction,
            )
    for name, setup in found:
        changes = (ResistanceIs(name, fitted=OFF, out_of_circuit=False, setup=setup),)
        words = say_in_setup("faults.what_stands_another_part", setup, name=name, value=PENDING)
        nominal = context.nominal(name)
        number = Number(nominal, OHM, part=name)
        correction = Restated(
            say_in_setup(
                "faults.take_for",
                setup,
                name=name,
                value=PENDING,
            ),
            name,
            setup=setup or next(iter(context.setups), None),
        )
        yield Candidate(FaultKind.VALUE_OFF, (part_at(name),), changes, words, chances, number, correction=correction)
