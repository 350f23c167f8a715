"""The whole plan of a run on one page: every step from the bench as it stands to the last reading."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from recensor.core import plan
from recensor.core.circuit import slug
from recensor.core.plan import Order, Step, Way
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.bench_state import bench_of, proved, state_of
from recensor.runs.models import RunRow
from recensor.runs.queries import RunSnapshot


@dataclass
class PlannedReading:
    """One reading with the steps that lead to it, in words; without an `address` it is what is put back at the end."""

    number: int
    before: list[str]
    power: str = ""
    words: str = ""
    set_to: str = ""
    shows: str = ""
    moves: int = 0
    address: str = ""


def plan_page(run: RunRow, loaded: RunSnapshot, person: User) -> dict[str, Any]:
    """What the template shows of what is still to be read."""
    assessment = loaded.judged()
    bench = bench_of(run, loaded, assessment, person)
    core = queries.with_boards(run, loaded.core)
    core = replace(core, sheet=replace(loaded.core.sheet, sealed=loaded.is_sealed))
    last = loaded.last_reading
    found = plan.plan(
        core,
        assessment,
        start=proved(run, state_of(loaded, bench)),
        after=None if last is None else core.readings[last].target,
        order=Order(person.reading_order),
        way=Way(person.opens_by),
    )
    return {
        "run": run,
        "rows": _rows(found.steps),
        "moves": found.moves,
        "moves_as_asked": found.moves_as_asked,
        "refused": found.refused,
        "left_out": [plan.title(target, core.sheet) for target in found.left_out],
        "waived": [plan.title_in_setup(target, core.sheet) for target in found.waived],
        "way": person.opens_by,
    }


def _rows(steps: Sequence[Step]) -> list[PlannedReading]:
    """Every reading as one row, with what is done before it."""
    rows: list[PlannedReading] = []
    row = PlannedReading(1, [])
    for step in steps:
        row.moves += len(step.moves)
        if step.reads is None:
            row.before.append(step.words)
            continue
        setting = step.setting
        row.power, row.words, row.address = "ON" if step.state.powered else "OFF", step.words, slug(step.reads)
        if setting:
            row.set_to = f"{setting.dial}, {setting.range}{f', jack {step.jack}' if step.jack else ''}"
            row.shows = setting.shows.text if setting.shows else ""
        rows.append(row)
        row = PlannedReading(len(rows) + 1, [])
    return [*rows, row] if row.before else rows
