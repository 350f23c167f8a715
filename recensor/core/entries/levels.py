"""Volts and amps that were read again at another level of the source: each level is a row of a V–I table."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from recensor.core.circuit import Leads, Sheet, Target
from recensor.core.editing import EditError, free_table
from recensor.core.judgement import Measurements
from recensor.core.quantity import RESISTANCE


@dataclass(frozen=True)
class Levels:
    """The sheet with the table, its name, and where each reading stands in it, by the reading's place in the run."""

    sheet: Sheet
    table: str
    rows: Mapping[int, Target]


def levels(sheet: Sheet, target: Target, measurements: Measurements) -> Levels | None:
    """What was read of a part, or between two nodes, as rows; None where that was read at one level only.

    A current stands in the row of the volts that were read last before it, and opens none; without any volts before
    it, in the first.
    """
    of = _of(target, sheet)
    if of is None or target.setup is None:
        return None
    try:
        changed, name = free_table(sheet, target.setup, of)
    except EditError:
        return None
    table = changed.sweeps[name]
    volts, amps = (_groups(key, measurements) for key in (table.volts.key, table.amps.key))
    if len(volts) < 2:
        return None
    readings = measurements.run.readings
    steps = (reading.target.step for reading in readings if reading.struck is None and table.asks(reading.target))
    begun = max((step + 1 for step in steps if step is not None), default=0)
    rows = {k: row for row, group in enumerate(volts) for k in group}
    for group in amps:
        last = max((row for row, before in enumerate(volts) if before[0] < group[0]), default=0)
        rows |= dict.fromkeys(group, last)
    return Levels(changed, name, {k: _in_row(readings[k].target, begun + row) for k, row in rows.items()})


def _of(target: Target, sheet: Sheet) -> str | Leads | None:
    """The part, or the two nodes, whose volts and amps a measurement is of; None where it is neither."""
    if not target.in_circuit or target.step is not None or target.at or target.measurand is RESISTANCE:
        return None
    if target.is_across:
        names = sheet.setups[target.setup].across(*target.nodes)
        return names[0] if len(names) == 1 and not sheet.parts[names[0]].kind.is_source else target.nodes
    is_source = sheet.parts[target.part].kind.is_source
    return sheet.setups[target.setup].connections[target.part] if is_source else target.part


def _groups(target: Target, measurements: Measurements) -> list[list[int]]:
    """The readings of a measurement as they were taken together, in order."""
    read = measurements.of(target)
    return measurements.groups.get(target.key, [list(read.indexes)] if read else [])


def _in_row(target: Target, step: int) -> Target:
    return replace(target, step=step) if target.in_circuit else target
