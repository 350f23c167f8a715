"""What reads the bench's rows."""

import json
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cache, cached_property
from typing import Any
from uuid import UUID

from django.db.models.functions import Lower

from recensor.core import record
from recensor.core.circuit import Sheet, Target, has_place, one_line, read_slug, target_of
from recensor.core.judgement import Assessment, assess, gather
from recensor.core.standing import standing_at
from recensor.experiments import models as experiments
from recensor.experiments.queries import kept_sheet
from recensor.formats.documents import run_document
from recensor.meters.queries import with_instruments
from recensor.people.models import User
from recensor.runs import mapping, readings_cache
from recensor.runs.mapping import StoredReadings
from recensor.runs.models import (
    ActRow,
    BoardState,
    OwnValue,
    Photo,
    ReadingRow,
    Revision,
    RunQuerySet,
    RunRow,
    RunSheet,
    RunText,
)
from recensor.runs.readings_cache import Marks, RunNow
from recensor.web.refusals import ConflictError

# So many of a person's last runs are looked through for circuits to begin with again.
_RECENT = 12

# Built once: naming the columns again for each request would cost as much as asking for them.
_ROWS = ReadingRow.objects.order_by("id", "lines__act_id").values(*mapping.COLUMNS, *mapping.ACT_COLUMNS)


def runs_of(person: User, words: str = "", *, put_away: bool = False) -> RunQuerySet:
    """The person's runs, newest first, with the sheets that they follow; those whose titles have some words in them."""
    query_set = RunRow.objects.filter(owner=person, put_away__isnull=not put_away)
    for word in words.lower().split():
        query_set = query_set.annotate(small=Lower("title")).filter(small__contains=word)
    return query_set.following()


def recent_circuits(person: User) -> list[tuple[str, str]]:
    """The circuits of the person's last runs that can be written in one line, each once: title and line."""
    found: dict[str, str] = {}
    runs = list(runs_of(person)[:_RECENT])
    sheets = _sheets({run.sheet_id for run in runs})
    for run in runs:
        sheet = sheets[run.sheet_id]
        line = one_line.write(sheet, sheet.setup()) if not sheet.several else None
        if line:
            found.setdefault(line, run.title)
    return [(title, line) for line, title in found.items()]


def last_meter(person: User) -> str:
    """The name of the meter that the person's last run was begun with; empty where there was none."""
    last = RunRow.objects.filter(owner=person).select_related("meter").first()
    return last.meter.name if last and last.meter else ""


@cache
def _followed() -> RunQuerySet:
    """Put together once: what a run follows now is asked for with every request."""
    return RunRow.objects.following()


def any_run() -> RunQuerySet:
    """Every run with the sheet that it follows, to look one up in."""
    return _followed().all()


