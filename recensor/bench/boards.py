"""The board of a run as it is kept: loaded, changed by one act at a time, undone."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

from django.db import transaction

from recensor.bench.models import BoardState, Run
from recensor.core import record
from recensor.core.board_plan import planned
from recensor.core.breadboard import FULL, HALF, Board, BoardError, Built, Placement, Sort
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.notation import UNMARKED, NotationError, read_part
from recensor.core.record import CURRENT
from recensor.library.services import RefusedError

Typed = Mapping[str, str]
_SORTS = {"J": Sort.JUMPER, "K": Sort.LINK}
SIZES = {"half": HALF, "full": FULL}


@dataclass(frozen=True)
class KeptBoard:
    """A board with what is on it, and the parts that were put on it without being in the circuit, by name."""

    built: Built = field(default_factory=Built)
    extra: Mapping[str, Part] = field(default_factory=dict)


def load(run: Run, setup: Setup) -> KeptBoard:
    """What is on the board of a setup; an empty half board before anything is."""
    state = run.board_states.filter(setup=setup.name).last()
    return KeptBoard() if state is None else _from_state(state)


def plan_for(core_run: record.Run, setup: Setup) -> Built:
    """The planned layout of a setup, a link wherever the run asks for a current. Raises `BoardError`."""
    links = [t.through for t in core_run.asked if t.quantity == CURRENT and t.setup == setup.name and t.through]
    return planned(core_run.parts, setup, links)


def act(run: Run, core_run: record.Run, setup: Setup, name: str, typed: Typed) -> None:
    """Carry out one of `ACTS`. Raises `RefusedError` or `BoardError`, and nothing is changed."""
    if name == "undo":
        undo(run, setup)
        return
    if name not in ACTS:
        raise RefusedError("Choose what to do with the board.")
    with transaction.atomic():
        Run.objects.select_for_update().only("pk").get(pk=run.pk)
        changed = ACTS[name](load(run, setup), core_run, setup, typed)
        board, placed = changed.built.board, changed.built.placements.values()
        BoardState.objects.create(
            run=run,
            setup=setup.name,
            rows=board.rows,
            split=board.split,
            placements=[[one.name, one.sort.value, *(h.name for h in one.holes), one.pulled] for one in placed],
            parts=[_written(part) for key, part in changed.extra.items() if key in changed.built.placements],
        )


def undo(run: Run, setup: Setup) -> None:
    """Go back to the board before the last act."""
    last = run.board_states.filter(setup=setup.name).last()
    if last is None:
        raise RefusedError("There is nothing to undo on this board.")
    last.delete()


def put(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """``R2 b7 b12``: put a part, or move it. ``R9=470 b7 b12`` brings a part that is not in the circuit.

    J and K with nothing behind them take the next jumper or link.
    """
    words = typed.get("what", "").split()
    if len(words) < 3:
        raise BoardError("Write a part and its two holes, as in R2 b7 b12; J for a jumper, K for a link.")
    *said, first, second = words
    name, extra = " ".join(said), dict(bench.extra)
    if "=" in name:
        part = _new_part(name, core_run)
        extra[part.name] = part
        name = part.name
    parts = {**core_run.parts, **extra}
    is_part = name in setup.connections or name in extra
    sort = Sort.PART if is_part else _SORTS.get(name[:1].upper())
    if sort is None:
        raise BoardError(f"There is no part {name[:20]} in this setup: R9=470 brings one; J is a jumper, K a link.")
    if sort is not Sort.PART:
        name = bench.built.free_name(sort) if len(name) == 1 else name.upper()
    one = Placement(name, sort, (bench.built.board.hole(first), bench.built.board.hole(second)))
    is_rigid = is_part and parts[name].kind is Kind.RESISTOR
    return KeptBoard(bench.built.put(one, is_rigid=is_rigid), extra)


def take_out(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """Pull one thing out of the board."""
    return replace(bench, built=bench.built.take_out(typed.get("name", "")))


def turn(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """Exchange the two leads of one thing."""
    one = _placed(bench, typed)
    return replace(bench, built=bench.built.put(replace(one, holes=one.holes[::-1])))


def pull(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """Pull a link for the meter, or put it back."""
    one = _placed(bench, typed)
    if one.sort is not Sort.LINK:
        raise BoardError(f"{one.name} is no link; only links are pulled and put back.", (one.name,))
    return replace(bench, built=bench.built.put(replace(one, pulled=not one.pulled)))


def as_planned(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """Everything is built as the plan says."""
    return KeptBoard(plan_for(core_run, setup))


def clear(bench: KeptBoard, core_run: record.Run, setup: Setup, typed: Typed) -> KeptBoard:
    """An empty board of the chosen size."""
    if typed.get("size") not in SIZES:
        raise BoardError("Choose a half board or a full one.")
    return KeptBoard(Built(Board(SIZES[typed["size"]], typed.get("split") == "on")))


ACTS: dict[str, Callable[[KeptBoard, record.Run, Setup, Typed], KeptBoard]] = {
    one.__name__: one for one in (put, take_out, turn, pull, as_planned, clear)
}


def _new_part(text: str, core_run: record.Run) -> Part:
    """A part that is brought to the board; one of the circuit keeps what it is."""
    try:
        part = read_part(text)
    except NotationError as error:
        raise BoardError(str(error)) from None
    if part.name in core_run.parts:
        raise BoardError(f"{part.name} is in this circuit already; give a new part a name of its own.", (part.name,))
    return part


def _written(part: Part) -> str:
    value = part.nominal.text if part.nominal else UNMARKED
    unit = part.kind.unit if part.kind is not Kind.RESISTOR and not value.endswith(part.kind.unit) else ""
    return f"{part.name}={value}{unit}{f' {part.tolerance.text}' if part.tolerance else ''}"


def _placed(bench: KeptBoard, typed: Typed) -> Placement:
    name = typed.get("name", "")
    if name not in bench.built.placements:
        raise BoardError(f"There is no {name[:20]} on the board.")
    return bench.built.placements[name]


def _from_state(state: BoardState) -> KeptBoard:
    board = Board(state.rows, state.split)
    placed = {
        name: Placement(name, Sort(sort), (board.hole(first), board.hole(second)), pulled)
        for name, sort, first, second, pulled in state.placements
    }
    extra = [read_part(text) for text in state.parts]
    return KeptBoard(Built(board, placed), {part.name: part for part in extra})
