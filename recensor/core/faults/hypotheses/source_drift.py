"""What a source gives changed while a setup was read: steadily, or at once, as when somebody turns its knob."""

from collections.abc import Iterator

from recensor.core.circuit import PartAlone
from recensor.core.faults.candidate import Candidate, Number, Scene, part_at
from recensor.core.faults.changes import Drifts, Fitted
from recensor.core.faults.kinds import FaultKind
from recensor.core.faults.mends import Rebuilt
from recensor.core.quantity import RESISTANCE

_STEADY, _AT_ONCE = Fitted(0.0, 0.06, (-0.05, 0.05)), Fitted(0.0, 0.3, (-0.1, 0.1))

# Of fewer readings a drift cannot be told.
_FEWEST = 4


def candidates(scene: Scene) -> Iterator[Candidate]:
    """For each source and setup one that drifts from first to last, and one that steps before each reading."""
    observed = scene.observed
    found: list[tuple[str, str, tuple[tuple[int, float], ...], Fitted, tuple[int, ...]]] = []
    for name in scene.sources():
        for setup in scene.setups.values():
            places = [
                k
                for k in range(observed.count)
                if (t := observed.target(k)).setup == setup.name
                and not isinstance(t, PartAlone)
                and t.measurand is not RESISTANCE
            ]
            if name not in setup.driving(scene.run.sheet.parts) or len(places) < _FEWEST:
                continue
            last = len(places) - 1
            steady = tuple((k, n / last) for n, k in enumerate(places))
            found.append((name, setup.name, steady, _STEADY, tuple(places)))
            for n in range(2, len(places) - 1):
                stepped = tuple((k, 1.0) for k in places[n:])
                found.append((name, setup.name, stepped, _AT_ONCE, tuple(places[n:])))
    for name, setup_name, weights, fitted, places_after in found:
        part = scene.run.sheet.parts[name]
        stated = float(scene.run.sheet.setups[setup_name].stated(part) or 0)
        how = "drifted by" if fitted is _STEADY else "was changed by"
        since = "while" if fitted is _STEADY else f"before {scene.said(places_after[0])}, while"
        yield Candidate(
            FaultKind.SOURCE_DRIFT,
            (part_at(name),),
            (Drifts(name, weights, fitted),),
            f"{name} {how} {{value}} {since} {setup_name} was read.",
            len(found),
            Number(stated, part.kind.unit, is_log=False),
            mend=Rebuilt(
                f"Set {name} again and read again",
                points=tuple(dict.fromkeys(observed.target(k).key for k in places_after)),
            ),
        )
