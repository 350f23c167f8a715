"""A database of before the rooms: recognised by its tables, copied beside, and brought over row by row, or not at all.

Before, experiments and kits stood together in tables that begin with ``library_``, a run named its sheet and its meter
itself, and a reading was struck by a row of its own. MariaDB cannot take back what is done to tables, so the old
ones step aside under other names, and come back when anything fails.
"""

import gzip
import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.db import connection, transaction
from django.utils import timezone

from recensor.core.boards import Board, Built, Piece, Placement
from recensor.core.errors import Refused
from recensor.formats.documents import run_document
from recensor.formats.documents.board import board_tree, placements_tree

ASIDE = "before_"
APPS = ("people", "library", "bench")

# Tables whose names the new ones take again.
STEPPING_ASIDE = ("bench_run", "bench_reading", "bench_strike", "bench_drawnpart", "bench_boardstate")

# Rows that go over as they are, in an order in which nothing points at what is not there yet.
COPIED = {
    "library_experiment": (
        "experiments_experiment", "id, title, aim, judged_by, `limit`, against, sealed, at, changed, owner_id"),
    "library_step": ("experiments_version", "id, number, `before`, experiment_id, sheet_id"),
    "library_kit": ("kits_kit", "id, name, created, owner_id"),
    "library_bin": ("kits_bin", "id, value, tolerance, rating, count, kit_id"),
    "library_sorting": ("kits_sorting", "id, bins, words, accuracy, put_away, created, kit_id"),
    "library_sortedpart": (
        "kits_sortedpart", "id, text, unit, value, resolution, time, `key`, author_id, takes_back_id, sorting_id"),
}  # fmt: skip

# What was one statement's worth of new rows; what follows runs one after the other.
MADE = (
    """INSERT INTO meters_meter (owner_id, name, number)
       SELECT owner_id, meter, '' FROM before_bench_run WHERE meter <> '' GROUP BY owner_id, meter""",
    """INSERT INTO bench_run (id, title, experiment_id, version, sealed, simulated, meter_id, judged_by, `limit`,
                              against, created, owner_id)
       SELECT old.id, old.title, old.experiment_id, old.version, old.sealed, 0, meter.id, old.judged_by, old.`limit`,
              old.against, old.created, old.owner_id
       FROM before_bench_run old LEFT JOIN meters_meter meter
         ON meter.owner_id = old.owner_id AND meter.name = old.meter""",
    """INSERT INTO bench_runsheet (run_id, sheet_id, kind, author_id, time, renamed)
       SELECT id, sheet_id, 'start', owner_id, created, '{}' FROM before_bench_run ORDER BY id""",
    """INSERT INTO bench_reading (id, run_id, run_sheet_id, quantity, `of`, red, black, through, setup, at, text, unit,
                                  unit_supplied, value, resolution, `range`, meter_id, look, note, author_id, time,
                                  `key`)
       SELECT old.id, old.run_id, followed.id, old.quantity, old.`of`, old.red, old.black, old.through, old.setup, '',
              old.text, old.unit, 0, old.value, old.resolution, old.`range`, meter.id, 0, old.note, old.author_id,
              old.time, old.`key`
       FROM before_bench_reading old
         JOIN bench_runsheet followed ON followed.run_id = old.run_id
         JOIN before_bench_run run ON run.id = old.run_id
         LEFT JOIN meters_meter meter ON meter.owner_id = run.owner_id AND meter.name = old.meter""",
    """INSERT INTO bench_act (run_id, kind, reason, author_id, time, `key`)
       SELECT reading.run_id,
              CASE WHEN old.reason = 'undone' THEN 'undo'
                   WHEN old.reason LIKE 'belongs to another point%%' THEN 'move' ELSE 'strike' END,
              old.reason, old.author_id, old.time, reading.`key`
       FROM before_bench_strike old JOIN before_bench_reading reading ON reading.id = old.reading_id
       ORDER BY old.time, old.reading_id""",
    """INSERT INTO bench_actline (act_id, reading_id, effect)
       SELECT act.id, reading.id, IF(act.kind = 'move', 'move', 'strike')
       FROM before_bench_strike old
         JOIN before_bench_reading reading ON reading.id = old.reading_id
         JOIN bench_act act ON act.run_id = reading.run_id AND act.`key` = reading.`key`""",
    "INSERT INTO bench_drawnpart (id, name, put_back, bin_id, run_id) "
    "SELECT id, name, put_back, bin_id, run_id FROM before_bench_drawnpart",
)

# Old table, and the new one that must have as many rows.
COUNTED = {
    "library_sheet": "experiments_sheet",
    **{old: new for old, (new, _) in COPIED.items()},
    "before_bench_run": "bench_run",
    "before_bench_reading": "bench_reading",
    "before_bench_strike": "bench_actline",
    "before_bench_drawnpart": "bench_drawnpart",
    "before_bench_boardstate": "bench_boardstate",
}


