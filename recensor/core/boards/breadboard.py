"""Solderless boards: holes, what they join, and what is pushed into them.

A half board has 30 rows, a full one 63. In each row a–e are joined, and f–j; two rails run along either side,
on a full board perhaps split in the middle (common practice, no source). Places are in pitches of 2.54 mm.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from math import hypot

from recensor.core import graph
from recensor.core.errors import Refused
from recensor.core.sentences import say

HALF, FULL = 30, 63
LEFT, RIGHT = "abcde", "fghij"
RAILS = ("+L", "-L", "+R", "-R")

# Where columns and rails lie across the board, in pitches; the trench in the middle is three wide.
ACROSS = {
    **{letter: float(k) for k, letter in enumerate(LEFT)},
    **{letter: float(k + 7) for k, letter in enumerate(RIGHT)},
    "-L": -4.0,
    "+L": -3.0,
    "+R": 14.0,
    "-R": 15.0,
}

# A quarter-watt resistor's body and the bends of its leads need three pitches, its leads reach twelve
# (common practice, no source).
SHORTEST, LONGEST = 3.0, 12.0

_HOLE = re.compile(r"(?P<column>[a-j])(?P<row>[1-9][0-9]?)|(?P<rail>[+\-−][LR])(?P<at>[1-9][0-9]?)", re.IGNORECASE)


class BoardError(Refused):
    """A hole that does not exist, or a placement that cannot be; `parts` are the placements concerned."""


class Piece(StrEnum):
    """What is placed: a part of the circuit, a jumper, or a link that is pulled to take a current."""

    PART = "part"
    JUMPER = "jumper"
    LINK = "link"


@dataclass(frozen=True, order=True)
class Hole:
    """One hole: its column or rail, and its row."""

    column: str
    row: int

    @property
    def name(self) -> str:
        """As it is typed: ``b7``, ``+L7``."""
        return f"{self.column}{self.row}"

    @property
    def shown(self) -> str:
        """As it is written for a person: ``b7``, ``−L7``."""
        return self.name.replace("-", "−")

    @property
    def place(self) -> tuple[float, float]:
        """Across and along the board, in pitches."""
        return ACROSS[self.column], float(self.row)

    @property
    def is_rail(self) -> bool:
        """Whether it is in a rail."""
        return self.column in RAILS


@dataclass(frozen=True)
class Strip:
    """Holes that the board itself joins: half a row, or a rail or half of one."""

    column: str
    row: int

    @property
    def words(self) -> str:
        """How a person calls it."""
        if self.column in RAILS:
            side = "left" if self.column[1] == "L" else "right"
            half = ("boards.rail", "boards.upper_half_of_rail", "boards.lower_half_of_rail")[self.row]
            return say(half, pole=self.column[0].replace("-", "−"), side=side)
        return say("boards.row", row=self.row, first=self.column[0], last=self.column[-1])


@dataclass(frozen=True)
class Board:
    """A board of 30 or 63 rows; `split` rails are cut in the middle."""

    rows: int = HALF
    split: bool = False

    def hole(self, name: str) -> Hole:
        """The hole of a typed name such as ``b7``, ``J12`` or ``-R3``. Raises `BoardError`."""
        match = _HOLE.fullmatch(name.strip())
        row = int(match["row"] or match["at"]) if match else 0
        if not match or not 1 <= row <= self.rows:
            raise BoardError(say("boards.no_hole_rows_go", name=name.strip()[:12], rows=self.rows))
        rail = (match["rail"] or "").upper().replace("−", "-")
        return Hole((match["column"] or "").lower() or rail, row)

    def strip(self, hole: Hole) -> Strip:
        """What the board joins a hole to."""
        if hole.is_rail:
            half = (1 if 2 * hole.row <= self.rows else 2) if self.split else 0
            return Strip(hole.column, half)
        return Strip(LEFT if hole.column in LEFT else RIGHT, hole.row)

    def holes(self, strip: Strip) -> list[Hole]:
        """Every hole of a strip, in order."""
        if strip.column not in RAILS:
            return [Hole(letter, strip.row) for letter in strip.column]
        rows = [row for row in range(1, self.rows + 1) if self.strip(Hole(strip.column, row)) == strip]
        return [Hole(strip.column, row) for row in rows]


@dataclass(frozen=True)
class Placement:
    """Something with its two leads in two holes; a link may be `pulled`, which leaves its holes unjoined."""

    name: str
    piece: Piece
    holes: tuple[Hole, Hole]
    pulled: bool = False

    @property
    def reach(self) -> float:
        """How far its leads are apart, in pitches."""
        (x1, y1), (x2, y2) = (hole.place for hole in self.holes)
        return hypot(x2 - x1, y2 - y1)


@dataclass(frozen=True)
class Built:
    """A board with what is on it, by name."""

    board: Board = field(default_factory=Board)
    placements: Mapping[str, Placement] = field(default_factory=dict)

    def put(self, placement: Placement, *, is_rigid: bool = False) -> "Built":
        """The board with one thing more, or with a thing moved. Raises `BoardError`, and nothing is changed.

        `is_rigid` things, resistors, have a body and leads that reach so far.
        """
        taken = {hole: other.name for other in self.placements.values() if other.name != placement.name
                 for hole in other.holes}  # fmt: skip
        for hole in placement.holes:
            if hole in taken:
                raise BoardError(
                    say("boards.in_lead_already", hole=hole.name, taken=taken[hole]), (placement.name, taken[hole])
                )
        if placement.holes[0] == placement.holes[1]:
            raise BoardError(
                say("boards.both_leads_in", placement=placement.name, name=placement.holes[0].name), (placement.name,)
            )
        if is_rigid and placement.reach < SHORTEST:
            text = say("boards.longer_than_leads_stand", placement=placement.name, shortest=SHORTEST)
            raise BoardError(text, (placement.name,))
        if is_rigid and placement.reach > LONGEST:
            raise BoardError(
                say("boards.does_not_reach_far", placement=placement.name, longest=LONGEST), (placement.name,)
            )
        return replace(self, placements={**self.placements, placement.name: placement})

    def take_out(self, name: str) -> "Built":
        """The board without one thing. Raises `BoardError`."""
        if name not in self.placements:
            raise BoardError(say("boards.no_on_board", name=name), (name,))
        return replace(self, placements={key: placement for key, placement in self.placements.items() if key != name})

    def nets(self) -> "Nets":
        """What is joined by strips, jumpers and closed links."""
        return Nets(self)

    def free_name(self, piece: Piece) -> str:
        """A name for a new jumper or link: J1, K1 and so on."""
        letter = "J" if piece is Piece.JUMPER else "K"
        return next(name for k in range(1, len(self.placements) + 2) if (name := f"{letter}{k}") not in self.placements)


class Nets:
    """Groups of strips that are one node of the built circuit."""

    def __init__(self, built: Built) -> None:
        self._board = built.board
        self._groups: graph.Groups[Strip] = graph.Groups()
        for placement in built.placements.values():
            first, second = (self.of(hole) for hole in placement.holes)
            if placement.piece is not Piece.PART and not placement.pulled:
                self._groups.join(first, second)
        self.connections = {
            placement.name: (self.of(placement.holes[0]), self.of(placement.holes[1]))
            for placement in built.placements.values()
            if placement.piece is Piece.PART
        }

    def of(self, hole: Hole) -> Strip:
        """The net of a hole, named by one of its strips."""
        return self._groups.top(self._board.strip(hole))

    def strips(self, net: Strip) -> list[Strip]:
        """The strips of a net that something is pushed into."""
        return [strip for strip in list(self._groups) if self._groups.top(strip) == net]
