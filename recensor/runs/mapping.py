"""Rows and core objects, mapped both ways: the one room that knows both."""

import json
import uuid
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from decimal import Decimal
from functools import lru_cache
from typing import Any

from django.utils import timezone

from recensor.core import record
from recensor.core.boards import Built
from recensor.core.circuit import Basis, Columns, Judge, JudgedBy, Part, Sheet, Target, read_part, target_of
from recensor.core.meters import EXACT, ORDINARY_HANDHELD, UNDESCRIBED, Profile
from recensor.core.plan import Opening, State, Way
from recensor.core.quantity import Measurand, Quantity, parse, parse_percent
from recensor.core.standing import Rounds, Stretches
from recensor.formats.documents.board import read_board
from recensor.meters.models import Meter
from recensor.meters.queries import profile_of
from recensor.people.models import User
from recensor.runs import models

# The columns that name a target, and those that a reading of the core is made of.
TARGET_COLUMNS = Columns._fields
COLUMNS = (
    "pk", "run_id", *TARGET_COLUMNS, "text", "unit", "value", "resolution", "range", "meter__name", "profile_id",
    "look", "question", "note", "time", "author__username",
)  # fmt: skip
ACT_COLUMNS = (
    "lines__effect", "lines__other_id", "lines__act_id", "lines__act__kind", "lines__act__reason",
    "lines__act__author__username", "lines__act__time", "lines__act__undone_by", "lines__act__profile_id",
)  # fmt: skip

_Effect, _Kind = models.ActLine.Effect, models.ActRow.Kind
STRIKING = {_Effect.STRIKE, _Effect.MOVE, _Effect.REPLACE}
COUNTING = {_Effect.RESTORE: True, _Effect.COUNT: True, _Effect.NOT_COUNT: False}


@dataclass(frozen=True)
class StoredReadings:
    """What stands in a run: its readings by their keys in the table, in the order in which they were taken.

    `questions` are still open, by the reading that they are about; `last` is for each person what an undo takes back;
    `meters` are the profiles that readings were taken with, by the name that they give their meter; `asked_about` all
    readings that were doubted when they were typed.
    """

    readings: dict[int, record.Reading]
    questions: dict[int, str]
    last: dict[str, str]
    meters: dict[str, int]
    asked_about: frozenset[int]


def row_of(
    reading: record.Reading,
    run: models.RunRow,
    author: User,
    key: uuid.UUID,
    received: datetime,
    meter: Meter | None = None,
    **more: object,
) -> models.ReadingRow:
    """The row that keeps a reading, taken in a run that follows `run.run_sheet_id` now; `more` of its columns.

    It was taken with `meter`, the run's where none is given, and keeps the profile that the meter has now.
    """
    meter = meter or run.meter
    return models.ReadingRow(
        run=run,
        run_sheet_id=run.run_sheet_id,
        **columns_of(reading.target),
        text=reading.value.text,
        unit=reading.value.beside,
        value=reading.value.value,
        resolution=reading.value.resolution,
        range=reading.range.text if reading.range else "",
        meter=meter,
        profile_id=meter.profile_id if meter else None,
        look=reading.counted is False,
        note=reading.note or "",
        author=author,
        time=received,
        key=key,
        **more,
    )


def readings_from_rows(rows: Iterable[Mapping[str, Any]], renamed: Mapping[str, str]) -> StoredReadings:
    """What stands in a run; a row comes once for each line of an act on it, in the order of the acts.

    `renamed` says what parts are called by now that rows name as they were called then.
    """
    taken: dict[int, Mapping[str, Any]] = {}
    lines: dict[int, Mapping[str, Any]] = {}  # the last one on each reading that was not undone
    told: dict[int, Mapping[str, Any]] = {}  # why it contradicts one before
    anew: dict[int, Mapping[str, Any]] = {}  # read again at once, and yet no trial
    found: dict[int, Mapping[str, Any]] = {}  # whose meter was found to be otherwise
    beside = {_Effect.EXPLAIN: told, _Effect.LATER: anew, _Effect.BY_PROFILE: found}
    acts: dict[int, Mapping[str, Any]] = {}
    for row in rows:
        taken[row["pk"]] = _named_now(row, renamed) if renamed else row
        if row["lines__act_id"] is not None and row["lines__act__undone_by"] is None:
            beside.get(row["lines__effect"], lines)[row["pk"]] = row
            acts[row["lines__act_id"]] = row
    # A reading that was put right stands in the place of the one that it was made from.
    places = {pk: pk for pk in taken}
    for pk, line in lines.items():
        if line["lines__effect"] == _Effect.MOVE and line["lines__other_id"] in places:
            places[line["lines__other_id"]] = pk
    order = sorted(taken, key=lambda pk: (_root(places, pk), pk))
    meters = _Meters(taken.values(), found.values())
    return StoredReadings(
        _standing(order, taken, lines, told, anew, meters),
        {pk: row["question"] for pk, row in taken.items() if row["question"] and pk not in lines},
        _last_of_each(taken, lines, acts),
        meters.profiles,
        frozenset(pk for pk, row in taken.items() if row["question"]),
    )


