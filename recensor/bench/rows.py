"""Rows and core objects, mapped both ways: the one room that knows both."""

import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from decimal import Decimal
from functools import lru_cache
from typing import Any

from recensor.bench import models
from recensor.core import record
from recensor.core.boards import Built
from recensor.core.circuit import (
    Across,
    Basis,
    Judge,
    JudgedBy,
    Part,
    PartAlone,
    Sheet,
    Target,
    Through,
    TouchedLeads,
    one_line,
)
from recensor.core.quantity import Measurand, Quantity, parse, parse_percent
from recensor.formats.board import read_board
from recensor.people.models import User

# The columns that a reading of the core is made of; the last are those of an act on it that was not undone.
COLUMNS = (
    "pk", "run_id", "quantity", "of", "red", "black", "through", "setup", "at", "text", "unit", "value", "resolution",
    "range", "meter__name", "look", "note", "time", "author__username",
)  # fmt: skip
ACT_COLUMNS = ("lines__effect", "lines__act__reason", "lines__act__author__username", "lines__act__time",
               "lines__act_id", "lines__act__undone_by")  # fmt: skip

STRIKING = {models.ActLine.Effect.STRIKE, models.ActLine.Effect.MOVE, models.ActLine.Effect.REPLACE}


def row_of(
    reading: record.Reading, run: models.Run, author: User, key: uuid.UUID, received: datetime
) -> models.Reading:
    """The row that keeps a reading, taken in a run that follows `run.run_sheet_id` now."""
    return models.Reading(
        run=run,
        run_sheet_id=run.run_sheet_id,
        quantity=reading.target.measurand,
        **_columns_of(reading.target),
        text=reading.value.text,
        unit=reading.value.beside,
        value=reading.value.value,
        resolution=reading.value.resolution,
        range=reading.range.text if reading.range else "",
        meter=run.meter,
        look=reading.counted is False,
        note=reading.note or "",
        author=author,
        time=received,
        key=key,
    )


def readings_of(rows: Iterable[Mapping[str, Any]]) -> dict[int, record.Reading]:
    """Readings by their keys in the table, in order; a row comes once for each line of an act on it."""
    found: dict[int, record.Reading] = {}
    latest: dict[int, int] = {}
    for row in rows:
        pk, act = row["pk"], row["lines__act_id"]
        if pk not in found:
            found[pk] = reading_of(row)
        if act is None or row["lines__act__undone_by"] is not None or act < latest.get(pk, 0):
            continue
        latest[pk] = act
        found[pk] = replace(found[pk], struck=_strike(row) if row["lines__effect"] in STRIKING else None)
    return found


def reading_of(row: Mapping[str, Any]) -> record.Reading:
    """The reading of a row, as it was taken."""
    target = target_of(row["quantity"], row["of"], row["red"], row["black"], row["through"], row["setup"], row["at"])
    return record.Reading(
        target=target,
        value=Quantity(row["text"], _exact(row["value"]), _exact(row["resolution"]), target.unit, beside=row["unit"]),
        range=_range(row["range"], target.unit) if row["range"] else None,
        meter=row["meter__name"] or None,
        note=row["note"] or None,
        time=row["time"],
        by=row["author__username"],
        counted=False if row["look"] else None,
    )


def values_of(row: models.Reading) -> dict[str, Any]:
    """The columns of a row that was just made, as a query would give them."""
    values = {name: getattr(row, name) for name in COLUMNS if "__" not in name}
    meter = row.meter.name if row.meter else ""
    return {**values, "meter__name": meter, "author__username": row.author.username}


def judge_of(run: models.Run) -> Judge:
    """What decides in this run."""
    return Judge(JudgedBy(run.judged_by), parse_percent(run.limit), Basis(run.against))


def run_of(run: models.Run, sheet: Sheet, readings: Sequence[record.Reading]) -> record.Run:
    """A run of the core: the sheet that it follows under its own title, judged its own way, and what was read."""
    own = replace(sheet, title=run.title, judge=judge_of(run), sealed=run.sealed)
    return record.Run(own, tuple(readings))


def with_boards(run: record.Run, states: Iterable[models.BoardState]) -> record.Run:
    """The run with what stands on its boards, and the parts that only those have."""
    boards: dict[str, Built] = {}
    parts: dict[str, Part] = dict(run.sheet.parts)
    for state in states:
        extra = extra_parts(state)
        boards[state.setup] = board_of(state, {**run.sheet.parts, **extra})
        parts = {**extra, **parts}
    return replace(run, sheet=replace(run.sheet, parts=parts), boards=boards)


def board_of(state: models.BoardState, parts: Mapping[str, Part]) -> Built:
    """The board that a row keeps."""
    return read_board(state.placements, state.board, parts)


def extra_parts(state: models.BoardState) -> dict[str, Part]:
    """The parts on a board that its circuit does not have."""
    return {part.name: part for part in map(one_line.read_part, state.parts)}


@lru_cache(maxsize=4096)
def target_of(quantity: str, of: str, red: str, black: str, through: str, setup: str, at: str) -> Target:
    """The target that a row's columns name; trials share one."""
    if of:
        return PartAlone(of, Measurand(quantity), setup or None)
    if red:
        return Across(Measurand(quantity), (red, black), setup, at or None)
    return Through(through, setup, at or None) if through else TouchedLeads()


def _columns_of(target: Target) -> dict[str, str]:
    """The columns that name a target; none for the touched leads."""
    if isinstance(target, TouchedLeads):
        return {}
    if isinstance(target, PartAlone):
        return {"of": target.part, "setup": target.setup or ""}
    if isinstance(target, Through):
        return {"through": target.part, "setup": target.setup, "at": target.at or ""}
    return {"red": target.red, "black": target.black, "setup": target.setup, "at": target.at or ""}


def _strike(row: Mapping[str, Any]) -> record.Strike:
    return record.Strike(row["lines__act__reason"], row["lines__act__author__username"], row["lines__act__time"])


@lru_cache(maxsize=1024)
def _range(text: str, unit: str) -> Quantity:
    return parse(text, unit)


def _exact(stored: Decimal | None) -> Decimal | None:
    """A stored number without the column's padding zeros."""
    return None if stored is None else stored.normalize() + Decimal(0)
