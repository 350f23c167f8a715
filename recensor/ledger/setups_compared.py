"""The setups of a run side by side: what each part showed in each of them."""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core.circuit import Sheet, Target
from recensor.core.judgement import Assessment
from recensor.core.quantity import RESISTANCE
from recensor.ledger.means import mean_text


@dataclass(frozen=True)
class SideBySide:
    """A table of what was read: a column for each setup, a row for each part and quantity that two of them share."""

    setups: tuple[str, ...]
    rows: tuple[tuple[str, tuple[str, ...]], ...]


def side_by_side(sheet: Sheet, points: Sequence[Target], assessment: Assessment) -> SideBySide | None:
    """The table; None for a single setup, or where no two setups ask for the same thing."""
    if not sheet.several:
        return None
    found: dict[str, dict[str, str]] = {}
    for target in points:
        if target.setup:
            for label in _labels(target, sheet):
                found.setdefault(label, {}).setdefault(target.setup, _read(target, assessment))
    shared = [(label, cells) for label, cells in found.items() if len(cells) > 1]
    setups = tuple(setup for setup in sheet.setups if any(setup in cells for _, cells in shared))
    rows = tuple((label, tuple(cells.get(setup, "") for setup in setups)) for label, cells in shared)
    return SideBySide(setups, rows) if rows else None


def _labels(target: Target, sheet: Sheet) -> list[str]:
    """What a reading says in terms of parts, so that the same words mean the same in every setup."""
    if target.is_through:
        return [f"{target.part}, current"]
    if not target.is_across:
        return []
    named = sheet.setups[target.setup].across(*target.nodes)
    if target.measurand is RESISTANCE:
        return [f"seen by {name}" for name in named if sheet.parts[name].kind.is_source]
    return [f"{name}, {target.measurand}" for name in named]


def _read(target: Target, assessment: Assessment) -> str:
    measured = assessment.of(target)
    return "○" if measured is None else mean_text(measured.measurement, target.unit)
