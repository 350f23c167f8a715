"""A running run can change: what its circuit always was is said better, or from now on it is another one.

Nothing that was read is lost. A correction judges old readings anew; a change opens a new state of the circuit, and
what was read before stays with the circuit that it was read on.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import replace

from django.utils import timezone

from recensor.bench import queries, rows
from recensor.bench.models import Act, Run, RunSheet
from recensor.bench.services.entering import record_reading
from recensor.bench.services.runs import follow, numbered_key, start_run, take_back
from recensor.core import safety
from recensor.core.circuit import PartAlone, Sheet, one_line
from recensor.core.editing import EditError, edits, states
from recensor.core.errors import Refused
from recensor.core.figures import as_read
from recensor.core.quantity import positive
from recensor.experiments.acts import new_part
from recensor.experiments.models import Sheet as SheetRow
from recensor.people.models import User
from recensor.web.transactions import together

Edit = Callable[[Sheet], tuple[Sheet, str]]


@together
def correct(
    run: Run, author: User, edit: Callable[[Sheet], Sheet], reason: str, renames: tuple[str, str] | None = None
) -> None:
    """Say better what the circuit always was: all that was read is judged anew.

    `renames` has a part's name so far, and its new one. Raises `Refused` where a reading would lose its point.
    """
    loaded = queries.held(run)
    changed = edit(loaded.core.sheet)
    names = dict(run.renamed)
    if renames and renames[0] != renames[1]:
        names = _renamed(run, *renames)
    for reading in () if names != run.renamed else loaded.core.readings:
        if not rows.has_place(reading.target, changed):
            shown = as_read(reading.value, reading.target.unit)
            raise Refused(f"{shown}, {reading.target.words}, would have no place then. Make it a change instead.")
    _follow(run, author, changed, RunSheet.Kind.CORRECTION, reason, names)


def _renamed(run: Run, old: str, new: str) -> dict[str, str]:
    """What readings name a part by, and what it is called from now on."""
    for state in run.board_states.all():
        if old in json.dumps(state.placements):
            raise Refused(f"{old} stands on a board; take it off before you give it another name.")
    if new in run.renamed:
        raise Refused(f"Something else was called {new} before; take another name.")
    run.drawn_parts.filter(name=old).update(name=new)
    names = {first: new if now == old else now for first, now in run.renamed.items()}
    return {**names, old: new}


@together
def change(run: Run, author: User, edit: Edit) -> str:
    """From now on the circuit is another one; the name of its new state."""
    loaded = queries.held(run)
    changed, name = edit(loaded.core.sheet)
    if safety.caution(changed) is safety.Caution.PAPER_ONLY and not run.simulated:
        raise Refused(f"That reaches more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: for paper only.")
    _follow(run, author, changed, RunSheet.Kind.CHANGE, name, run.renamed)
    return name


@together
def take_back_change(run: Run, author: User, act: Act) -> None:
    """The circuit is again what it was before the last correction or change."""
    queries.held(run)
    if Act.objects.filter(undoes=act).exists():
        raise Refused("This is taken back already.")
    Act(
        run=run, kind=Act.Kind.UNDO, reason=f"taken back: {act.reason}"[:200], author=author, time=timezone.now(),
        undoes=act,
    ).save()  # fmt: skip
    take_back(run, author, act)


def _follow(run: Run, author: User, sheet: Sheet, kind: RunSheet.Kind, reason: str, renamed: Mapping[str, str]) -> None:
    act = Act(run=run, kind=Act.Kind.CHANGE, reason=reason[:200], author=author, time=timezone.now())
    act.save()
    follow(run, author, SheetRow.of(sheet, author), kind, act, renamed)


def rename(run: Run, title: str) -> None:
    """Give the run another title."""
    title = title.strip()
    if not title or len(title) > 120:
        raise Refused("A title has 1 to 120 characters.")
    run.title = title
    run.save(update_fields=["title"])


def put_away(run: Run, *, away: bool) -> None:
    """Take the run off the list, or put it back."""
    run.put_away = timezone.now() if away else None
    run.save(update_fields=["put_away"])


@together
def same_again(run: Run, author: User, *, with_parts: bool) -> Run:
    """Another run of the same sheet, perhaps with what was read of each part by itself."""
    loaded = queries.load(run)
    sheet = loaded.core.sheet
    copy = start_run(
        author,
        sheet,
        run.meter.name if run.meter else "",
        experiment=run.experiment,
        version=run.version,
        works_out=run.works_out,
        simulated=run.simulated,
    )
    if with_parts:
        for number, reading in enumerate(loaded.core.readings):
            target = reading.target
            if not isinstance(target, PartAlone) or sheet.parts[target.part].kind.drives:
                continue
            if reading.struck is None and reading.counted is not False:
                record_reading(copy, author, reading, numbered_key(copy, number))
    return copy


def edited(act: str, setup: str, part: str, what: str) -> Edit:
    """One of the changes that a circuit takes from now on, by its name; its errors pass through."""

    def of(sheet: Sheet) -> tuple[Sheet, str]:
        base = sheet.setup(setup).name
        if part not in sheet.parts:
            raise EditError("Choose the part that is changed.")
        return _EDITS[act](sheet, base, part, what)

    return of


def _exchange(sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
    named = one_line.read_part(what).name
    return states.exchanged(sheet, base, part, replace(new_part(sheet, what), name=named))


def _in_parallel(sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
    new = new_part(sheet, what)
    return states.new_state(
        sheet, base, f"{new.name} beside {part}", lambda s, name: edits.add_in_parallel(s, name, part, new)
    )


def _in_series(sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
    new = new_part(sheet, what)
    return states.new_state(
        sheet, base, f"{new.name} after {part}", lambda s, name: edits.insert_in_series(s, name, part, new)
    )


def _out(sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
    return states.new_state(sheet, base, f"{part} out", lambda s, name: edits.remove(s, name, part))


def _set_to(sheet: Sheet, base: str, part: str, what: str) -> tuple[Sheet, str]:
    if not sheet.parts[part].kind.drives:
        raise EditError(f"{part} is no source; exchange it instead.", (part,))
    return states.source_set_anew(sheet, base, part, positive(what, sheet.parts[part].kind.unit))


_EDITS: Mapping[str, Callable[[Sheet, str, str, str], tuple[Sheet, str]]] = {
    "exchange": _exchange,
    "parallel": _in_parallel,
    "series": _in_series,
    "out": _out,
    "set": _set_to,
}
