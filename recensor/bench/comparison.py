"""The setups of a run side by side: what each part showed in each of them."""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.bench.means import mean_text
from recensor.core.judgement import Assessment
from recensor.core.record import CURRENT, RESISTANCE, VOLTAGE, Run, Target

_WORDS = {VOLTAGE: "voltage", CURRENT: "current"}


@dataclass(frozen=True)
class Comparison:
    """A table of what was read: a column for each setup, a row for each part and quantity that two of them share."""

    setups: tuple[str, ...]
    rows: tuple[tuple[str, tuple[str, ...]], ...]


def side_by_side(run: Run, points: Sequence[Target], assessment: Assessment) -> Comparison | None:
    """The table; None for a single setup, or where no two setups ask for the same thing."""
    if len(run.setups) < 2:
        return None
    found: dict[str, dict[str, str]] = {}
    for target in points:
        if target.setup:
            for label in _labels(target, run):
                found.setdefault(label, {}).setdefault(target.setup, _read(target, assessment))
    shared = [(label, cells) for label, cells in found.items() if len(cells) > 1]
    rows = tuple((label, tuple(cells.get(setup, "") for setup in run.setups)) for label, cells in shared)
    return Comparison(tuple(run.setups), rows) if rows else None


def _labels(target: Target, run: Run) -> list[str]:
    """What a reading says in terms of parts, so that the same words mean the same in every setup."""
    if target.through:
        return [f"{target.through}, current"]
    across = set(target.across or ())
    named = [name for name, leads in run.setups[target.setup or ""].connections.items() if set(leads) == across]
    if target.quantity == RESISTANCE:
        return [f"seen by {name}" for name in named if run.parts[name].kind.is_source]
    return [f"{name}, {_WORDS[target.quantity]}" for name in named]


def _read(target: Target, assessment: Assessment) -> str:
    measured = assessment.targets.get(target.key)
    if measured is None:
        return "○"
    return mean_text(measured.measurement, target.unit)
