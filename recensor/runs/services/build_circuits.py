"""Circuits out of the parts in hand: typed in a line each, added to a running run one after the other."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from textwrap import shorten
from types import MappingProxyType

from recensor.core import lengths, plan
from recensor.core.boards import Built
from recensor.core.circuit import Part, PartAlone, PartsLine, Sheet, Wish, parts_line
from recensor.core.editing import alike, circuits, colour_words
from recensor.core.entries import split_circuits, typed_circuit
from recensor.core.errors import Refused
from recensor.experiments.models import SheetRow
from recensor.kits.models import Kit
from recensor.kits.stock import from_kit
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActRow, RunRow, RunSheet
from recensor.runs.services.append import append_act, is_done
from recensor.runs.services.circuit_changes import together
from recensor.runs.services.start import draw, follow
from recensor.web.transactions import atomic_with_retry


@dataclass(frozen=True)
class AddedCircuit:
    """A circuit that was typed: its setup, and what has to be moved on the board to come to it from the one before."""

    typed: str
    setup: str
    moves: tuple[str, ...]


def circuits_made(
    sheet: Sheet, base: str, text: str, wishes: frozenset[Wish], boards: Mapping[str, Built] = MappingProxyType({})
) -> tuple[Sheet, list[AddedCircuit]]:
    """The sheet with the circuits of a text, and what each is. Raises `Refused`, naming the one that cannot be.

    What is moved is told with its holes where something stands on the board of the setup before, among `boards`.
    """
    made, on_board = [], base
    for typed in split_circuits(text):
        try:
            sheet, name = _with_one(sheet, base, on_board, typed, wishes)
        except Refused as error:
            raise Refused(f"{typed[:60]}: {error.message}") from error
        moves = tuple(move.words for move in plan.rebuilding(sheet, on_board, name, boards.get(on_board)))
        made.append(AddedCircuit(typed, name, moves))
        on_board = name
    return sheet, made


def _with_one(sheet: Sheet, base: str, on_board: str, typed: str, wishes: frozenset[Wish]) -> tuple[Sheet, str]:
    """The sheet with one more circuit: a line keeps the nodes of the one before, a change is one of `base`."""
    what = typed_circuit(typed, sheet, sheet.setup(base))
    if isinstance(what, PartsLine):
        source = on_board if what.source is None else base
        return circuits.with_circuit(sheet, source, what, wishes)
    name, edit = together(what)
    return circuits.with_changes(sheet, base, name, edit, wishes)


@atomic_with_retry
def add_circuits(
    run: RunRow, author: User, base: str, text: str, wishes: frozenset[Wish], key: uuid.UUID | None
) -> list[AddedCircuit]:
    """The run goes on with these circuits; what was read stays with its own. Pressed twice it is done once.

    What is other than on the board is other than in `base`, else in the first setup.
    """
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return []
    sheet = loaded.core.sheet
    changed, made = circuits_made(sheet, sheet.setup(base).name, text, wishes)
    _change(run, author, changed, _listed([one.setup for one in made]), key)
    return made


@atomic_with_retry
def add_parts(run: RunRow, author: User, text: str, key: uuid.UUID | None, kit: Kit | None = None) -> list[Part]:
    """More parts are in hand, as they were typed, each to be measured by itself. Pressed twice it is done once.

    Out of a `kit` they have its tolerance and rating; raises `Refused` where it has not got one of them.
    """
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return []
    sheet, added = loaded.core.sheet, dict[str, Part]()
    for typed in split_circuits(text):
        spoken = colour_words.of_parts(typed)
        read = parts_line.read_new(spoken.line, sheet)
        (part,) = spoken.doubtful({read.name: read}).values()
        sheet = circuits.with_part(sheet, part)
        added[part.name] = part
    drawn = from_kit(kit, added.values()) if kit else None
    if drawn:
        if drawn.missing:
            raise Refused(" ".join(drawn.missing.values()))
        added |= drawn.parts
        sheet = replace(sheet, parts={**sheet.parts, **drawn.parts})
        draw(run, drawn.bins)
    alone = [PartAlone(part.name, part.kind.measured_as) for part in added.values() if part.kind.asked_by_default]
    sheet = circuits.asking_also(sheet, alone)
    _change(run, author, sheet, _listed(list(added), "in hand: "), key)
    return list(added.values())


@atomic_with_retry
def take_as_group(run: RunRow, author: User, names: Sequence[str], key: uuid.UUID | None, *, together: bool) -> None:
    """Parts are one group from now on, or told apart. Raises `Refused` for parts that are not marked alike."""
    loaded = queries.load_locked(run)
    if is_done(run, key):
        return
    sheet = alike.as_group(loaded.core.sheet, names) if together else alike.told_apart(loaded.core.sheet, names)
    _change(run, author, sheet, _listed(names, "one group: " if together else "told apart: "), key)


def _change(run: RunRow, author: User, sheet: Sheet, words: str, key: uuid.UUID | None) -> None:
    """The run goes on with a changed sheet."""
    act = append_act(run, author, ActRow.Kind.CHANGE, words, key=key)
    follow(run, author, SheetRow.of(sheet, author), RunSheet.Kind.CHANGE, act)


def _listed(names: Sequence[str], begin: str = "") -> str:
    """Names one after the other, as far as there is room to say what was done."""
    return shorten(begin + ", ".join(dict.fromkeys(names)), lengths.REASON, placeholder=" …")