class _Meters:
    """The meters of a run by name; one whose profile was changed meanwhile is another from then on.

    One that was `found` to be otherwise is so in the whole run.
    """

    def __init__(self, rows: Iterable[Mapping[str, Any]], found: Iterable[Mapping[str, Any]]) -> None:
        self.profiles: dict[str, int] = {}
        self._names: dict[tuple[str, int | None], str] = {}
        self._found: dict[str, str] = {}
        for row in sorted(found, key=lambda one: one["lines__act_id"]):
            name = row["meter__name"] or ""
            self._found[name] = name or UNDESCRIBED
            self.profiles[self._found[name]] = row["lines__act__profile_id"]
        for row in rows:
            name, profile = row["meter__name"] or "", row["profile_id"]
            if name not in self._found and profile is not None and (name, profile) not in self._names:
                key = name if name not in self.profiles else f"{name} as of profile {profile}"
                self._names[name, profile] = key
                self.profiles[key] = profile

    def named(self, row: Mapping[str, Any]) -> Mapping[str, Any]:
        """The row with the name that its meter has in this run."""
        name = row["meter__name"] or ""
        key = self._found.get(name) or self._names.get((name, row["profile_id"]), name)
        return row if key == name else {**row, "meter__name": key}


def _named_now(row: Mapping[str, Any], renamed: Mapping[str, str]) -> Mapping[str, Any]:
    return {**row, **{column: renamed.get(row[column], row[column]) for column in ("of", "through", "at")}}


def _root(places: Mapping[int, int], pk: int) -> int:
    while places[pk] != pk:
        pk = places[pk]
    return pk


def _standing(
    order: Sequence[int],
    taken: Mapping[int, Mapping[str, Any]],
    lines: Mapping[int, Mapping[str, Any]],
    told: Mapping[int, Mapping[str, Any]],
    anew: Collection[int],
    meters: _Meters,
) -> dict[int, record.Reading]:
    """Each reading as it stands: struck, counted, a look, instead of another, or read later."""
    index = {pk: k for k, pk in enumerate(order)}
    instead = {
        line["lines__other_id"]: index[pk] for pk, line in lines.items() if line["lines__effect"] == _Effect.REPLACE
    }
    stretches = Stretches()
    readings = {}
    for pk in order:
        reading, line = reading_of(meters.named(taken[pk])), lines.get(pk)
        if line is not None and line["lines__effect"] in STRIKING:
            readings[pk] = replace(reading, struck=_strike(line))
            continue
        if line is not None:
            counted = COUNTING[line["lines__effect"]]
            was_doubted = taken[pk]["question"] == models.ReadingRow.Question.DOUBT
            confirmed = counted and was_doubted and line["lines__act__kind"] != _Kind.SWITCH
            reading = replace(reading, counted=counted, confirmed=confirmed)
        is_later = (stretches.is_later(reading) or pk in anew) and reading.counted is None
        if is_later or pk in instead:
            reading = replace(reading, later=is_later, instead_of=instead.get(pk))
        if pk in told and told[pk]["lines__other_id"] in index:
            why = record.DisagreementReason(told[pk]["lines__act__reason"])
            reading = replace(reading, contradicts=record.DisagreementAnswer(index[told[pk]["lines__other_id"]], why))
        readings[pk] = reading
    return readings


def _last_of_each(
    taken: Mapping[int, Mapping[str, Any]],
    lines: Mapping[int, Mapping[str, Any]],
    acts: Mapping[int, Mapping[str, Any]],
) -> dict[str, str]:
    """For each person the last reading or act of theirs that stands, as an undo names it."""
    found: dict[str, tuple[datetime, int, str]] = {}
    made = {
        row["lines__other_id"] for row in acts.values() if row["lines__act__kind"] not in (_Kind.REPLACE, _Kind.EXPLAIN)
    }
    for pk, row in taken.items():
        line = lines.get(pk)
        if pk not in made and not (line and line["lines__effect"] in STRIKING):
            person, done = row["author__username"], (row["time"], pk, f"r{pk}")
            found[person] = max(found.get(person, done), done)
    for number, row in acts.items():
        if row["lines__act__kind"] in (_Kind.UNDO, _Kind.REPLACE):
            continue  # what was undone stays so; what stands instead goes with its reading
        if row["lines__act__time"] == row["time"]:
            continue  # so does what makes it a trial, done with the entry itself
        person, done = row["lines__act__author__username"], (row["lines__act__time"], number, f"a{number}")
        found[person] = max(found.get(person, done), done)
    return {person: what for person, (_, _, what) in found.items()}


