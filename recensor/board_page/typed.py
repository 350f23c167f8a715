"""What is typed about a board: a thing and its two holes, ``R2 b7 b12``."""

from dataclasses import dataclass

from recensor.core.boards import BoardError, Piece
from recensor.core.circuit import NotationError, Part, Setup, Sheet, read_part
from recensor.formats.documents.board import PIECES


@dataclass(frozen=True)
class TypedPlacement:
    """What goes where. `name` is empty for the next jumper or link; `brought` is a part the circuit does not have."""

    name: str
    piece: Piece
    holes: tuple[str, str]
    brought: Part | None = None


def read(text: str, sheet: Sheet, setup: Setup, brought: frozenset[str]) -> TypedPlacement:
    """``R2 b7 b12`` puts a part; ``R9=470 b7 b12`` brings one that is not in the circuit. Raises `BoardError`.

    J and K with nothing behind them take the next jumper or link; `brought` names parts that were brought before.
    """
    words = text.split()
    if len(words) < 3:
        raise BoardError("Write a part and its two holes, as in R2 b7 b12; J for a jumper, K for a link.")
    *texts, first, second = words
    name = " ".join(texts)
    if "=" in name:
        part = _new_part(name, sheet)
        return TypedPlacement(part.name, Piece.PART, (first, second), part)
    if name in setup.connections or name in brought:
        return TypedPlacement(name, Piece.PART, (first, second))
    piece = PIECES.get(name[:1].upper())
    if piece is None:
        raise BoardError(f"There is no part {name[:20]} in this setup: R9=470 brings one; J is a jumper, K a link.")
    return TypedPlacement(name.upper() if len(name) > 1 else "", piece, (first, second))


def _new_part(text: str, sheet: Sheet) -> Part:
    """A part that is brought to the board; one of the circuit keeps what it is."""
    try:
        part = read_part(text)
    except NotationError as error:
        raise BoardError(error.message) from None
    if not part.name:
        raise BoardError("A part that is brought to the board needs a name, as in R9=470.")
    if part.name in sheet.parts:
        raise BoardError(f"{part.name} is in this circuit already; give a new part a name of its own.", (part.name,))
    return part