class NotBroughtOverError(Refused):
    """A row cannot be brought over; the message names it, and nothing was changed."""


@dataclass(frozen=True)
class BroughtOver:
    """What was done: the copy's file, and how many rows of each new table came over."""

    copy: Path
    counts: Mapping[str, int]


@dataclass(frozen=True)
class _Prepared:
    """Rows that need a hand, made ready before anything is changed."""

    sheets: list[tuple[Any, ...]]
    boards: list[tuple[Any, ...]]
    touched_leads: list[int]


def is_of_before() -> bool:
    """Whether the database has the tables of before and not those of now."""
    tables = set(connection.introspection.table_names())
    return "library_sheet" in tables and "experiments_sheet" not in tables


def bring_over(folder: Path) -> BroughtOver:
    """Bring everything over, with a copy of every table's rows in `folder` first.

    Raises `NotBroughtOverError` that names the row, and nothing is changed.
    """
    copy = _copied(folder)
    prepared = _prepared()
    foreign = list(_foreign_keys())
    migrations = [tuple(row.values()) for row in _rows("django_migrations")]
    made: list[str] = []
    try:
        _step_aside(foreign)
        known = set(connection.introspection.table_names())
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM django_migrations WHERE app IN %s", [APPS])
        call_command("migrate", "people", "0001", fake=True, verbosity=0)
        call_command("migrate", interactive=False, verbosity=0)
        made = sorted(set(connection.introspection.table_names()) - known)
        with transaction.atomic():
            _fill(prepared)
            counts = _checked_counts()
            _check_readable()
    except Exception as error:
        made = made or sorted(set(connection.introspection.table_names()) - _old_tables())
        _step_back(foreign, made, migrations)
        if isinstance(error, NotBroughtOverError):
            raise
        raise NotBroughtOverError(f"The database of before could not be brought over: {error}") from error
    _drop([f"{ASIDE}{table}" for table in STEPPING_ASIDE] + [*COPIED, "library_sheet"])
    return BroughtOver(copy, counts)


def _rows(table: str) -> Iterator[dict[str, Any]]:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT * FROM {connection.ops.quote_name(table)}")
        names = [column[0] for column in cursor.description]
        yield from (dict(zip(names, row, strict=True)) for row in cursor)


def _copied(folder: Path) -> Path:
    """A file with every row of every table, one JSON object in a line; half-written it never has its name."""
    file = folder / f"before-{timezone.now():%Y%m%d-%H%M%S-%f}.jsonl.gz"
    part = file.with_suffix(".part")
    with gzip.open(part, "wt", encoding="utf-8") as out:
        for table in sorted(connection.introspection.table_names()):
            for row in _rows(table):
                out.write(json.dumps({"table": table, "row": row}, default=str, ensure_ascii=False) + "\n")
    part.rename(file)
    return file


def _prepared() -> _Prepared:
    """Read what cannot simply be copied; raises `NotBroughtOverError` at the first row that cannot be read."""
    sheets, parts = [], {}
    for row in _rows("library_sheet"):
        tree = json.loads(row["tree"])
        # Claims and boards belong to a run; on a sheet they were left over from the document it came from.
        tree = {key: value for key, value in tree.items() if key not in ("claims", "placements", "meters")}
        sheet = _read(f"sheet {row['id']}", lambda tree=tree: run_document.sheet_from_tree({**tree, "readings": []}))
        parts[row["id"]] = sheet.parts
        sheets.append((row["id"], json.dumps(run_document.sheet_to_tree(sheet)), row["created"], row["author_id"]))
    runs = {row["id"]: row["sheet_id"] for row in _rows("bench_run")}
    boards = [_read(f"board state {row['id']}", lambda row=row: _board(row)) for row in _rows("bench_boardstate")]
    touched = [
        row["id"]
        for row in _rows("bench_reading")
        if row["of"] == "leads" and "leads" not in parts[runs[row["run_id"]]]
    ]
    return _Prepared(sheets, boards, touched)


def _read(what: str, read: Any) -> Any:
    try:
        return read()
    except (Refused, KeyError, TypeError, ValueError) as error:
        raise NotBroughtOverError(f"The {what} cannot be read: {error}. Nothing was changed.") from error


def _board(row: Mapping[str, Any]) -> tuple[Any, ...]:
    board = Board(row["rows"], bool(row["split"]))
    placements: dict[str, Placement] = {}
    for name, piece, *holes, pulled in json.loads(row["placements"]):
        first, second = (board.hole(hole) for hole in holes)
        placements[name] = Placement(name, Piece(piece), (first, second), pulled)
    built = Built(board, placements)
    placed, more = json.dumps(placements_tree(built)), json.dumps(board_tree(built))
    return row["id"], row["run_id"], row["setup"], placed, more, row["parts"]


