"""Looking all books through: every row is read, every run judged, and what was worked out once is worked out again."""

import hashlib
from collections.abc import Callable, Iterator
from typing import TypeVar

from django.db import connection
from django.db.models import F, Model, QuerySet

from recensor.bench import queries
from recensor.bench.models import Act, ActLine, BenchMove, OwnValue, Photo, Reading, Revision, Run, RunSheet
from recensor.bench.rows import state_of
from recensor.core.judgement import assess
from recensor.core.quantity import OHM, Measurand, parse
from recensor.experiments.models import Experiment, Sheet
from recensor.experiments.queries import sheet_of
from recensor.formats import run_document
from recensor.formats.checksum import checksum
from recensor.kits import sorting_table
from recensor.kits.models import SortedPart, Sorting
from recensor.meters.models import Profile
from recensor.meters.queries import profile_of
from recensor.site.operations import backup

Row = TypeVar("Row", bound=Model)


def faults() -> Iterator[str]:
    """What is wrong with the books, one line for each fault."""
    yield from _damaged_tables()
    yield from _unread(Sheet.objects.order_by("created"), lambda sheet: sheet.as_sheet())
    yield from _unread(Experiment.objects.order_by("pk"), sheet_of)
    yield from _unread(Run.objects.following().order_by("pk"), _judged)
    yield from _unread(Sorting.objects.order_by("pk"), lambda table: sorting_table.tally_of(table.pk))
    yield from _unread(Reading.objects.exclude(value=None).order_by("pk"), _worked_out_again)
    yield from _unread(OwnValue.objects.order_by("pk"), _readable)
    yield from _unread(SortedPart.objects.order_by("pk"), _worked_out_again)
    yield from _unread(Profile.objects.order_by("pk"), lambda row: profile_of(row.pk))
    yield from _unread(BenchMove.objects.order_by("pk"), lambda row: state_of(row.state))
    yield from _unread(Photo.objects.order_by("pk"), _whole)
    yield from _unread(Revision.objects.order_by("pk"), _as_signed)
    yield from _strays()


def _unread(rows: QuerySet[Row], read: Callable[[Row], object]) -> Iterator[str]:
    for row in rows.iterator(chunk_size=500):
        try:
            read(row)
        except Exception as error:  # whatever it is, this row is what it lies in
            yield f"{row._meta.verbose_name} {row.pk}: {type(error).__name__}: {error}"


def _judged(run: Run) -> None:
    loaded = queries.load(run)
    assess(queries.with_boards(run, loaded.core))


def _worked_out_again(row: Reading | SortedPart) -> None:
    """The number beside the text is what the text says."""
    read = parse(row.text, Measurand(row.quantity).unit if isinstance(row, Reading) else OHM, row.unit)
    if (read.value, read.resolution) != (row.value, row.resolution):
        raise ValueError(
            f"“{row}” is kept as {row.value} ± {row.resolution}, and says {read.value} ± {read.resolution}"
        )


def _readable(row: OwnValue) -> None:
    parse(row.text, Measurand(row.quantity).unit, row.unit)


def _whole(row: Photo) -> None:
    """The picture is the one that was kept."""
    if hashlib.sha256(row.picture).hexdigest() != row.sum:
        raise ValueError("the picture is not the one that was kept")


def _as_signed(row: Revision) -> None:
    """The document is the one that was signed."""
    if checksum(run_document.to_tree(run_document.read(row.document))) != row.checksum:
        raise ValueError("the document is not the one that was signed")


def _strays() -> Iterator[str]:
    """Rows that point at rows of something else, which no foreign key forbids."""
    for words, rows in {
        "reading on a sheet of another run": Reading.objects.exclude(run_sheet__run=F("run")),
        "act on a reading of another run": ActLine.objects.exclude(reading__run=F("act__run")),
        "act undone by one of another run": Act.objects.exclude(undoes=None).exclude(undoes__run=F("run")),
        "part taken back on another table": SortedPart.objects.exclude(takes_back=None).exclude(
            takes_back__sorting=F("sorting")
        ),
        "sheet brought by an act of another run": RunSheet.objects.exclude(act=None).exclude(act__run=F("run")),
        "run without a sheet": Run.objects.exclude(pk__in=RunSheet.objects.values("run")),
    }.items():
        for key in rows.values_list("pk", flat=True):
            yield f"{words}: {key}"


def _damaged_tables() -> Iterator[str]:
    tables = ", ".join(connection.ops.quote_name(model._meta.db_table) for model in backup.kept())
    with connection.cursor() as cursor:
        cursor.execute(f"CHECK TABLE {tables}")
        for table, _, kind, text in cursor.fetchall():
            if kind in ("error", "warning"):
                yield f"table {table}: {text}"
