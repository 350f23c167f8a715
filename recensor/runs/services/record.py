"""Recording: a reading is appended as it was typed, and an act says what else it does to the books."""

import uuid
from dataclasses import dataclass, replace
from datetime import datetime

from django.db import transaction
from django.utils import timezone

from recensor.core import entries, record
from recensor.core.editing import colour_words
from recensor.core.entries import Entered, Repeat
from recensor.core.errors import Refused
from recensor.core.standing import READ_AGAIN, Rounds, was_left
from recensor.experiments.models import SheetRow
from recensor.meters.models import Meter
from recensor.meters.services import meter_named
from recensor.people.models import User
from recensor.runs import mapping
from recensor.runs.bench_state import is_powered
from recensor.runs.models import ActLine, ActRow, ReadingRow, RunRow, RunSheet
from recensor.runs.queries import RunSnapshot, keep_readings, load, load_locked
from recensor.runs.services.append import append_act, append_line
from recensor.runs.services.start import follow
from recensor.web.refusals import ConflictError
from recensor.web.transactions import atomic_with_retry

_Question = ReadingRow.Question


@dataclass(frozen=True)
class Entry:
    """A reading as the page sends it: its key, when it was typed, and which reading the page showed standing there.

    `unit_is_default`: the unit beside the digits is the page's, not the person's. `declared_as`: what the person says
    that it is beside the reading that stands.
    """

    reading: record.Reading
    key: uuid.UUID
    replaces_seen: int | None = None
    typed_at: datetime | None = None
    unit_is_default: bool = False
    declared_as: Repeat | None = None


@dataclass(frozen=True)
class Recorded:
    """The run with the reading in it, judged, and what came of it; `row` is the one that keeps it."""

    loaded: RunSnapshot
    row: ReadingRow
    entered: Entered


def record_reading(
    run: RunRow,
    author: User,
    reading: record.Reading,
    key: uuid.UUID,
    received: datetime | None = None,
    meter: Meter | None = None,
    **more: object,
) -> ReadingRow:
    """Append one reading as it is. Sent again under the same key it is the reading that stands already.

    Raises `ConflictError` when the key already stands for something else that was typed.
    """
    row = mapping.row_of(reading, run, author, key, received or timezone.now(), meter, **more)
    standing = row.append_once(run=run, key=key)
    if standing is not row and not _same_entry(standing, row):
        raise ConflictError(
            f"This entry was already recorded as {standing} and stays so; to add another reading, press Record again."
        )
    return standing


def enter(run: RunRow, loaded: RunSnapshot, author: User, entry: Entry) -> Recorded:
    """Record what was typed at a point, within the transaction that holds the run.

    It stands instead of the reading that the page showed, beside it, or after it; what shows nothing yet is kept as a
    look, and what is doubtful too, with its question open.
    """
    received = timezone.now()
    named = entry.reading.meter
    meter = run.meter if named is None or (run.meter and run.meter.name == named) else meter_named(author, named)
    reading = replace(entry.reading, time=received, by=author.username, meter=meter.name if meter else None)
    reading = Rounds.of(loaded.core.sheet, loaded.core.readings).add(reading)
    stands = loaded.standing_at(reading.target)
    meanwhile = stands is not None and stands != entry.replaces_seen
    entered = entries.enter(
        loaded.core,
        reading,
        loaded.points,
        unit_is_default=entry.unit_is_default,
        sealed=loaded.is_sealed,
        meanwhile=meanwhile and entry.declared_as is None,
        declared_as=entry.declared_as,
        powered=None if run.simulated else is_powered(loaded),
    )
    kept = entered.run.readings[entered.index]
    question = _Question.NONE
    if entered.doubted:
        question = _Question.MEANWHILE if meanwhile else _Question.DOUBT
    more = {
        "found_id": entry.replaces_seen,
        "typed": entry.typed_at,
        "unit_supplied": entry.unit_is_default,
        "question": question,
    }
    row = record_reading(run, author, kept, entry.key, received, meter, **more)
    if row.time != received:  # sent again: it stands already, as it was taken then
        return Recorded(loaded, row, _as_it_stands(loaded, row))
    act = None
    if entered.replaced is not None:
        text = f"{READ_AGAIN}: {row}"
        act = append_act(run, author, ActRow.Kind.REPLACE, text, key=uuid.uuid5(entry.key, "instead"), time=received)
        append_line(act, loaded.reading_ids[entered.replaced], ActLine.Effect.REPLACE, row.pk)
    elif kept.counted:  # a trial, though others were read in between
        act = append_act(run, author, ActRow.Kind.COUNT, "another trial", time=received)
        append_line(act, row.pk, ActLine.Effect.COUNT)
    elif kept.later and not was_left(loaded.core.readings, kept.target):  # at once, and yet no trial
        act = append_act(run, author, ActRow.Kind.COUNT, f"{entered.repeat.value}: {row}", time=received)
        append_line(act, row.pk, ActLine.Effect.LATER)
    if settle_bands(run, loaded, author, kept):
        return Recorded(load(run, author), row, entered)
    extended = _with(loaded, entered, row, author, act)
    has_profiles_of_before = extended.meters == {**extended.meters, **loaded.meters}
    if entered.replaced is None and has_profiles_of_before:
        transaction.on_commit(lambda: keep_readings(extended))
    return Recorded(extended, row, entered)