@dataclass(frozen=True)
class RunSnapshot:
    """A run as a page needs it: its readings' keys in the table, what the core judges, the points of its ledger.

    `questions` are open still, by the key of the reading that they are about; `last` is what an undo takes back, for
    each person. `assessment` is there where the run was judged already. `own` are the values that were worked out by
    hand, by the key of their target; None where nobody is to be asked for any. `moved_state` is how the bench stood
    after what was last said to be done at it, `asked_about` the readings that were doubted when they were typed.
    `renamed` says what parts are called by now; `marks` how far the run is, `meters` with which profiles it was read,
    `has_boards` whether anything may stand on a board, `was_changed` whether its circuit was ever another one.
    """

    reading_ids: tuple[int, ...]
    core: record.Run
    points: list[Target]
    questions: Mapping[int, str] = field(default_factory=dict)
    last: Mapping[str, str] = field(default_factory=dict)
    assessment: Assessment | None = None
    own: Mapping[Target, Sequence[OwnValue]] | None = None
    moved_state: Mapping[str, Any] | None = None
    moved_time: datetime | None = None
    asked_about: frozenset[int] = frozenset()
    renamed: Mapping[str, str] = field(default_factory=dict)
    marks: Marks | None = None
    meters: Mapping[str, int] = field(default_factory=dict)
    has_boards: bool = True
    was_changed: bool = False

    def judged(self) -> Assessment:
        """The run, judged."""
        if self.assessment or self.marks is None:
            return self.assessment or assess(self.core)
        found = readings_cache.assessments.find(self.marks.run, self.core)
        if found is None:
            found = assess(self.core)
            readings_cache.assessments.keep(self.marks.run, self.core, found)
        return found

    def index_of(self, reading_id: int | None) -> int | None:
        """The place of a reading in the run; None where it has no such one."""
        return self.reading_ids.index(reading_id) if reading_id in self.reading_ids else None

    @property
    def last_reading(self) -> int | None:
        """The place of the last reading that is not struck; None where there is none."""
        readings = self.core.readings
        return next((k for k in range(len(readings) - 1, -1, -1) if readings[k].struck is None), None)

    def standing_at(self, target: Target) -> int | None:
        """The key of the reading that stands at a point; None where none does."""
        place = standing_at(self.core.readings, target)
        return None if place is None else self.reading_ids[place]

    def asked_at(self, target: Target) -> list[int]:
        """The places of the readings of a measurement that are asked about still."""
        places = map(self.reading_ids.index, self.questions)
        return [k for k in places if self.core.readings[k].target.key == target.key]

    @cached_property
    def is_sealed(self) -> bool:
        """Whether calculated values are still kept back: the run is sealed, and not every point has been read."""
        if not self.core.sheet.sealed:
            return False
        measurements = gather(self.core)
        return not all(measurements.of(target) for target in self.core.sheet.asked)

    def with_point(self, target: Target) -> "RunSnapshot":
        """The run with one point more to be read, where it has not got it yet."""
        return self if self.as_point(target) in self.points else replace(self, points=[*self.points, target])

    def as_point(self, target: Target) -> Target:
        """A target with its leads as the run's own point has them, where it has one."""
        return next((point for point in self.points if point.key == target.key), target)

    def target_of(self, reading_id: int) -> Target:
        """What a reading is of, with its leads as its point has them."""
        return self.as_point(self.core.readings[self.reading_ids.index(reading_id)].target)

    def target_at(self, address: str | None) -> Target | None:
        """The measurement of an address, its leads as its point has them; one of before a rename still finds it.

        None where it is no address, or this run has not got what it names.
        """
        target = read_slug(address or "")
        if target is None:
            return None
        if not has_place(target, self.core.sheet):
            target = target_of(target.columns.renamed(self.renamed))
        return self.as_point(target) if has_place(target, self.core.sheet) else None


def load(run: RunRow, reader: User | None = None) -> RunSnapshot:
    """Everything about a run that follows a sheet, with one query for its readings and the acts on them.

    As its `reader` judges; where they, or the run, want it also what was worked out by hand, by one more query.
    """
    marks, now = readings_cache.marks_of(run.pk)
    return _snapshot(run, reader, *_readings(run, marks), now)


def _readings(run: RunRow, marks: Marks) -> tuple[StoredReadings, Marks]:
    """What was read in a run that is as far as its marks say, and how far that is."""
    renamed = json.dumps(run.renamed, sort_keys=True)
    if renamed == marks.renamed and (kept := readings_cache.find(marks)):
        return kept, marks
    readings = mapping.readings_from_rows(_ROWS.filter(run_id=run.pk), run.renamed)
    if renamed == marks.renamed and max(readings.readings, default=None) == marks.last_reading:
        readings_cache.keep(marks, readings)
    return readings, marks


def keep_readings(loaded: RunSnapshot) -> None:
    """Keep what was read in a run, as it is now that another reading is in it, for whoever asks for it next."""
    readings = dict(zip(loaded.reading_ids, loaded.core.readings, strict=True))
    stored = StoredReadings(
        readings, dict(loaded.questions), dict(loaded.last), dict(loaded.meters), loaded.asked_about
    )
    if loaded.marks is not None:
        readings_cache.keep(loaded.marks, stored)
        if loaded.assessment:
            readings_cache.assessments.keep(loaded.marks.run, loaded.core, loaded.assessment)


def _snapshot(run: RunRow, reader: User | None, readings: StoredReadings, marks: Marks, now: RunNow) -> RunSnapshot:
    core = mapping.run_of(run, kept_sheet(run.sheet_id), readings)
    is_asked = run.own_calculations or core.sheet.predicted or (reader and reader.own_calculations)
    values = own_values(run) if is_asked else None
    core = replace(core, by_size=bool(reader and reader.drops_by_size), seen=_seen(run, core.sheet))
    core = _with_own(core, values or {})
    return RunSnapshot(
        tuple(readings.readings),
        core,
        points(core),
        readings.questions,
        readings.last,
        own=values,
        moved_state=None if run.simulated else now.moved_state,
        moved_time=None if run.simulated else now.moved_time,
        asked_about=readings.asked_about,
        renamed=run.renamed,
        marks=marks,
        meters=readings.meters,
        has_boards=now.has_boards,
        was_changed=now.sheet_kind != RunSheet.Kind.START,
    )


