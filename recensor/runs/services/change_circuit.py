"""A running run can change: what its circuit always was is said better, or from now on it is another one.

Nothing that was read is lost. A correction judges old readings anew; a change opens a new state of the circuit, and
what was read before stays with the circuit that it was read on.
"""

import json
import uuid
from dataclasses import replace

from django.utils import timezone

from recensor.core import lengths
from recensor.core.circuit import Sheet, has_place
from recensor.core.entries import TypedChange
from recensor.core.errors import Refused
from recensor.core.figures import as_read
from recensor.experiments.acts import ACTS, Typed
from recensor.experiments.models import SheetRow
from recensor.meters.services import meter_named
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActRow, RunRow, RunSheet
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.append import append_act, is_done
from recensor.runs.services.circuit_changes import Edit, typed_so
from recensor.runs.services.correct import made_instead
from recensor.runs.services.record import record_reading
from recensor.runs.services.start import follow, numbered_key, start_run, take_back
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def correct(run: RunRow, author: User, part: str, fields: Typed, key: uuid.UUID | None = None) -> None:
    """Say better what a part always was: all that was read is judged anew. Pressed twice it is done once.

    `fields` are those of the editor. Raises `Refused` where a reading would lose its point.
    """
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return
    sheet, names = loaded.core.sheet, run.renamed
    changed = ACTS["change"].carry_out(sheet, {**fields, "part": part})
    if fields["name"] != part:
        names = _renamed(run, part, fields["name"])
    else:
        _refuse_orphans(loaded, changed)
    act = append_act(run, author, ActRow.Kind.CHANGE, f"{part} corrected", key=key)
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CORRECTION, act, names)


@atomic_with_retry
def read_more(run: RunRow, author: User, name: str, typed: Typed, key: uuid.UUID | None = None) -> None:
    """More is to be read than was asked for: an act of the editor that changes no circuit. Pressed twice it is once.

    Raises `Refused` where readings would lose their rows.
    """
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return
    changed = ACTS[name].carry_out(loaded.core.sheet, typed)
    _refuse_orphans(loaded, changed)
    text = {"sweep": f"the line of {typed['part']}", "hold": f"{typed['setup']} against {typed['other']}"}[name]
    act = append_act(run, author, ActRow.Kind.CHANGE, text, key=key)
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CORRECTION, act)


@atomic_with_retry
def read_in_rounds(run: RunRow, author: User, rounds: int, key: uuid.UUID | None = None) -> None:
    """Everything that is asked for is to be read so many times, one round after the other. Pressed twice it is once."""
    loaded = queries.load_locked(run)
    sheet = loaded.core.sheet
    if is_done(run, key) or rounds == sheet.rounds:
        return
    act = append_act(run, author, ActRow.Kind.CHANGE, f"everything is read {rounds} times", key=key)
    follow(run, author, SheetRow.of(replace(sheet, rounds=rounds), author), RunSheet.Kind.CORRECTION, act)


def _refuse_orphans(loaded: RunSnapshot, changed: Sheet) -> None:
    for reading in loaded.core.readings:
        if not has_place(reading.target, changed):
            shown = as_read(reading.value, reading.target.unit)
            raise Refused(f"{shown}, {reading.target.words}, would have no place then. Make it a change instead.")


def _renamed(run: RunRow, old: str, new: str) -> dict[str, str]:
    """What readings name a part by, and what it is called from now on."""
    for state in run.board_states.all():
        if old in json.dumps(state.placements):
            raise Refused(f"{old} stands on a board; take it off before you give it another name.")
    if run.renamed.get(new, old) != old:
        raise Refused(f"Something else was called {new} before; take another name.")
    run.drawn_parts.filter(name=old).update(name=new)
    names = {first: new if now == old else now for first, now in run.renamed.items()}
    return {**names, old: new}


@atomic_with_retry
def change(run: RunRow, author: User, edit: Edit, key: uuid.UUID | None = None) -> None:
    """From now on the circuit is another one. Pressed twice it is done once."""
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return
    changed, name = edit(loaded.core.sheet)
    act = append_act(run, author, ActRow.Kind.CHANGE, name, key=key)
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CHANGE, act)


@atomic_with_retry
def made_on_purpose(run: RunRow, author: User, reading_id: int, change: TypedChange, key: uuid.UUID | None) -> int:
    """What a reading shows was made so: it counts, in a circuit of its own, which the run follows from now on.

    The key of the reading there. Pressed twice it is done once. Raises `Refused` for a reading of no circuit.
    """
    loaded = queries.load_locked(run)
    index = loaded.index_of(reading_id)
    if is_done(run, key):
        return reading_id
    reading = None if index is None else loaded.core.readings[index]
    if index is None or reading is None or reading.struck is not None or reading.target.setup is None:
        raise Refused("This reading is struck already, or was not taken in a circuit.")
    changed, name = typed_so(change, reading.target.setup)(loaded.core.sheet)
    there = replace(reading, target=reading.target.in_setup(name, changed), counted=None, later=False)
    if not has_place(there.target, changed):
        raise Refused(f"With {name} there is no such point any more.")
    act = append_act(run, author, ActRow.Kind.MOVE, f"{name}, on purpose", key=key)
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CHANGE, act)
    return made_instead(run, author, act, loaded, index, there)


@atomic_with_retry
def take_back_change(run: RunRow, author: User, act: ActRow) -> None:
    """The circuit is again what it was before the last correction or change."""
    queries.load_locked(run)
    if ActRow.objects.filter(undoes=act).exists():
        raise Refused("This is taken back already.")
    append_act(run, author, ActRow.Kind.UNDO, f"taken back: {act.reason}"[: lengths.REASON], undoes=act)
    take_back(run, author, act)


@atomic_with_retry
def rename(run: RunRow, title: str) -> None:
    """Give the run another title."""
    queries.lock(run)
    title = title.strip()
    if not title or len(title) > lengths.TITLE:
        raise Refused(f"A title has 1 to {lengths.TITLE} characters.")
    run.title = title
    run.save(update_fields=["title"])


@atomic_with_retry
def choose_meter(run: RunRow, author: User, name: str) -> None:
    """The meter that readings are taken with from now on; none where no name is given."""
    queries.lock(run)
    name = name.strip()
    if len(name) > lengths.NAME:
        raise Refused(f"A meter's name has at most {lengths.NAME} characters.")
    run.meter = meter_named(author, name)
    run.save(update_fields=["meter"])


def put_away(run: RunRow, *, away: bool) -> None:
    """Take the run off the list, or put it back."""
    run.put_away = timezone.now() if away else None
    run.save(update_fields=["put_away"])


@atomic_with_retry
def same_again(run: RunRow, author: User, key: uuid.UUID | None = None, *, with_parts: bool) -> RunRow:
    """Another run of the same sheet, perhaps with what was read of each part by itself. Pressed twice it is one run."""
    loaded = queries.load(run)
    sheet = loaded.core.sheet
    copy = start_run(
        author,
        sheet,
        run.meter.name if run.meter else "",
        key=key,
        experiment=run.experiment,
        version=run.version,
        own_calculations=run.own_calculations,
        simulated=run.simulated,
    )
    if with_parts:
        for number, reading in enumerate(loaded.core.readings):
            target = reading.target
            if not target.is_part_alone or sheet.parts[target.part].kind.is_source:
                continue
            if reading.struck is None and reading.counted is not False:
                record_reading(copy, author, reading, numbered_key(copy, number))
    return copy
