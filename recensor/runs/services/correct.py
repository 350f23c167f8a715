"""Putting right what was recorded: each correction, answer and undo is one act, and nothing that was read is lost."""

import uuid
from dataclasses import replace

from recensor.core import entries, record
from recensor.core.editing import setup_changes
from recensor.core.entries import Answer, AnswerKind, CorrectionKind
from recensor.core.errors import Refused
from recensor.core.figures import as_read
from recensor.core.judgement import Disagreement
from recensor.core.quantity import parse
from recensor.core.record import DisagreementReason
from recensor.core.standing import standing_at
from recensor.experiments.models import SheetRow
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActLine, ActRow, ReadingRow, RunRow, RunSheet
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.append import append_act, append_line
from recensor.runs.services.record import record_reading, settle_bands
from recensor.runs.services.start import follow, take_back
from recensor.web.refusals import ConflictError
from recensor.web.transactions import atomic_with_retry

_Effect, _Kind = ActLine.Effect, ActRow.Kind

_KINDS = {
    CorrectionKind.SIGN: (_Kind.MEND, "the leads were turned"),
    CorrectionKind.THOUSAND: (_Kind.MEND, "another unit was meant"),
    CorrectionKind.THOUSANDTH: (_Kind.MEND, "another unit was meant"),
    CorrectionKind.BELONGS: (_Kind.MOVE, "it belongs to another point"),
    CorrectionKind.SHIFT_BACK: (_Kind.SHIFT, "typed one point too far on"),
    CorrectionKind.SHIFT_ON: (_Kind.SHIFT, "typed one point too early"),
    CorrectionKind.STRIKE: (_Kind.STRIKE, "struck"),
    CorrectionKind.TRIAL: (_Kind.SWAP, "another trial"),
    CorrectionKind.INSTEAD: (_Kind.SWAP, "instead of the one before"),
    CorrectionKind.LOOK: (_Kind.COUNT, "only a look"),
    CorrectionKind.COUNT: (_Kind.COUNT, "it counts"),
}


@atomic_with_retry
def correct_reading(run: RunRow, author: User, reading_id: int, name: str, reason: str = "") -> int:
    """Carry out one of the corrections of a standing reading; the key of the reading whose point is gone on from."""
    loaded = queries.load_locked(run)
    index = _standing(loaded, reading_id)
    correction = next((m for m in entries.corrections(loaded.core, loaded.points, index) if m.name == name), None)
    if correction is None:
        raise Refused("This cannot be done to the reading, as it stands by now.")
    kind, usual = _KINDS[correction.kind]
    act = append_act(run, author, kind, reason.strip() or usual)
    gone_on_from = reading_id
    for place, changed in correction.moved.items():
        old, pk = loaded.core.readings[place], loaded.reading_ids[place]
        if (changed.target, changed.value) != (old.target, old.value):
            made = made_instead(run, author, act, loaded, place, changed)
            gone_on_from = made if place == index else gone_on_from
        elif changed.struck and place != index:
            append_line(act, pk, _Effect.REPLACE, reading_id)
        elif changed.struck:
            append_line(act, pk, _Effect.STRIKE)
        elif old.struck or changed.counted != old.counted:
            append_line(act, pk, _Effect.NOT_COUNT if changed.counted is False else _Effect.COUNT)
    return gone_on_from


@atomic_with_retry
def answer_question(run: RunRow, author: User, reading_id: int, answer: Answer) -> int:
    """Say what a doubtful entry is; the key of the reading whose point is gone on from.

    Raises `Refused` where its question is answered already.
    """
    loaded = queries.load_locked(run)
    if reading_id not in loaded.questions:
        raise Refused("This is answered already.")
    index = _standing(loaded, reading_id)
    reading = loaded.core.readings[index]
    match answer.means:
        case AnswerKind.AS_TYPED | AnswerKind.TRIAL:
            append_line(append_act(run, author, _Kind.COUNT, "as typed"), reading_id, _Effect.COUNT)
        case AnswerKind.AGAIN:
            append_line(append_act(run, author, _Kind.COUNT, "read again"), reading_id, _Effect.NOT_COUNT)
        case AnswerKind.TURNING:
            part = loaded.core.sheet.source_read_at(reading.target)
            if part is None:
                raise Refused("This reads no source.")
            act = append_act(run, author, _Kind.COUNT, "still being turned up")
            append_line(act, reading_id, _Effect.NOT_COUNT)
            knob = setup_changes.with_knob(loaded.core.sheet, part.name)
            follow(run, author, SheetRow.of(knob, author), RunSheet.Kind.CORRECTION, act)
        case AnswerKind.INSTEAD:
            before = standing_at(loaded.core.readings[:index], reading.target)
            if before is None:
                raise Refused("Nothing stands here any more that it could replace.")
            act = append_act(run, author, _Kind.SWAP, "instead of the one before")
            append_line(act, loaded.reading_ids[before], _Effect.REPLACE, reading_id)
            append_line(act, reading_id, _Effect.COUNT)
        case AnswerKind.SWITCHED:
            append_line(append_act(run, author, _Kind.SWITCH, "power was switched"), reading_id, _Effect.COUNT)
        case AnswerKind.SET_ANEW:
            return _set_anew(run, author, loaded, index)
        case AnswerKind.MEANT | AnswerKind.BELONGS | AnswerKind.RANGE:
            return _meant(run, author, loaded, index, answer)
    return reading_id


