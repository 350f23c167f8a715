"""What a person can do to a board, one act at a time: each takes the board as it is kept and gives another."""

from collections.abc import Callable, Mapping
from dataclasses import replace

from recensor.board_page import kept_board, typed
from recensor.board_page.kept_board import KeptBoard
from recensor.core.boards import FULL, HALF, Board, BoardError, Built, Piece, Placement
from recensor.core.circuit import Setup, Sheet
from recensor.core.errors import Refused
from recensor.runs.models import RunRow

Typed = Mapping[str, str]
Act = Callable[[KeptBoard, Sheet, Setup, Typed], KeptBoard]
SIZES = {"half": HALF, "full": FULL}
ACTS: dict[str, Act] = {}


def act(name: str) -> Callable[[Act], Act]:
    """Register what a button of this name does."""

    def register(function: Act) -> Act:
        ACTS[name] = function
        return function

    return register


def carry_out(run: RunRow, sheet: Sheet, setup: Setup, name: str, said: Typed) -> KeptBoard:
    """Carry out one of `ACTS`, or undo the last. Raises `Refused`, and nothing is changed."""
    if name == "undo":
        return kept_board.undo(run, sheet, setup)
    if name not in ACTS:
        raise Refused("Choose what to do with the board.")
    return kept_board.change(run, sheet, setup, lambda board: ACTS[name](board, sheet, setup, said))


@act("put")
def put(board: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """Put a part, jumper or link in, or move it."""
    wanted = typed.read(said.get("what", ""), sheet, setup, frozenset(board.extra))
    extra = {**board.extra, wanted.name: wanted.brought} if wanted.brought else board.extra
    first, second = (board.built.board.hole(hole) for hole in wanted.holes)
    name = wanted.name or board.built.free_name(wanted.piece)
    is_rigid = wanted.piece is Piece.PART and {**sheet.parts, **extra}[name].kind.rigid
    placement = Placement(name, wanted.piece, (first, second))
    return KeptBoard(board.built.put(placement, is_rigid=is_rigid), extra)


@act("take_out")
def take_out(board: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """Pull one thing out of the board."""
    return replace(board, built=board.built.take_out(said.get("name", "")))


@act("turn")
def turn(board: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """Exchange the two leads of one thing."""
    placement = _placed(board, said)
    return replace(board, built=board.built.put(replace(placement, holes=placement.holes[::-1])))


@act("pull")
def pull(board: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """Pull a link for the meter, or put it back."""
    link = _placed(board, said)
    if link.piece is not Piece.LINK:
        raise BoardError(f"{link.name} is no link; only links are pulled and put back.", (link.name,))
    return replace(board, built=board.built.put(replace(link, pulled=not link.pulled)))


@act("as_planned")
def as_planned(kept: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """Everything is built as the plan says."""
    return KeptBoard(kept_board.plan_for(sheet, setup))


@act("clear")
def clear(kept: KeptBoard, sheet: Sheet, setup: Setup, said: Typed) -> KeptBoard:
    """An empty board of the chosen size."""
    if said.get("size") not in SIZES:
        raise BoardError("Choose a half board or a full one.")
    return KeptBoard(Built(Board(SIZES[said["size"]], said.get("split") == "on")))


def _placed(board: KeptBoard, said: Typed) -> Placement:
    name = said.get("name", "")
    if name not in board.built.placements:
        raise BoardError(f"There is no {name[:20]} on the board.")
    return board.built.placements[name]
