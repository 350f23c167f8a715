"""What was read in a run stays in the process: readings never change, so what a run's rows say is worked out once,
and so is how it is judged.

It is looked up by all that could make it another: the last reading, the last act, the names that parts and meters have
by now. Whatever is missing is asked for again, so that it can be thrown away at any time, and every worker has its own.
"""

import json
from datetime import datetime
from typing import Any, NamedTuple
from uuid import UUID

from django.db import models
from django.db.models import Exists, F, Func, OuterRef, Subquery, Sum

from recensor.core.judgement import Assessment
from recensor.core.kept import Kept
from recensor.core.record import Run
from recensor.meters.models import Meter
from recensor.runs.mapping import StoredReadings
from recensor.runs.models import ActRow, BenchMove, BoardState, ReadingRow, RunRow, RunSheet

# So many runs have their readings kept in one process.
MOST_RUNS = 128

# And so many how they are judged, which is larger.
MOST_JUDGED = 32


class Marks(NamedTuple):
    """How far a run is: whatever changes what its readings say changes one of these."""

    run: int
    last_reading: int | None
    last_act: int | None
    meter_names: int | None
    renamed: str


class RunNow(NamedTuple):
    """The sheet that a run follows now, what brought it and what parts are called on it, whether anything stands on a
    board, and how the bench stood after what was last said to be done at it."""

    run_sheet_id: int
    sheet_id: UUID
    sheet_kind: str
    renamed: dict[str, str]
    has_boards: bool
    moved_state: dict[str, Any] | None
    moved_time: datetime | None


def _last(model: type[models.Model], column: str, **field: Any) -> Subquery:
    return Subquery(model._default_manager.filter(run=OuterRef("pk")).order_by("-id").values(column)[:1], **field)


_NAMES = Meter.objects.filter(owner=OuterRef("owner")).order_by().values("owner")
# Of each name with its meter: two that change names are told apart.
_SUM = Sum(Func(F("pk"), F("name"), template="CRC32(CONCAT_WS(' ', %(expressions)s))",
                output_field=models.BigIntegerField()))  # fmt: skip
_QUERY = RunRow.objects.order_by().values_list(
    _last(ReadingRow, "pk"),
    _last(ActRow, "pk"),
    Subquery(_NAMES.annotate(names=_SUM).values("names")),
    _last(RunSheet, "pk"),
    _last(RunSheet, "sheet_id", output_field=models.UUIDField()),
    _last(RunSheet, "kind"),
    _last(RunSheet, "renamed", output_field=models.JSONField()),
    Exists(BoardState.objects.filter(run=OuterRef("pk"))),
    _last(BenchMove, "state", output_field=models.JSONField()),
    _last(BenchMove, "time"),
)


def marks_of(run_id: int) -> tuple[Marks, RunNow]:
    """How far a run is by now, and what it follows."""
    reading, act, names, *follows = _QUERY.get(pk=run_id)
    now = RunNow(*follows)
    return Marks(run_id, reading, act, names, json.dumps(now.renamed, sort_keys=True)), now


# How the runs that were asked for last are judged.
assessments: Kept[int, Run, Assessment] = Kept(MOST_JUDGED)

# The readings of the runs that were asked for last, by their marks.
kept: Kept[int, Marks, StoredReadings] = Kept(MOST_RUNS)


def find(marks: Marks) -> StoredReadings | None:
    """What a run's rows say; None where it is not known for these marks."""
    return kept.find(marks.run, marks)


def keep(marks: Marks, readings: StoredReadings) -> None:
    """Keep what a run's rows say."""
    kept.keep(marks.run, marks, readings)
