"""What reads the bench's rows: the single place where they become core objects."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from recensor.bench.models import Reading, Run, Strike
from recensor.bench.services import judge_of
from recensor.core import record
from recensor.core.quantity import Quantity, parse
from recensor.core.record import Target


def runs_of(person: object) -> "Iterable[Run]":
    """The person's runs, newest first."""
    return Run.objects.filter(owner=person).select_related("sheet")


@dataclass(frozen=True)
class LoadedRun:
    """A run as a page needs it: its rows, what the core judges, and the points of its ledger."""

    rows: tuple[Reading, ...]
    core: record.Run
    points: list[Target]

    def with_reading(self, row: Reading) -> "LoadedRun":
        """The same with one row more; a row that is there already changes nothing."""
        if row in self.rows:
            return self
        core = replace(self.core, readings=(*self.core.readings, _core_reading(row, None)))
        return LoadedRun((*self.rows, row), core, points(core))


def load(run: Run) -> LoadedRun:
    """Everything about a run, with one query; the run needs its sheet loaded."""
    rows = tuple(run.readings.select_related("strike", "strike__author", "author"))
    core = load_run(run, rows)
    return LoadedRun(rows, core, points(core))


def load_run(run: Run, rows: Sequence[Reading]) -> record.Run:
    """The run as the core judges it: its sheet, judge and readings in order. The run needs its sheet loaded."""
    planned = run.sheet.as_run()
    return replace(
        planned,
        title=run.title,
        judge=judge_of(run),
        readings=tuple(_core_reading(row, getattr(row, "strike", None)) for row in rows),
    )


def load_runs(runs: Sequence[Run]) -> list[record.Run]:
    """Several runs at once, with one query for all their readings."""
    rows: dict[int, list[Reading]] = defaultdict(list)
    for row in Reading.objects.filter(run__in=runs).select_related("strike", "strike__author", "author"):
        rows[row.run_id].append(row)
    return [load_run(run, rows[run.pk]) for run in runs]


def points(run: record.Run) -> list[Target]:
    """The points of the ledger: what the sheet asks for, then whatever else was read; only ever grows."""
    targets = {target.key: target for target in run.asked}
    for reading in run.readings:
        targets.setdefault(reading.target.key, reading.target)
    return list(targets.values())


def _core_reading(row: Reading, strike: Strike | None) -> record.Reading:
    target = Target(
        quantity=row.quantity,
        of=row.of or None,
        across=(row.red, row.black) if row.red else None,
        through=row.through or None,
        setup=row.setup or None,
    )
    return record.Reading(
        target=target,
        value=Quantity(row.text, row.exact("value"), row.exact("resolution"), target.unit, beside=row.unit),
        range=parse(row.range, target.unit) if row.range else None,
        meter=row.meter or None,
        note=row.note or None,
        time=row.time,
        by=row.author.username,
        struck=record.Strike(strike.reason, strike.author.username, strike.time) if strike else None,
    )
