"""The board of a run as it is kept: loaded, changed by one act at a time, undone."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from django.db import transaction

from recensor.bench.models import BoardState, Run
from recensor.core import record
from recensor.core.board_plan import planned
from recensor.core.breadboard import FULL, HALF, Board, BoardError, Built, Placement, Sort
from recensor.core.circuit import Kind, Setup
from recensor.core.record import CURRENT
from recensor.library.services import RefusedError

Typed = Mapping[str, str]
_SORTS = {"J": Sort.JUMPER, "K": Sort.LINK}
SIZES = {"half": HALF, "full": FULL}


def load(run: Run, setup: Setup) -> Built:
    """What is on the board of a setup; an empty half board before anything is."""
    state = run.board_states.filter(setup=setup.name).last()
    return Built() if state is None else _from_state(state)


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
        BoardState.objects.create(
            run=run,
            setup=setup.name,
            rows=changed.board.rows,
            split=changed.board.split,
            placements=[
                [one.name, one.sort.value, *(hole.name for hole in one.holes), one.pulled]
                for one in changed.placements.values()
            ],
        )


def undo(run: Run, setup: Setup) -> None:
    """Go back to the board before the last act."""
    last = run.board_states.filter(setup=setup.name).last()
    if last is None:
        raise RefusedError("There is nothing to undo on this board.")
    last.delete()


def put(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """``R2 b7 b12``: put a part, or move it; J and K with nothing behind them take the next jumper or link."""
    words = typed.get("what", "").split()
    if len(words) != 3:
        raise BoardError("Write a part and its two holes, as in R2 b7 b12; J for a jumper, K for a link.")
    name, first, second = words
    sort = Sort.PART if name in setup.connections else _SORTS.get(name[:1].upper())
    if sort is None:
        raise BoardError(f"There is no part {name[:20]} in this setup; jumpers begin with J, links with K.")
    if sort is not Sort.PART:
        name = built.free_name(sort) if len(name) == 1 else name.upper()
    one = Placement(name, sort, (built.board.hole(first), built.board.hole(second)))
    is_rigid = sort is Sort.PART and core_run.parts[name].kind is Kind.RESISTOR
    return built.put(one, is_rigid=is_rigid)


def take_out(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """Pull one thing out of the board."""
    return built.take_out(typed.get("name", ""))


def turn(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """Exchange the two leads of one thing."""
    one = _placed(built, typed)
    return built.put(replace(one, holes=one.holes[::-1]))


def pull(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """Pull a link for the meter, or put it back."""
    one = _placed(built, typed)
    if one.sort is not Sort.LINK:
        raise BoardError(f"{one.name} is no link; only links are pulled and put back.", (one.name,))
    return built.put(replace(one, pulled=not one.pulled))


def as_planned(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """Everything is built as the plan says."""
    return plan_for(core_run, setup)


def clear(built: Built, core_run: record.Run, setup: Setup, typed: Typed) -> Built:
    """An empty board of the chosen size."""
    if typed.get("size") not in SIZES:
        raise BoardError("Choose a half board or a full one.")
    return Built(Board(SIZES[typed["size"]], typed.get("split") == "on"))


ACTS: dict[str, Callable[[Built, record.Run, Setup, Typed], Built]] = {
    one.__name__: one for one in (put, take_out, turn, pull, as_planned, clear)
}


def _placed(built: Built, typed: Typed) -> Placement:
    name = typed.get("name", "")
    if name not in built.placements:
        raise BoardError(f"There is no {name[:20]} on the board.")
    return built.placements[name]


def _from_state(state: BoardState) -> Built:
    board = Board(state.rows, state.split)
    return Built(
        board,
        {
            name: Placement(name, Sort(sort), (board.hole(first), board.hole(second)), pulled)
            for name, sort, first, second, pulled in state.placements
        },
    )
