"""V–I tables whose rows are whatever is read: begun at any time, and their rows taken out."""

import uuid
from dataclasses import replace

from recensor.core.circuit import Leads, Sheet, TableMeters, Target
from recensor.core.editing import free_table
from recensor.core.entries import levels, named
from recensor.core.errors import Refused
from recensor.experiments.models import SheetRow
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActLine, ActRow, RunRow, RunSheet
from recensor.runs.services.append import append_act, append_line, is_done
from recensor.runs.services.correct import made_instead
from recensor.runs.services.start import follow
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def begin_table(
    run: RunRow, author: User, setup: str, typed: str, key: uuid.UUID | None, meters: TableMeters = TableMeters.APART
) -> Target:
    """A table of what was typed, a part or two nodes, or of the whole where nothing was; where its volts begin.

    Pressed twice it is begun once; one that is there is gone on with.
    """
    loaded = queries.load_locked(run)
    before = loaded.core.sheet
    of = _meant(before, setup, typed.strip())
    sheet, name = free_table(before, before.setup(setup).name, of, meters)
    table = sheet.sweeps[name]
    if sheet is not before and not is_done(run, key):
        act = append_act(run, author, ActRow.Kind.CHANGE, f"a table: {name}", key=key)
        follow(run, author, SheetRow.of(sheet, author), RunSheet.Kind.CORRECTION, act)
    steps = {r.target.step for r in loaded.core.readings if r.struck is None and table.asks(r.target)}
    return table.volts_at(max((step + 1 for step in steps if step is not None), default=0))


def _meant(sheet: Sheet, setup: str, typed: str) -> str | Leads:
    """The part, or the two nodes, that a table is of."""
    here = sheet.setup(setup)
    if not typed:
        source = next(iter(here.driving(sheet.parts)), None)
        return here.connections[source] if source else (here.nodes[0], here.reference)
    found = named(typed, sheet, here)
    if found is None or found[2] or len(found[0]) == 1:
        raise Refused(f"“{typed[:40]}” is no part and no two nodes of this circuit; leave it empty for the whole.")
    nodes, part, _ = found
    return part or (nodes[0], nodes[1])


@atomic_with_retry
def make_rows(run: RunRow, author: User, reading_id: int) -> Target:
    """What was read at several levels of the source, volts and amps, becomes rows of a table; what is read there next.

    Raises `Refused` where it was read at one level only.
    """
    loaded = queries.load_locked(run)
    index = loaded.index_of(reading_id)
    target = None if index is None else loaded.core.readings[index].target
    found = target and levels(loaded.core.sheet, target, loaded.judged().against.measurements)
    if not found:
        raise Refused("This was read at one level only: there is no second row.")
    act = append_act(run, author, ActRow.Kind.MOVE, f"each level a row: {found.table}")
    follow(run, author, SheetRow.of(found.sheet, author), RunSheet.Kind.CHANGE, act)
    for k, there in found.rows.items():
        row = replace(loaded.core.readings[k], target=there, later=False, instead_of=None, contradicts=None)
        made_instead(run, author, act, loaded, k, row)
    table, last = found.sheet.sweeps[found.table], max(there.step or 0 for there in found.rows.values())
    has_amps = any(there.is_through and there.step == last for there in found.rows.values())
    return table.volts_at(last + 1) if has_amps else table.amps_at(last)


@atomic_with_retry
def take_row_out(run: RunRow, author: User, table: str, step: int) -> None:
    """Strike what was read in one row of a table: the line is drawn through the others."""
    loaded = queries.load_locked(run)
    sweep = loaded.core.sheet.sweeps.get(table)
    read = [
        pk
        for pk, reading in zip(loaded.reading_ids, loaded.core.readings, strict=True)
        if sweep and reading.struck is None and sweep.asks(reading.target) and reading.target.step == step
    ]
    if not read:
        raise Refused("Nothing is read in this row.")
    act = append_act(run, author, ActRow.Kind.STRIKE, f"row {step + 1} taken out")
    for pk in read:
        append_line(act, pk, ActLine.Effect.STRIKE)
