"""What a source gives changed while a setup was read: steadily, or at once, as when somebody turns its knob."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from recensor.core.faults.candidate import Candidate, FaultContext, Number, part_at
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.changes import Fitted, SourceDrifts, is_driven
from recensor.core.sentences import PENDING, say

_STEADY, _AT_ONCE = Fitted(0.0, 0.06, (-0.05, 0.05)), Fitted(0.0, 0.3, (-0.1, 0.1))

# Of fewer readings a drift cannot be told.
_FEWEST = 4


@dataclass(frozen=True)
class _Drifting:
    """A source, the setups in which it changes, and how much of the change each reading has."""

    source: str
    setups: Sequence[str]
    weights: tuple[tuple[int, float], ...]
    fitted: Fitted


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """For each source and setup, and all setups, one that drifts throughout; one that steps before each reading."""
    observed, drifts = context.observed, list[_Drifting]()
    for name in context.sources():
        several = [setup for setup in context.setups.values() if name in setup.driving(context.run.sheet.parts)]
        groups = [[setup.name] for setup in several]
        if len(several) > 1:
            groups.append([setup.name for setup in several])
        for setups in groups:
            places = [k for k in range(observed.count) if is_driven(observed.target(k), setups)]
            if len(places) < _FEWEST:
                continue
            last = len(places) - 1
            drifts.append(_Drifting(name, setups, tuple((k, n / last) for n, k in enumerate(places)), _STEADY))
            for n in range(2, last) if len(setups) == 1 else ():
                drifts.append(_Drifting(name, setups, tuple((k, 1.0) for k in places[n:]), _AT_ONCE))
    for drift in drifts:
        part, first = context.run.sheet.parts[drift.source], drift.weights[0][0]
        stated = float(context.run.sheet.setups[drift.setups[0]].stated(part) or 0)
        values: dict[str, Any] = {"source": drift.source, "value": PENDING, "count": len(drift.setups)}
        together = " and ".join(drift.setups)
        words = say("faults.source_drifted", setups=together, **values)
        if drift.fitted is _AT_ONCE:
            words = say("faults.source_was_changed", reading=context.said(first), setups=together, **values)
        again = tuple(dict.fromkeys(observed.target(k).key for k, _ in drift.weights))
        yield Candidate(
            FaultKind.SOURCE_DRIFT,
            (part_at(drift.source),),
            (SourceDrifts(drift.source, tuple(drift.setups), drift.weights, drift.fitted),),
            words,
            len(drifts),
            Number(stated, part.kind.unit, is_log=False),
            correction=Rebuilt(say("faults.set_again_and_read", source=drift.source), points=again),
        )