def _meant(run: RunRow, author: User, loaded: RunSnapshot, index: int, answer: Answer) -> int:
    """Another text, range or point was meant: it stands there as if it had been typed so."""
    reading = loaded.core.readings[index]
    if answer.means is AnswerKind.RANGE:
        ranged = replace(reading, range=parse(answer.text, reading.target.unit), counted=None)
        return made_instead(run, author, append_act(run, author, _Kind.MEND, "another range"), loaded, index, ranged)
    target = answer.target or reading.target
    if target.measurand is not reading.target.measurand and not (answer.target and answer.text):
        raise Refused(f"“{reading.value.text}” is no {target.measurand}.")
    text = answer.text or reading.value.text
    value = parse(text, target.unit, "" if answer.text else reading.value.beside)
    meant = replace(reading, target=target, value=value, counted=None, later=False, instead_of=None)
    kind = _Kind.MEND if answer.text else _Kind.MOVE
    act = append_act(run, author, kind, "another unit was meant" if answer.text else f"it is {target.words}")
    for place in loaded.asked_at(target) if answer.target else ():
        append_line(act, loaded.reading_ids[place], _Effect.NOT_COUNT)  # what it answers is a slip
    return made_instead(run, author, act, loaded, index, meant)


def _set_anew(run: RunRow, author: User, loaded: RunSnapshot, index: int) -> int:
    """The source was set to another value: from here on the circuit is in another state."""
    reading, sheet = loaded.core.readings[index], loaded.core.sheet
    part = sheet.source_read_at(reading.target)
    if part is None:
        raise Refused("This reads no source.")
    changed, name = setup_changes.source_set_anew(sheet, reading.target.setup, part.name, reading.value)
    act = append_act(run, author, _Kind.MOVE, f"{part.name} was set anew")
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CHANGE, act)
    there = replace(reading, target=reading.target.in_setup(name, changed), counted=None, later=False)
    return made_instead(run, author, act, loaded, index, there)


@atomic_with_retry
def take_as_read(run: RunRow, author: User, reading_id: int) -> int:
    """A source that cannot be set is what it was read to give: all is calculated from that; the reading's key.

    Raises `Refused` where the reading is of no source, or shows no value.
    """
    loaded = queries.load_locked(run)
    reading, sheet = loaded.core.readings[_standing(loaded, reading_id)], loaded.core.sheet
    part = sheet.source_read_at(reading.target)
    if part is None or reading.value.value is None:
        raise Refused("This reads no source.")
    changed = setup_changes.source_as_read(sheet, reading.target.setup, part.name, reading.value)
    shown, unit = as_read(reading.value, part.kind.unit), part.kind.unit
    label = f", marked {as_read(part.nominal, unit)}" if part.nominal else ""
    act = append_act(run, author, _Kind.CHANGE, f"{part.name}{label}, is {shown} as it was read")
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CORRECTION, act)
    return reading_id


@atomic_with_retry
def explain(run: RunRow, author: User, reading_id: int, why: DisagreementReason) -> int:
    """Say why a reading contradicts one before it; the key of the reading whose point is gone on from.

    Where the circuit was connected otherwise in between, what was read before belongs to another state of it. Raises
    `Refused` where nothing contradicts it any more.
    """
    loaded = queries.load_locked(run)
    index = _standing(loaded, reading_id)
    found = next((one for one in loaded.judged().disagreements if one.index == index and one.is_open), None)
    if found is None:
        raise Refused("Nothing contradicts this reading any more.")
    if why is DisagreementReason.REWIRED and found.target.in_circuit:
        return _rewired(run, author, loaded, found)
    act = append_act(run, author, _Kind.EXPLAIN, why.value)
    append_line(act, reading_id, _Effect.EXPLAIN, loaded.reading_ids[found.earlier])
    return reading_id