def _with_own(core: record.Run, values: Mapping[Target, Sequence[OwnValue]]) -> record.Run:
    """The run with what was worked out by hand for points that it still has."""
    claims = (mapping.claim_of(rows[-1], target) for target, rows in values.items())
    return replace(core, claims=tuple(claim for claim in claims if has_place(claim.target, core.sheet)))


def _seen(run: RunRow, sheet: Sheet) -> tuple[record.Seen, ...]:
    """What was seen last of each part that lights; not asked for where nothing does."""
    if not any(part.kind.lights for part in sheet.parts.values()):
        return ()
    sightings = run.sightings.order_by("id").values_list("setup", "part", "light")
    last = {(setup, part): light for setup, part, light in sightings}
    return tuple(
        record.Seen(setup, part, record.Light(light))
        for (setup, part), light in last.items()
        if light and setup in sheet.setups and part in sheet.setups[setup].connections and sheet.parts[part].kind.lights
    )


def own_values(run: RunRow) -> dict[Target, list[OwnValue]]:
    """The values that were worked out for each target, in order; the last one is the person's."""
    found: dict[Target, list[OwnValue]] = {}
    for row in OwnValue.objects.filter(run_id=run.pk).order_by("id"):
        found.setdefault(mapping.target_of_row(row, run.renamed).key, []).append(row)
    return found


class ClosedError(ConflictError):
    """The run is signed off: nothing is recorded in it."""

    def __init__(self) -> None:
        super().__init__("This run is signed off, and closed. To change anything, open a revision on its report.")


def lock(run: RunRow, *, closed_too: bool = False) -> None:
    """Until the transaction's end nobody else changes this run. Raises `ClosedError` where it is signed off."""
    run.closed = RunRow.objects.select_for_update().values_list("closed", flat=True).get(pk=run.pk)
    if run.closed and not closed_too:
        raise ClosedError


def load_locked(run: RunRow, reader: User | None = None, *, closed_too: bool = False) -> RunSnapshot:
    """The same within a transaction: until its end nobody else records in this run. Raises `ClosedError`."""
    lock(run, closed_too=closed_too)
    marks, now = readings_cache.marks_of(run.pk)
    run.run_sheet_id, run.sheet_id, run.renamed = now.run_sheet_id, now.sheet_id, now.renamed
    return _snapshot(run, reader, *_readings(run, marks), now)


def load_runs(runs: Sequence[RunRow]) -> list[record.Run]:
    """Several runs at once, with one query for all their readings and one for their sheets."""
    found: dict[int, list[Mapping[str, Any]]] = defaultdict(list)
    for row in _ROWS.filter(run__in=[run.pk for run in runs]):
        found[row["run_id"]].append(row)
    sheets = _sheets({run.sheet_id for run in runs})
    return [
        mapping.run_of(run, sheets[run.sheet_id], mapping.readings_from_rows(found[run.pk], run.renamed))
        for run in runs
    ]


def _sheets(ids: set[UUID]) -> dict[UUID, Sheet]:
    return {row.pk: row.as_sheet() for row in experiments.SheetRow.objects.filter(pk__in=ids)}


def photos_of(reading_ids: Sequence[int]) -> dict[int, tuple[int, ...]]:
    """The photos of these readings, by their keys."""
    found: dict[int, tuple[int, ...]] = {}
    for photo, reading in Photo.objects.filter(reading__in=reading_ids).values_list("pk", "reading_id"):
        found[reading] = (*found.get(reading, ()), photo)
    return found


def with_photos(loaded: RunSnapshot) -> record.Run:
    """The run with the sums of its photos, as a document names them."""
    sums: dict[int, tuple[str, ...]] = {}
    for reading, digest in Photo.objects.filter(reading__in=loaded.reading_ids).values_list("reading_id", "sum"):
        sums[reading] = (*sums.get(reading, ()), digest)
    readings = zip(loaded.reading_ids, loaded.core.readings, strict=True)
    return replace(loaded.core, readings=tuple(replace(r, photos=sums.get(pk, ())) for pk, r in readings))