def reading_of(row: Mapping[str, Any]) -> record.Reading:
    """The reading of a row, as it was taken. Rows never change, so each is made a reading of once."""
    return _reading(tuple([row[column] for column in COLUMNS]))


@lru_cache(maxsize=16_384)
def _reading(columns: tuple[Any, ...]) -> record.Reading:
    row = dict(zip(COLUMNS, columns, strict=True))
    target = target_of(Columns(*(row[column] for column in TARGET_COLUMNS)))
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


def row_values(row: models.ReadingRow) -> dict[str, Any]:
    """The columns of a row that was just made, as a query would give them."""
    values = {name: getattr(row, name) for name in COLUMNS if "__" not in name}
    meter = row.meter.name if row.meter else ""
    return {**values, "meter__name": meter, "author__username": row.author.username}


def target_of_row(row: models.OwnValue, renamed: Mapping[str, str]) -> Target:
    """The target that a row names."""
    return target_of(Columns(*(getattr(row, column) for column in TARGET_COLUMNS)).renamed(renamed))


def claim_of(row: models.OwnValue, target: Target) -> record.Claim:
    """What was worked out by hand for a target, as the core judges it."""
    return record.Claim(target, parse(row.text, target.unit, row.unit), formula=row.formula or None)


def judge_of(run: models.RunRow) -> Judge:
    """What decides in this run."""
    return Judge(JudgedBy(run.judged_by), parse_percent(run.limit), Basis(run.against), run.meter_in)


def run_of(run: models.RunRow, sheet: Sheet, readings: StoredReadings) -> record.Run:
    """A run of the core: the sheet that it follows under its own title, judged its own way, and what was read.

    Its meters are the one that was chosen for it, and those that readings were taken with.
    """
    own = replace(sheet, title=run.title, judge=judge_of(run), sealed=run.sealed)
    meters = {name: profile_of(profile) for name, profile in readings.meters.items()}
    if run.meter and run.meter.profile_id and run.meter.name not in meters:
        meters = {run.meter.name: profile_of(run.meter.profile_id), **meters}
    rounds = Rounds(own)
    read = tuple(map(rounds.add, readings.readings.values()) if own.rounds > 1 else readings.readings.values())
    return record.Run(own, read, meters=meters, simulated=run.simulated)


def meter_of(run: models.RunRow) -> Profile:
    """The meter that was chosen for a run; off a screen a perfect one, and where none is known an ordinary one."""
    if run.meter and run.meter.profile_id:
        return profile_of(run.meter.profile_id)
    return EXACT if run.simulated else ORDINARY_HANDHELD


def state_tree(state: State) -> dict[str, Any]:
    """How a bench stands, as a row keeps it."""
    return {**state._asdict(), "opened": asdict(state.opened) if state.opened else None}


def state_of(tree: Mapping[str, Any]) -> State:
    """How a bench stands, out of what a row keeps of it."""
    opened, measurand = tree["opened"], tree["measurand"]
    return State(
        **{
            **tree,
            "opened": Opening(**{**opened, "way": Way(opened["way"])}) if opened else None,
            "measurand": Measurand(measurand) if measurand else None,
        }
    )


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
    return {part.name: part for part in map(read_part, state.parts)}


def older_address(token: str, points: Sequence[Target], number: str) -> Target | None:
    """The target that an unsent entry of an older page names: by its columns as JSON, or by its number."""
    if not token:
        is_number = number.isascii() and number.isdecimal() and len(number) < 6 and int(number) < len(points)
        return points[int(number)] if is_number else None
    try:
        quantity, of, red, black, through, setup, at, step = map(str, json.loads(token))
        return target_of(Columns(quantity, of, red, black, through, setup, at, int(step) if step else None))
    except (ValueError, TypeError):
        return None


def columns_of(target: Target) -> dict[str, Any]:
    """The columns of a row that name a target."""
    return target.columns._asdict()


def _strike(row: Mapping[str, Any]) -> record.Strike:
    return record.Strike(row["lines__act__reason"], row["lines__act__author__username"], row["lines__act__time"])


@lru_cache(maxsize=1024)
def _range(text: str, unit: str) -> Quantity:
    return parse(text, unit)


def _exact(stored: Decimal | None) -> Decimal | None:
    """A stored number without the column's padding zeros."""
    return None if stored is None else stored.normalize() + Decimal(0)


def aware(time: datetime | None, now: datetime) -> datetime:
    """A time with a zone: without one it is taken for that of this place, and now where none is known."""
    if time is None:
        return now
    return time if time.tzinfo else timezone.make_aware(time)
