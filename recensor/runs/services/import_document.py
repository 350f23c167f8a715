"""A run out of a document: begun with its readings as they stand there, and with what came beside them."""

import uuid
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import date

from django.utils import timezone

from recensor.core import lengths, meters, record, safety
from recensor.core.boards import Built, Piece
from recensor.core.circuit import Sheet
from recensor.core.editing import accepted
from recensor.core.errors import Refused
from recensor.core.standing import was_left
from recensor.formats.documents.board import board_tree, placements_tree
from recensor.meters.models import Meter
from recensor.meters.queries import profile_of
from recensor.meters.services import keep_meter, keep_profile, meter_named, shipped
from recensor.people.models import User
from recensor.runs import mapping
from recensor.runs.models import ActLine, ActRow, BoardState, OwnValue, ReadingRow, RunRow, RunText, Sighting
from recensor.runs.services.append import append_act, append_line
from recensor.runs.services.import_readings import LONGEST_NOTE, MOST_READINGS
from recensor.runs.services.meter_found import judge_with, read_with
from recensor.runs.services.start import numbered_key, start_run
from recensor.web.transactions import atomic_with_retry


def left_behind(run: record.Run) -> Iterator[str]:
    """What of a document a run has no place for, in words; everything else comes."""
    if others := sorted({reading.by for reading in run.readings if reading.by}):
        yield f"Who read: here it is you. The file names {', '.join(others)}."
    if photos := sum(len(reading.photos) for reading in run.readings):
        yield f"{photos} photo{'s' * (photos > 1)}: a document has only their sums."
    if how := sum(claim.combined is not None for claim in run.claims):
        yield f"How {how} of the values worked out follow from readings; the values come."
    if run.signed:
        yield "Signatures: they are of the file. Keep it, and check it with “recensor check”."
    if run.history:
        yield f"The history of the file, {len(run.history)} lines: the run begins its own."
    if long := sum(len(reading.note or "") > LONGEST_NOTE for reading in run.readings):
        yield f"The ends of {long} notes of more than {LONGEST_NOTE} letters."
    for setup, built in run.boards.items():
        if not _is_of_circuit(built, run.sheet, setup):
            yield f"The board of {setup}: parts stand on it that the circuit does not have."


def _is_of_circuit(built: Built, sheet: Sheet, setup: str) -> bool:
    return all(
        placement.name in sheet.setups[setup].connections
        for placement in built.placements.values()
        if placement.piece is Piece.PART
    )


@atomic_with_retry
def import_run(owner: User, run: record.Run, key: uuid.UUID | None = None) -> RunRow:
    """Begin a run that stands as a document says. Brought twice under one key it is one run. Raises `Refused`."""
    safety.refuse_paper_only(run.sheet, simulated=run.simulated)
    if len(run.readings) > MOST_READINGS:
        raise Refused(f"It has {len(run.readings)} readings; a run is brought in with at most {MOST_READINGS}.")
    accepted(run.sheet)  # what no experiment may be, no run is
    for name in {*run.meters, *(reading.meter for reading in run.readings if reading.meter)}:
        if len(name) > lengths.NAME:
            raise Refused(f"A meter's name has at most {lengths.NAME} letters, not {len(name)}: “{name[:40]}…”.")
    own = {name: _instrument(owner, name, profile) for name, profile in run.meters.items()}
    only = next(iter(own.values())) if len(own) == 1 else None
    sheet = replace(run.sheet, title=run.sheet.title[: lengths.TITLE] or "Run")
    row = start_run(owner, sheet, only.name if only else "", key=key, simulated=run.simulated,
                    own_calculations=bool(run.claims))  # fmt: skip
    if row.readings.exists():
        return row  # brought already, by the same press
    _readings(row, owner, run, own)
    _found(row, owner, run)
    now = timezone.now()
    for number, claim in enumerate(run.claims):
        OwnValue(run=row, **mapping.columns_of(claim.target), text=claim.value.text, unit=claim.value.beside,
                 formula=(claim.formula or "")[: lengths.FORMULA], author=owner, time=now,
                 key=numbered_key(row, -1 - number)).save()  # fmt: skip
    for seen in run.seen:
        Sighting(run=row, setup=seen.setup, part=seen.part, light=seen.light, author=owner, time=now).save()
    for kind, text in ((RunText.Kind.NOTES, run.notes), (RunText.Kind.CONCLUSION, run.conclusion)):
        if text:
            RunText(run=row, kind=kind, text=text, author=owner, time=now).save()
    for setup, built in run.boards.items():
        if _is_of_circuit(built, run.sheet, setup):
            BoardState.objects.create(run=row, setup=setup, placements=placements_tree(built), board=board_tree(built))
    return row