def _foreign_keys() -> Iterator[tuple[str, str, str, str, str]]:
    """Table, name, column, and what it points at, of every foreign key of the tables that step aside."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT table_name, constraint_name, column_name, referenced_table_name, referenced_column_name "
            "FROM information_schema.key_column_usage "
            "WHERE table_schema = DATABASE() AND referenced_table_name IS NOT NULL AND table_name IN %s",
            [STEPPING_ASIDE],
        )
        yield from cursor.fetchall()


def _step_aside(foreign: list[tuple[str, str, str, str, str]]) -> None:
    with connection.cursor() as cursor:
        for table, name, *_ in foreign:
            cursor.execute(f"ALTER TABLE `{table}` DROP FOREIGN KEY `{name}`")
        cursor.execute("RENAME TABLE " + ", ".join(f"`{t}` TO `{ASIDE}{t}`" for t in STEPPING_ASIDE))


def _step_back(
    foreign: list[tuple[str, str, str, str, str]], made: list[str], migrations: list[tuple[Any, ...]]
) -> None:
    """Everything as it was: the new tables gone, the old ones under their names with their foreign keys."""
    tables = set(connection.introspection.table_names())
    moved = [table for table in STEPPING_ASIDE if f"{ASIDE}{table}" in tables]
    _drop([table for table in made if table in tables])
    with connection.cursor() as cursor:
        if moved:
            cursor.execute("RENAME TABLE " + ", ".join(f"`{ASIDE}{t}` TO `{t}`" for t in moved))
        still = {name for _, name, *_ in _foreign_keys()}
        cursor.execute("SET FOREIGN_KEY_CHECKS = 0")  # rows that contradict one another come back as they were
        for table, name, column, other, other_column in foreign:
            if name not in still:
                cursor.execute(
                    f"ALTER TABLE `{table}` ADD CONSTRAINT `{name}` FOREIGN KEY (`{column}`) "
                    f"REFERENCES `{other}` (`{other_column}`)"
                )
        cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
        cursor.execute("DELETE FROM django_migrations")
        cursor.executemany("INSERT INTO django_migrations (id, app, name, applied) VALUES (%s, %s, %s, %s)", migrations)


def _old_tables() -> set[str]:
    """Every table that no migration of now makes anew."""
    tables = connection.introspection.table_names()
    new = ("experiments_", "kits_", "meters_", "bench_", "people_demoaccount", "people_session")
    return {table for table in tables if not table.startswith(new)}


def _fill(prepared: _Prepared) -> None:
    with connection.cursor() as cursor:
        cursor.executemany(
            "INSERT INTO experiments_sheet (id, tree, created, author_id) VALUES (%s, %s, %s, %s)", prepared.sheets
        )
        for old, (new, columns) in COPIED.items():
            order = "takes_back_id IS NOT NULL, id" if "takes_back_id" in columns else "id"
            cursor.execute(f"INSERT INTO {new} ({columns}) SELECT {columns} FROM {old} ORDER BY {order}")
        for statement in MADE:
            cursor.execute(statement, [])
        if prepared.touched_leads:
            cursor.execute("UPDATE bench_reading SET `of` = '' WHERE id IN %s", [prepared.touched_leads])
        if prepared.boards:
            cursor.executemany(
                "INSERT INTO bench_boardstate (id, run_id, setup, placements, board, parts) "
                "VALUES (%s, %s, %s, %s, %s, %s)",
                prepared.boards,
            )


def _checked_counts() -> dict[str, int]:
    counts = {}
    with connection.cursor() as cursor:
        for old, new in COUNTED.items():
            cursor.execute(f"SELECT (SELECT COUNT(*) FROM {old}), (SELECT COUNT(*) FROM {new})")
            before, counts[new] = cursor.fetchone()
            if before != counts[new]:
                raise NotBroughtOverError(f"Of {before} rows of {old} only {counts[new]} came over to {new}.")
    return counts


def _check_readable() -> None:
    """Every run must read as the core's."""
    from recensor.bench import queries
    from recensor.bench.models import Run

    for run in Run.objects.following():
        _read(f"run {run.pk}", lambda run=run: queries.with_boards(run, queries.load(run).core))


def _drop(tables: list[str]) -> None:
    if not tables:
        return
    with connection.cursor() as cursor:
        cursor.execute("SET FOREIGN_KEY_CHECKS = 0")
        cursor.execute("DROP TABLE " + ", ".join(f"`{table}`" for table in tables))
        cursor.execute("SET FOREIGN_KEY_CHECKS = 1")
