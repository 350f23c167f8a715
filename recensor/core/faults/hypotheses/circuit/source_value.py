"""A source gives another value than it is set to."""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import SourceType
from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at
from recensor.core.faults.correction import Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceGives
from recensor.core.sentences import PENDING, Sentence, say

# The logarithm of the ratio to its setting.
OFF = Fitted(0.0, 0.15, (-0.5, -0.15, 0.15, 0.5))

# No source gives more than so many times what it is set to.
_MOST = 3.0

# That it gives something else in the circuit than by itself has mostly another reason: it sags.
_RARER = 6


@dataclass(frozen=True)
class _OffItsLabel:
    """How a kind of source is off its label, with the kind of sentence that says so."""

    fitted: Fitted
    words: str


# Cells are above their label while they are fresh, and below it when they are worn; a pack without regulation is above
# it as long as it delivers little (common practice, no source).
_BY_TYPE = {
    SourceType.BATTERY: (
        _OffItsLabel(Fitted(0.07, 0.04, (0.07,)), "faults.gives_fresh"),
        _OffItsLabel(Fitted(-0.2, 0.15, (-0.1, -0.4)), "faults.gives_worn"),
    ),
    SourceType.PACK: (
        _OffItsLabel(Fitted(0.2, 0.15, (0.1, 0.3)), "faults.gives_unregulated"),
        _OffItsLabel(OFF, "faults.gives"),
    ),
}
_ANY = (_OffItsLabel(OFF, "faults.gives"),)


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each source altogether, or two by what it is; one under load, and one for each of several setups."""
    sources = context.sources()
    for name in sources:
        part = context.run.sheet.parts[name]
        for off in _BY_TYPE.get(part.source, _ANY) if part.source else _ANY:
            act = say("faults.take_giving", name=name, value=PENDING)
            words = say(off.words, name=name, value=PENDING)
            yield _gives(context, name, None, off.fitted, words, act, len(sources), alone=True)
    under_load = [(name, setup) for name in sources for setup in context.where(name)]
    for name, setup in under_load:
        if setup:
            words = say("faults.gives_in_setup", name=name, value=PENDING, setup=setup)
            act = say("faults.take_giving_in_setup", name=name, value=PENDING, setup=setup)
        else:
            words = say("faults.gives_in_circuit", name=name, value=PENDING)
            act = say("faults.take_giving_in_circuit", name=name, value=PENDING)
        yield _gives(context, name, setup, OFF, words, act, _RARER * (len(under_load) + len(sources)), alone=False)


def _gives(
    context: FaultContext,
    name: str,
    setup: str | None,
    fitted: Fitted,
    words: Sentence,
    act: Sentence,
    chances: float,
    *,
    alone: bool,
) -> Candidate:
    part = context.run.sheet.parts[name]
    stated = float((context.run.sheet.setups[setup].stated(part) if setup else part.nominal) or 0)
    return Candidate(
        FaultKind.SOURCE_VALUE,
        (part_at(name),),
        (SourceGives(name, fitted=fitted, setup=setup, out_of_circuit=alone),),
        words,
        chances,
        Number(stated, part.kind.unit, most=_MOST * stated),
        correction=Restated(act, name, setup=setup),
    )
