"""Several circuits, as they are typed: ``R1, R1 + R2, R1 | R2``, a line each or with commas, ``R3 open and V1 off``.

Each is a circuit in one line of parts that are there (`core.circuit.parts_line`), or what is other than on the board
(`typed_change`), several changes of it joined by *and*.
"""

import re
from dataclasses import replace

from recensor.core.circuit import PartsLine, Setup, Sheet, parts_line
from recensor.core.editing import colour_words
from recensor.core.entries.typed_change import TypedChange, typed_change
from recensor.core.errors import Refused
from recensor.core.sentences import say

# So many circuits are typed at once at most.
MOST_AT_ONCE = 30

_SIGNS = re.compile(r"[+|∥:()]|//")
_AND = re.compile(r"\s+and\s+|\s*&\s*", re.IGNORECASE)

# A circuit as it was typed: its line, or what is other than on the board.
TypedCircuit = PartsLine | tuple[TypedChange, ...]


def split_circuits(text: str) -> list[str]:
    """The circuits of a text, each as it was typed. Raises `Refused` for none, and for too many.

    Examples
    --------
    >>> split_circuits("R1, R1 + R2\\nR3 open and V2 off,")
    ['R1', 'R1 + R2', 'R3 open and V2 off']
    """
    pieces = [piece.strip() for piece in re.split(r"[,\n]", text) if piece.strip()]
    if not pieces:
        raise Refused(say("entries.no_circuit_typed"))
    if len(pieces) > MOST_AT_ONCE:
        raise Refused(say("entries.circuits_at_once", most=MOST_AT_ONCE, here=len(pieces)))
    return pieces


def typed_circuit(text: str, sheet: Sheet, setup: Setup) -> TypedCircuit:
    """What one circuit of a text means, with the setup on the board. Raises `Refused`.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> typed_circuit("r1 | R2", sheet, sheet.setup()).words
    'R1 | R2'
    >>> [change.short for change in typed_circuit("R3 open and V1 off", sheet, sheet.setup())]
    ['R3 out', 'V1 off']
    """
    if not _SIGNS.search(text):
        changes = [typed_change(piece, sheet, setup) for piece in _AND.split(text) if not _is_new(piece, sheet)]
        known = tuple(change for change in changes if change is not None)
        if known and len(known) == len(_AND.split(text)):
            return known
    spoken = colour_words.of_parts(text)
    line = parts_line.read(spoken.line, sheet)
    return replace(line, new=spoken.doubtful(line.new))


def _is_new(piece: str, sheet: Sheet) -> bool:
    """Whether a text brings a part that is not there yet, such as ``R9=470``."""
    name, sign, _ = piece.partition("=")
    return bool(sign) and name.strip() not in sheet.parts and not piece.lower().startswith("load ")
