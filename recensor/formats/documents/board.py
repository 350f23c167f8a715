"""What stands on boards, as part of a run document: ``placements``, and what they cannot say in ``x-boards``.

``placements`` names for each setup the holes of every part, jumper (J1 …) and link (K1 …). A board's size, split rails
and pulled links stand beside it under ``x-boards``; without them a board is as small as holds its placements.
"""

from collections.abc import Mapping
from typing import Any

from recensor.core.boards import FULL, HALF, Board, BoardError, Built, Piece, Placement
from recensor.core.circuit import Part
from recensor.formats.documents.reader import DocumentPlace, said

EXTENSION = "x-boards"
PIECES = {"J": Piece.JUMPER, "K": Piece.LINK}


def read_boards(
    placements: DocumentPlace, extension: DocumentPlace | None, parts: Mapping[str, Part]
) -> dict[str, Built]:
    """The boards of a document, by setup. Raises `DocumentError`."""
    more = dict(extension.named()) if extension else {}
    return {setup: _board(placed, more.get(setup), parts) for setup, placed in placements.named()}


def placements_tree(built: Built) -> dict[str, list[str]]:
    """What is on a board: the holes of each thing."""
    return {name: [hole.name for hole in placement.holes] for name, placement in built.placements.items()}


def board_tree(built: Built) -> dict[str, Any]:
    """What placements alone cannot say of a board."""
    pulled = [name for name, placement in built.placements.items() if placement.pulled]
    return said(rows=built.board.rows, split=built.board.split or None, pulled=pulled)


def read_board(tree: object, more: object, parts: Mapping[str, Part]) -> Built:
    """One board out of what `placements_tree` and `board_tree` have made of it."""
    return _board(DocumentPlace("placements", tree), DocumentPlace("board", more), parts)


def _board(placed: DocumentPlace, more: DocumentPlace | None, parts: Mapping[str, Part]) -> Built:
    told = more.table((), ("rows", "split", "pulled")) if more else {}
    board = Board(FULL, told["split"].boolean() if "split" in told else False)
    pulled = {name.text() for name in told["pulled"].items()} if "pulled" in told else set()
    placements = {name: _placement(name, holes, name in pulled, board, parts) for name, holes in placed.named()}
    furthest = max((hole.row for placement in placements.values() for hole in placement.holes), default=1)
    rows = told["rows"].whole(HALF, FULL) if "rows" in told else HALF if furthest <= HALF else FULL
    if furthest > rows:
        raise placed.error(f"a board of {rows} rows has no row {furthest}")
    return Built(Board(rows, board.split), placements)


def _placement(name: str, place: DocumentPlace, is_pulled: bool, board: Board, parts: Mapping[str, Part]) -> Placement:
    piece = Piece.PART if name in parts else PIECES.get(name[:1])
    if piece is None:
        raise place.error("there is no part of this name, and it is no jumper (J1) and no link (K1)")
    first, second = place.pair()
    try:
        return Placement(name, piece, (board.hole(first), board.hole(second)), is_pulled)
    except BoardError as error:
        raise place.error(error.message) from None
