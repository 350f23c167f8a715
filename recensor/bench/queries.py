"""What reads the bench's rows."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from typing import Any
from uuid import UUID

from recensor.bench import rows
from recensor.bench.models import BoardState, Reading, Run, RunQuerySet
from recensor.core import record
from recensor.core.circuit import Sheet, Target
from recensor.core.judgement import gather
from recensor.experiments import models as experiments
from recensor.experiments.queries import kept_sheet
from recensor.people.models import User

# Built once: naming the columns again for each request would cost as much as asking for them.
_ROWS = Reading.objects.order_by("id", "lines__act_id").values(*rows.COLUMNS, *rows.ACT_COLUMNS)


def runs_of(person: User) -> RunQuerySet:
    """The person's runs, newest first, with the sheets that they follow."""
    return Run.objects.filter(owner=person).following()


@cache
def _followed() -> RunQuerySet:
    """Put together once: what a run follows now is asked for with every request."""
    return Run.objects.following()


def any_run() -> RunQuerySet:
    """Every run with the sheet that it follows, to look one up in."""
    return _followed().all()


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
        core = replace(self.core, readings=(*self.core.readings, rows.reading_of(rows.values_of(row))))
        return LoadedRun((*self.reading_ids, row.pk), core, points(core))

    def last_of(self, person: str) -> int | None:
        """The key of the last standing reading of a person; None where there is none."""
        pairs = zip(reversed(self.reading_ids), reversed(self.core.readings), strict=True)
        return next((pk for pk, reading in pairs if reading.by == person and reading.struck is None), None)

    @property
    def is_sealed(self) -> bool:
        """Whether calculated values are still kept back: the run is sealed, and not every point has been read."""
        if not self.core.sheet.sealed:
            return False
        measurements = gather(self.core)
        return not all(measurements.of(target) for target in self.points)

    def point_of(self, reading_id: int) -> int:
        """The point that a reading belongs to."""
        target = self.core.readings[self.reading_ids.index(reading_id)].target
        return [point.key for point in self.points].index(target.key)


def load(run: Run) -> LoadedRun:
    """Everything about a run that follows a sheet, with one query for its readings and the acts on them."""
    readings = rows.readings_of(_ROWS.filter(run_id=run.pk))
    core = rows.run_of(run, kept_sheet(run.sheet_id), list(readings.values()))
    return LoadedRun(tuple(readings), core, points(core))


def load_runs(runs: Sequence[Run]) -> list[record.Run]:
    """Several runs at once, with one query for all their readings and one for their sheets."""
    found: dict[int, list[Mapping[str, Any]]] = defaultdict(list)
    for row in _ROWS.filter(run__in=[run.pk for run in runs]):
        found[row["run_id"]].append(row)
    sheets = _sheets({run.sheet_id for run in runs})
    return [rows.run_of(run, sheets[run.sheet_id], list(rows.readings_of(found[run.pk]).values())) for run in runs]


def _sheets(ids: set[UUID]) -> dict[UUID, Sheet]:
    return {row.pk: row.as_sheet() for row in experiments.Sheet.objects.filter(pk__in=ids)}


def last_board(run: Run, setup: str) -> BoardState | None:
    """The board of a setup as it stands; None before anything is on it."""
    return run.board_states.filter(setup=setup).last()


def with_boards(run: Run, core: record.Run) -> record.Run:
    """A run with what stands on its boards now."""
    states = {state.setup: state for state in run.board_states.all()}
    return rows.with_boards(core, (states[name] for name in core.sheet.setups if name in states))


def points(run: record.Run) -> list[Target]:
    """The points of the ledger: what the sheet asks for, then whatever else was read; only ever grows."""
    targets = {target.key: target for target in run.sheet.asked}
    for reading in run.readings:
        targets.setdefault(reading.target.key, reading.target)
    return list(targets.values())
