"""Looking rows through: each must be read as what it is, and what was worked out once comes out so again."""

import hashlib
import io
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

from django.db.models import F, Model, QuerySet
from PIL import Image

from recensor.core import lengths, safety
from recensor.core.circuit import has_place
from recensor.core.editing import accepted
from recensor.core.judgement import assess
from recensor.core.quantity import OHM, Measurand, parse
from recensor.experiments.models import Experiment, SheetRow, Version
from recensor.experiments.queries import sheet_of
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum
from recensor.formats.documents.kept_assessment import as_it_was, kept_causes
from recensor.kits import sorting_table
from recensor.kits.models import SortedPart, Sorting
from recensor.meters.models import ProfileRow
from recensor.meters.queries import profile_of
from recensor.people.models import User
from recensor.reports.content import ReportSection
from recensor.reports.models import SectionChoice
from recensor.runs import queries
from recensor.runs.mapping import board_of, extra_parts, state_of
from recensor.runs.models import (
    ActLine,
    ActRow,
    BenchMove,
    BoardState,
    KeptAssessment,
    OwnValue,
    Photo,
    ReadingRow,
    Revision,
    RunRow,
    RunSheet,
    RunText,
)
from recensor.runs.services.import_readings import MOST_READINGS
from recensor.transfer.published import published_name
from recensor.web.pictures import LONGEST_SIDE

# Reads a row, and raises whatever is wrong with it.
Check = Callable[[Any], object]

# So many rows are asked for together.
_TOGETHER = 500


def _judged(run: RunRow) -> None:
    loaded = queries.load(run)
    for reading in loaded.core.readings:
        if not has_place(reading.target, loaded.core.sheet):
            raise ValueError(f"its circuit has no place for {reading.target.words}")
    assess(queries.with_boards(run, loaded.core))


def _worked_out_again(row: ReadingRow | SortedPart) -> None:
    """The number beside the text is what the text says; beside over-range there is none."""
    read = parse(row.text, Measurand(row.quantity).unit if isinstance(row, ReadingRow) else OHM, row.unit)
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


def _judged_then(row: KeptAssessment) -> None:
    """What was kept of the judgement can be read over the run that was signed."""
    as_it_was(assess(run_document.read(row.revision.document)), row.tree)
    kept_causes(row.tree)


# What every row must be, wherever it came from.
CHECKS: Sequence[tuple[type[Model], Check]] = (
    (SheetRow, lambda row: row.as_sheet()),
    (Experiment, sheet_of),
    (RunRow, _judged),
    (Sorting, lambda row: sorting_table.tally_of(row.pk)),
    (ReadingRow, _worked_out_again),
    (OwnValue, _readable),
    (SortedPart, _worked_out_again),
    (ProfileRow, lambda row: profile_of(row.pk)),
    (BenchMove, lambda row: state_of(row.state)),
    (Photo, _whole),
    (Revision, _as_signed),
    (KeptAssessment, _judged_then),
)


def _may_be_run(run: RunRow) -> None:
    safety.refuse_paper_only(queries.load(run).core.sheet, simulated=run.simulated)
    if run.readings.count() > MOST_READINGS:
        raise ValueError(f"it has more than {MOST_READINGS} readings")


def _is_remade(row: Photo) -> None:
    """The picture is one that is kept here: no larger, and nothing but a picture."""
    with Image.open(io.BytesIO(row.picture), formats=("JPEG",)) as picture:
        if max(picture.size) > LONGEST_SIDE or row.content_type != "image/jpeg":
            raise ValueError("the picture is not one that is kept here")
        picture.load()


def _on_a_board(row: BoardState) -> None:
    parts = {name: part for sheet in row.run.sheets.all() for name, part in sheet.sheet.as_sheet().parts.items()}
    board_of(row, {**parts, **extra_parts(row)})


def _is_text(row: RunText) -> None:
    if len(row.text) > lengths.PROSE:
        raise ValueError(f"it is longer than {lengths.PROSE} characters")


def _goes_back(row: Version) -> None:
    if row.before is not None and not Version.objects.filter(experiment=row.experiment_id, number=row.before).exists():
        raise ValueError("it was made from a version that is not there")


def _names(row: RunSheet) -> None:
    if not isinstance(row.renamed, dict) or not all(isinstance(name, str) for name in row.renamed.values()):
        raise ValueError("its other names are none")


# What a row must be besides that comes out of a file, where anybody may have written it.
OF_A_FILE: Sequence[tuple[type[Model], Check]] = (
    (SheetRow, lambda row: accepted(row.as_sheet())),
    (Version, _goes_back),
    (RunRow, _may_be_run),
    (RunSheet, _names),
    (Photo, _is_remade),
    (BoardState, _on_a_board),
    (RunText, _is_text),
    (SectionChoice, lambda row: [ReportSection(section) for section in row.sections]),
)


def faults() -> Iterator[str]:
    """What is wrong with any row, one line for each fault."""
    for model, check in CHECKS:
        yield from _unread(_all(model).order_by("pk").iterator(chunk_size=_TOGETHER), check)
    yield from _strays()


def faults_of(made: Mapping[type[Model], Sequence[Model]], person: User) -> Iterator[str]:
    """The same of rows that a file has just brought to a person."""
    for model, check in (*OF_A_FILE, *CHECKS):
        keys = [row.pk for row in made.get(model, ())]
        for k in range(0, len(keys), _TOGETHER):
            yield from _unread(_all(model).filter(pk__in=keys[k : k + _TOGETHER]).order_by("pk"), check)
    yield from _strays(person)


def _all(model: type[Model]) -> QuerySet[Any]:
    return RunRow.objects.following() if model is RunRow else model._base_manager.all()


def _unread(rows: Iterable[Model], check: Check) -> Iterator[str]:
    for row in rows:
        try:
            check(row)
        except Exception as error:  # whatever it is, this row is what it lies in
            yield f"{published_name(row).partition('.')[2]} {row.pk}: {type(error).__name__}: {error}"


def _strays(person: User | None = None) -> Iterator[str]:
    """Rows that point at rows of something else, which no foreign key forbids; of everybody, or of one person."""
    for words, rows, owner in (
        ("reading on a sheet of another run", ReadingRow.objects.exclude(run_sheet__run=F("run")), "run__owner"),
        ("reading that found one of another run", _pointing(ReadingRow, "found"), "run__owner"),
        ("act on a reading of another run", ActLine.objects.exclude(reading__run=F("act__run")), "act__run__owner"),
        (
            "act that puts a reading of another run in a place",
            ActLine.objects.exclude(other=None).exclude(other__run=F("act__run")),
            "act__run__owner",
        ),
        ("act undone by one of another run", _pointing(ActRow, "undoes"), "run__owner"),
        ("text that found one of another run", _pointing(RunText, "found"), "run__owner"),
        (
            "part taken back on another table",
            SortedPart.objects.exclude(takes_back=None).exclude(takes_back__sorting=F("sorting")),
            "sorting__kit__owner",
        ),
        ("sheet brought by an act of another run", _pointing(RunSheet, "act"), "run__owner"),
        ("run without a sheet", RunRow.objects.exclude(pk__in=RunSheet.objects.values("run")), "owner"),
    ):
        for key in rows.filter(**({owner: person} if person else {})).values_list("pk", flat=True):
            yield f"{words}: {key}"


def _pointing(model: type[Model], column: str) -> QuerySet[Any]:
    """Rows of a run whose column points at a row of another one."""
    return model._base_manager.exclude(**{column: None}).exclude(**{f"{column}__run": F("run")})