def last_board(run: RunRow, setup: str) -> BoardState | None:
    """The board of a setup as it stands; None before anything is on it."""
    return run.board_states.filter(setup=setup).last()


def last_done(loaded: RunSnapshot, person: User) -> str:
    """The last thing that a person did in a run and that can be undone, as an undo names it; empty for nothing.

    A change of the circuit is one as long as nothing was read since, by whomever.
    """
    last, marks = loaded.last.get(person.username, ""), loaded.marks
    if marks is None or not loaded.was_changed or last == f"a{marks.last_act}":
        return last
    changes = ActRow.objects.filter(run_id=marks.run, author=person, kind=ActRow.Kind.CHANGE, lines=None)
    act = changes.filter(undone_by=None).exclude(sheets=None).order_by("-pk").first()
    if act is None or (last.startswith("a") and int(last[1:]) > act.pk):
        return last
    read = [reading.time for reading in loaded.core.readings if reading.time and reading.struck is None]
    return f"c{act.pk}" if max(read, default=act.time) < act.time or not read else last


def with_boards_of(run: RunRow, loaded: RunSnapshot) -> RunSnapshot:
    """The loaded run with what stands on its boards, for what asks where leads are."""
    if not loaded.has_boards:
        return loaded
    return replace(loaded, core=with_boards(run, loaded.core), assessment=None)


def with_boards(run: RunRow, core: record.Run) -> record.Run:
    """A run with what stands on its boards now."""
    states = {state.setup: state for state in run.board_states.all()}
    return mapping.with_boards(core, (states[name] for name in core.sheet.setups if name in states))


def last_text(run: RunRow, kind: str) -> RunText | None:
    """Notes or the conclusion as they stand; None before anything was written."""
    return run.texts.filter(kind=kind).order_by("-id").first()


def last_revision(run: RunRow) -> Revision | None:
    """The run as it was last signed off; None where it never was."""
    return run.revisions.prefetch_related("signatures__signer").last()


def document_of(revision: Revision) -> record.Run:
    """What was signed, with its signatures."""
    signed = tuple(
        record.Signature(
            signature.signer.username, record.SignedAs(signature.signed_as), revision.checksum, signature.time
        )
        for signature in revision.signatures.all()
    )
    return replace(run_document.read(revision.document), signed=signed)


def whole(run: RunRow, loaded: RunSnapshot) -> record.Run:
    """A run with all that its document says; one that is signed off as it was signed."""
    revision = last_revision(run) if run.closed else None
    if revision is None:
        return unsigned(run, loaded)
    return replace(document_of(revision), by_size=loaded.core.by_size)


def unsigned(run: RunRow, loaded: RunSnapshot) -> record.Run:
    """A run as its rows are: with boards, photos, texts, all that was worked out, and what was done to what was read.

    Whoever reads it, it is the same: its checksum is what people sign.
    """
    core = with_boards(run, with_photos(loaded))
    if loaded.own is None:
        core = _with_own(core, own_values(run))
    texts = {kind: text.text if (text := last_text(run, kind)) else "" for kind in RunText.Kind.values}
    acts = run.acts.select_related("author", "undoes").order_by("id")
    history = tuple(record.Happening(_said_of(act), act.author.username, act.time) for act in acts)
    named = dict.fromkeys(reading.meter for reading in core.readings if reading.meter)
    meters = with_instruments(run.owner, core.meters, [*named, *([run.meter.name] if run.meter else [])])
    return replace(core, meters=meters, notes=texts["notes"], conclusion=texts["conclusion"], history=history)


def _said_of(act: ActRow) -> str:
    if act.undoes:
        return f"undone: {act.undoes.kind}{f', {act.undoes.reason}' if act.undoes.reason else ''}"
    return f"{act.kind}: {act.reason}" if act.reason else act.kind


def points(run: record.Run) -> list[Target]:
    """The points of the ledger: what the sheet asks for, then whatever else was read; only ever grows."""
    targets = {target.key: target for target in run.sheet.asked}
    for reading in run.readings:
        targets.setdefault(reading.target.key, reading.target)
    return list(targets.values())