@atomic_with_retry
def repeat(run: RunRow, author: User, key: uuid.UUID) -> Recorded:
    """What was read last shows again: another trial of the same. Raises `Refused` where there is nothing to repeat."""
    loaded = load_locked(run, author)
    last = loaded.last_reading
    reading = None if last is None else loaded.core.readings[last]
    if last is None or reading is None or reading.counted is False:
        raise Refused("There is no reading that could be taken once more.")
    same = record.Reading(reading.target, reading.value, reading.range, reading.meter)
    return enter(run, loaded, author, Entry(same, key, loaded.standing_at(reading.target), declared_as=Repeat.TRIAL))


def settle_bands(run: RunRow, loaded: RunSnapshot, author: User, reading: record.Reading) -> bool:
    """Correct the sheet where a part of doubtful bands was measured to have one of the values they leave open."""
    target, sheet = reading.target, loaded.core.sheet
    if not target.is_part_alone or reading.counted is False or reading.value.value is None:
        return False
    settled = colour_words.settled(sheet, target.part, float(reading.value)) if sheet.parts[target.part].maybe else None
    if settled is None:
        return False
    reason = f"the bands of {target.part} are settled by measuring it"
    act = append_act(run, author, ActRow.Kind.CHANGE, reason, time=reading.time)  # done with the entry itself
    follow(run, author, SheetRow.of(settled, author), RunSheet.Kind.CORRECTION, act)
    return True


def accept(run: RunRow, loaded: RunSnapshot, author: User) -> int:
    """Enter on the empty field: what an adjustable source was last read to give is what it stays at.

    The reading's key. Raises `Refused` where the last reading is no look at such a source.
    """
    last = loaded.last_reading
    reading = None if last is None else loaded.core.readings[last]
    if (
        last is None
        or reading is None
        or reading.counted is not False
        or not entries.is_turned_up(reading, loaded.core)
    ):
        raise Refused("Nothing is written here; type what the meter shows.", place="text")
    pk = loaded.reading_ids[last]
    append_line(append_act(run, author, ActRow.Kind.COUNT, "it stays there"), pk, ActLine.Effect.COUNT)
    return pk


def _with(loaded: RunSnapshot, entered: Entered, row: ReadingRow, author: User, act: ActRow | None) -> RunSnapshot:
    """The loaded run with the row in it and what was done with it, as asking for it again would give it."""
    marks = loaded.marks
    if marks is not None:
        marks = marks._replace(last_reading=row.pk, last_act=act.pk if act else marks.last_act)
    questions = {**loaded.questions, **({row.pk: row.question} if row.question else {})}
    meters = {**loaded.meters, **({row.meter.name if row.meter else "": row.profile_id} if row.profile_id else {})}
    return replace(
        loaded,
        reading_ids=(*loaded.reading_ids, row.pk),
        core=entered.run,
        points=_points_with(loaded, row, entered),
        questions=questions,
        asked_about=loaded.asked_about | {row.pk} if row.question else loaded.asked_about,
        last={**loaded.last, author.username: f"r{row.pk}"},
        assessment=entered.assessment,
        marks=marks,
        meters=meters,
    )


def _points_with(loaded: RunSnapshot, row: ReadingRow, entered: Entered) -> list:
    target = entered.run.readings[entered.index].target
    known = any(point.key == target.key for point in loaded.points)
    return loaded.points if known else [*loaded.points, target]


def _as_it_stands(loaded: RunSnapshot, row: ReadingRow) -> Entered:
    """What came of an entry that was sent before."""
    index = loaded.reading_ids.index(row.pk)
    reading = loaded.core.readings[index]
    kind = Repeat.LOOK if reading.counted is False else Repeat.FIRST
    return Entered(loaded.core, loaded.judged(), kind)


def _same_entry(reading: ReadingRow, other: ReadingRow) -> bool:
    fields = (*mapping.TARGET_COLUMNS, "text", "unit")
    return all(getattr(reading, field) == getattr(other, field) for field in fields)