def _rewired(run: RunRow, author: User, loaded: RunSnapshot, found: Disagreement) -> int:
    """What was read of the measurement before belongs to the circuit as it was then."""
    changed, name = setup_changes.state_before(loaded.core.sheet, found.target.setup or "")
    act = append_act(run, author, _Kind.MOVE, "connected otherwise in between")
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CHANGE, act)
    standings = loaded.judged().against.measurements.standings
    for k, reading in enumerate(loaded.core.readings[: found.index]):
        is_of_it = reading.target.key == found.target.key
        if is_of_it and (standings[k].was_read or k == found.earlier):
            there = replace(reading, target=reading.target.in_setup(name, changed), later=False, instead_of=None,
                            struck=None, contradicts=None)  # fmt: skip
            made_instead(run, author, act, loaded, k, there)
    return loaded.reading_ids[found.index]


@atomic_with_retry
def undo(run: RunRow, author: User, named: str) -> int | None:
    """Take back the last thing that the author did, which must be the one that the page named.

    The key of the reading whose point is gone to. Asked for again, since its answer was lost, it is done already.
    """
    loaded = queries.load_locked(run)
    what, number = named[:1], int(named[1:]) if named[1:].isdecimal() else 0
    if what == "c":
        _undo_change(run, author, loaded, number)
        return None
    if what == "a":
        act = ActRow.objects.filter(run=run, author=author, pk=number).first()
        reading = act.lines.first().reading if act else None
    else:
        act = None
        reading = ReadingRow.objects.filter(run=run, author=author, pk=number).first()
    if reading is None:
        raise Refused("There is nothing of yours left to undo.")
    last = queries.last_done(loaded, author)
    if last != named:
        done = ActRow.objects.filter(undoes=act) if act else reading.lines.filter(act__kind=_Kind.UNDO)
        if done.exists():
            return reading.pk
        if last is not None:
            raise ConflictError("You have done something else since; undo once more takes that back.")
        raise Refused("There is nothing of yours left to undo.")
    if act:
        _undo_act(run, author, act)
    else:
        replacing = ActLine.objects.filter(other=reading, act__kind=_Kind.REPLACE, act__undone_by=None).first()
        undoing = append_act(run, author, _Kind.UNDO, "undone", undoes=replacing.act if replacing else None)
        append_line(undoing, reading.pk, _Effect.STRIKE)
    return reading.pk


def _undo_change(run: RunRow, author: User, loaded: RunSnapshot, number: int) -> None:
    """A change of the circuit is taken back, unless it was already, or something else was done since."""
    act = ActRow.objects.filter(run=run, author=author, pk=number).first()
    if act is None:
        raise Refused("There is nothing of yours left to undo.")
    if ActRow.objects.filter(undoes=act).exists():
        return
    if queries.last_done(loaded, author) != f"c{number}":
        raise ConflictError("You have done something else since; undo once more takes that back.")
    append_act(run, author, _Kind.UNDO, "undone", undoes=act)
    take_back(run, author, act)


def _undo_act(run: RunRow, author: User, act: ActRow) -> None:
    """What an act did is as before; the readings that it made are struck, and the sheet that it brought goes."""
    made = list(
        act.lines.exclude(other=None)
        .exclude(effect__in=(_Effect.REPLACE, _Effect.EXPLAIN))
        .values_list("other", flat=True)
    )
    undoing = append_act(run, author, _Kind.UNDO, "undone", undoes=act)
    for pk in made:
        append_line(undoing, pk, _Effect.STRIKE)
    take_back(run, author, act)


def strike_reading(reading: ReadingRow, author: User, reason: str) -> ActRow:
    """Strike a reading through. It stays visible and is not judged any more."""
    act = append_act(reading.run, author, _Kind.STRIKE, reason)
    append_line(act, reading.pk, _Effect.STRIKE)
    return act


def made_instead(
    run: RunRow, author: User, act: ActRow, loaded: RunSnapshot, index: int, reading: record.Reading
) -> int:
    """The reading that takes another's place in the order, under an act; what it then stands instead of goes."""
    pk = loaded.reading_ids[index]
    key = uuid.uuid5(act.key, f"instead of {pk}")
    row = record_reading(run, author, replace(reading, note=act.reason), key, reading.time)
    append_line(act, pk, _Effect.MOVE, row.pk)
    settle_bands(run, loaded, author, reading)
    if act.kind == _Kind.SHIFT:
        return row.pk
    before = loaded.core.readings[:index]
    if entries.classify_repeat(before, reading, loaded.core.sheet, entries.nothing) is entries.Repeat.INSTEAD:
        place = standing_at(before, reading.target, reading.round)
        if place is not None:
            append_line(act, loaded.reading_ids[place], _Effect.REPLACE, row.pk)
    return row.pk


def _standing(loaded: RunSnapshot, reading_id: int) -> int:
    index = loaded.index_of(reading_id)
    if index is None or loaded.core.readings[index].struck is not None:
        raise Refused("This reading is struck already.")
    return index