def _instrument(owner: User, name: str, profile: meters.Profile) -> Meter:
    """The owner's meter of a name and a profile, made where they have none; beside one that is another by its name."""
    instrument = profile.instrument
    number = (instrument.number or "")[: lengths.NAME]
    profile = replace(profile, instrument=meters.Instrument(), found=meters.NOTHING_FOUND)
    for called in (name, f"{name[: lengths.NAME - 12]} from a file"):
        meter = owner.meters.filter(name=called).select_related("profile").first()
        if meter is None:
            kept = None
            if profile.name in meters.SHIPPED:
                kept = shipped(owner, profile.name)
            elif profile.ranges:
                kept = keep_profile(owner, replace(profile, name=name))
            return keep_meter(owner, None, called, number, _date(instrument.calibrated), kept)
        has = profile_of(meter.profile_id) if meter.profile_id else None
        if (not profile.ranges) if has is None else has.ranges == profile.ranges:
            return meter
    raise Refused(f"You have two meters called {name} already, and the file's is a third; rename one.")


def _found(row: RunRow, owner: User, run: record.Run) -> None:
    """How its meters were found to be, in this run."""
    for name, profile in run.meters.items():
        place = read_with(run.readings, name)
        if place is not None and profile.found != meters.NOTHING_FOUND:
            judge_with(row, owner, profile, row.readings.order_by("pk")[place].pk, "as found in the file")


def _date(text: str | None) -> date | None:
    """A date as written in a document; None where it is none."""
    try:
        return date.fromisoformat(text) if text else None
    except ValueError:
        return None


def _readings(row: RunRow, owner: User, run: record.Run, own: Mapping[str, Meter]) -> None:
    """Insert all readings together, then what was done to them."""
    now = timezone.now()
    made = []
    for number, reading in enumerate(run.readings):
        meter = (own.get(reading.meter) or meter_named(owner, reading.meter)) if reading.meter else row.meter
        short = replace(reading, note=(reading.note or "")[:LONGEST_NOTE])
        made.append(
            mapping.row_of(short, row, owner, numbered_key(row, number), mapping.aware(reading.time, now), meter)
        )
    readings = ReadingRow.objects.bulk_create(made)
    instead = {
        reading.instead_of: readings[k] for k, reading in enumerate(run.readings) if reading.instead_of is not None
    }
    for number, reading in enumerate(run.readings):
        if reading.struck:
            by = instead.get(number)
            kind = ActRow.Kind.REPLACE if by else ActRow.Kind.STRIKE
            act = append_act(row, owner, kind, reading.struck.reason[:lengths.REASON],
                             time=mapping.aware(reading.struck.time, now))  # fmt: skip
            effect = ActLine.Effect.REPLACE if by else ActLine.Effect.STRIKE
            append_line(act, readings[number].pk, effect, by.pk if by else None)
        elif reading.counted:
            append_line(append_act(row, owner, ActRow.Kind.COUNT, "counted in the file", time=now), readings[number].pk,
                        ActLine.Effect.COUNT)  # fmt: skip
        if reading.later and reading.struck is None and not was_left(run.readings[:number], reading.target):
            act = append_act(row, owner, ActRow.Kind.COUNT, "read again in the file", time=now)
            append_line(act, readings[number].pk, ActLine.Effect.LATER)
        if answer := reading.contradicts:
            act = append_act(row, owner, ActRow.Kind.EXPLAIN, answer.reason.value, time=now)
            append_line(act, readings[number].pk, ActLine.Effect.EXPLAIN, readings[answer.earlier].pk)
