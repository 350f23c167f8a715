"""What reads the bench's rows: the single place where they become core objects."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import lru_cache
from operator import attrgetter
from typing import Any

from recensor.bench.models import Reading, Run
from recensor.core import record
from recensor.core.quantity import Quantity, parse, parse_percent
from recensor.core.record import Judge, Target
from recensor.library.queries import sheet_run

_READING = ("pk", "run_id", "quantity", "of", "red", "black", "through", "setup", "text", "unit", "value", "resolution",
            "range", "meter", "note", "time", "author__username")  # fmt: skip
_STRIKE = ("strike__reason", "strike__author__username", "strike__time")

# Built once: naming the columns again for each request would cost as much as asking for them.
_ROWS = Reading.objects.values(*_READING, *_STRIKE)


def runs_of(person: object) -> "Iterable[Run]":
    """The person's runs, newest first, with their sheets."""
    return Run.objects.filter(owner=person).select_related("sheet")


@dataclass(frozen=True)
class LoadedRun:
    """A run as a page needs it: its readings' keys in the table, what the core judges, the points of its ledger."""

    reading_ids: tuple[int, ...]
    core: record.Run
    points: list[Target]

    def with_reading(self, row: Reading) -> "LoadedRun":
        """The same with one reading more; one that is there already changes nothing."""
        if row.pk in self.reading_ids:
            return self
        values = {name: attrgetter(name.replace("__", "."))(row) for name in _READING} | dict.fromkeys(_STRIKE)
        core = replace(self.core, readings=(*self.core.readings, _core_reading(values)))
        return LoadedRun((*self.reading_ids, row.pk), core, points(core))


def load(run: Run) -> LoadedRun:
    """Everything about a run, with one query for its readings."""
    rows = list(_ROWS.filter(run_id=run.pk))
    core = _core_run(run, sheet_run(run.sheet_id), rows)
    return LoadedRun(tuple(row["pk"] for row in rows), core, points(core))


def load_runs(runs: Sequence[Run]) -> list[record.Run]:
    """Several runs at once, with one query for all their readings; the runs need their sheets loaded."""
    rows: dict[int, list[dict[str, Any]]] = defaultdict(list)
    for row in _ROWS.filter(run__in=runs):
        rows[row["run_id"]].append(row)
    return [_core_run(run, run.sheet.as_run(), rows[run.pk]) for run in runs]


def points(run: record.Run) -> list[Target]:
    """The points of the ledger: what the sheet asks for, then whatever else was read; only ever grows."""
    targets = {target.key: target for target in run.asked}
    for reading in run.readings:
        targets.setdefault(reading.target.key, reading.target)
    return list(targets.values())


def judge_of(run: Run) -> Judge:
    """What decides in this run."""
    return Judge(run.judged_by, parse_percent(run.limit), run.against)


def _core_run(run: Run, planned: record.Run, rows: Sequence[Mapping[str, Any]]) -> record.Run:
    readings = tuple(_core_reading(row) for row in rows)
    return replace(planned, title=run.title, judge=judge_of(run), sealed=run.sealed or None, readings=readings)


def _core_reading(row: Mapping[str, Any]) -> record.Reading:
    target = _target(row["quantity"], row["of"], row["red"], row["black"], row["through"], row["setup"])
    reason, striker, struck = (row[name] for name in _STRIKE)
    return record.Reading(
        target=target,
        value=Quantity(row["text"], _exact(row["value"]), _exact(row["resolution"]), target.unit, beside=row["unit"]),
        range=parse(row["range"], target.unit) if row["range"] else None,
        meter=row["meter"] or None,
        note=row["note"] or None,
        time=row["time"],
        by=row["author__username"],
        struck=None if struck is None else record.Strike(reason, striker, struck),
    )


@lru_cache(maxsize=4096)
def _target(quantity: str, of: str, red: str, black: str, through: str, setup: str) -> Target:
    """The target that a row's columns name; trials share one."""
    return Target(quantity, of or None, (red, black) if red else None, through or None, setup or None)


def _exact(stored: Decimal | None) -> Decimal | None:
    """A stored number without the column's padding zeros."""
    return None if stored is None else stored.normalize() + Decimal(0)
