"""A run's boards as they are kept: each act leaves a whole state, undo takes the last one away."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from recensor.core.boards import Built, planned
from recensor.core.circuit import UNMARKED, Part, Setup, Sheet
from recensor.core.errors import Refused
from recensor.core.figures import with_unit
from recensor.formats.documents.board import board_tree, placements_tree
from recensor.runs import mapping
from recensor.runs.models import BoardState, RunRow
from recensor.runs.queries import last_board, lock
from recensor.web.transactions import atomic_with_retry


@dataclass(frozen=True)
class KeptBoard:
    """A board with what is on it, and the parts that were put on it without being in the circuit, by name."""

    built: Built = field(default_factory=Built)
    extra: Mapping[str, Part] = field(default_factory=dict)


def load(run: RunRow, sheet: Sheet, setup: Setup) -> KeptBoard:
    """What is on the board of a setup; an empty half board before anything is."""
    state = last_board(run, setup.name)
    if state is None:
        return KeptBoard()
    extra = mapping.extra_parts(state)
    return KeptBoard(mapping.board_of(state, {**sheet.parts, **extra}), extra)


@atomic_with_retry
def change(run: RunRow, sheet: Sheet, setup: Setup, act: Callable[[KeptBoard], KeptBoard]) -> KeptBoard:
    """Keep what an act makes of a board; its errors pass through, and nothing is kept."""
    lock(run)
    board = act(load(run, sheet, setup))
    BoardState.objects.create(
        run=run,
        setup=setup.name,
        placements=placements_tree(board.built),
        board=board_tree(board.built),
        parts=[_written(part) for name, part in board.extra.items() if name in board.built.placements],
    )
    return board


@atomic_with_retry
def undo(run: RunRow, sheet: Sheet, setup: Setup) -> KeptBoard:
    """Go back to the board before the last act."""
    lock(run)
    last = last_board(run, setup.name)
    if last is None:
        raise Refused("There is nothing to undo on this board.")
    last.delete()
    return load(run, sheet, setup)


def plan_for(sheet: Sheet, setup: Setup) -> Built:
    """The planned layout of a setup, a link wherever the run asks for a current. Raises `BoardError`."""
    links = [target.part for target in sheet.asked if target.is_through and target.setup == setup.name]
    return planned(sheet, setup, links)


def _written(part: Part) -> str:
    value = UNMARKED if part.nominal is None else part.nominal.text
    if part.nominal and part.kind.is_source:
        value = with_unit(part.nominal, part.kind.unit)
    return f"{part.name}={value}{f' {part.tolerance.text}' if part.tolerance else ''}"
