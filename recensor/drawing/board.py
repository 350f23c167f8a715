"""A board with what is on it, as it lies before you: a view model for ``drawing/board.svg``.

Lengths are in SVG units. It lies upright or across, with its first row or its last one first, and may be folded to the
rows that are in use.
"""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from math import atan2, degrees, hypot

from recensor.core.boards import ACROSS, LEFT, RAILS, RIGHT, Built, Hole, Piece, Placement, Strip
from recensor.core.circuit import Part
from recensor.drawing.resistor import bands_of

PITCH = 19.0
MARGIN_X, MARGIN_Y = 40.0, 30.0
BODY = 40.0

# How many tints tell nets apart.
TINTS = 6

# So many empty rows stay beside those in use when the rest is folded away.
BESIDE = 2


class Lies(StrEnum):
    """How a board lies before the person."""

    UPRIGHT = "upright"
    UPRIGHT_TURNED = "upright, last row first"
    ACROSS = "across"
    ACROSS_TURNED = "across, last row first"


@dataclass(frozen=True)
class _Place:
    """Where things are on a board that lies in one way, folded to rows `first` to `last`."""

    lies: Lies
    first: int
    last: int

    @property
    def size(self) -> tuple[float, float]:
        """Width and height as it lies."""
        long, short = (self.last - self.first + 1) * PITCH + 2 * MARGIN_Y, _x("-R") + MARGIN_X
        return (short, long) if self.lies in (Lies.UPRIGHT, Lies.UPRIGHT_TURNED) else (long, short)

    @property
    def turned(self) -> int:
        """By how many degrees what lies on it is turned."""
        return {Lies.UPRIGHT: 0, Lies.UPRIGHT_TURNED: 180, Lies.ACROSS: -90, Lies.ACROSS_TURNED: 90}[self.lies]

    def point(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the upright board is; `y` counts from the first row that is shown."""
        short, long = _x("-R") + MARGIN_X, (self.last - self.first + 1) * PITCH + 2 * MARGIN_Y
        x, y = {
            Lies.UPRIGHT: (x, y),
            Lies.UPRIGHT_TURNED: (short - x, long - y),
            Lies.ACROSS: (y, short - x),
            Lies.ACROSS_TURNED: (long - y, x),
        }[self.lies]
        return round(x, 2), round(y, 2)

    def at(self, hole: Hole) -> tuple[float, float]:
        """Where a hole is."""
        return self.point(_x(hole.column), self.row(hole.row))

    def row(self, row: int) -> float:
        """How far down a row is on the upright board."""
        return MARGIN_Y + (row - self.first) * PITCH + PITCH / 2

    def shows(self, hole: Hole) -> bool:
        """Whether a hole is not folded away."""
        return self.first <= hole.row <= self.last


@dataclass(frozen=True)
class Dot:
    """A hole of a strip in use: its net by number, and what is in it, as name, which lead, and its other hole.

    `node` is the one of the drawing that it stands for; empty for none.
    """

    name: str
    x: float
    y: float
    net: int
    tint: int
    title: str
    lit: bool
    lead: str
    node: str


@dataclass(frozen=True)
class Body:
    """A part: its middle and angle, its leads' length, its bands' words with their places, and its name's place.

    `look` is the word of its kind; the first lead of one that is `polarised` is marked +, and lies at −`reach`.
    """

    name: str
    x: float
    y: float
    angle: float
    reach: float
    bands: tuple[tuple[str, float], ...]
    label: tuple[float, float]
    lit: bool
    look: str = "resistor"
    is_polarised: bool = False


@dataclass(frozen=True)
class DrawnWire:
    """A jumper or link as an arc; `kind` is jumper, link or pulled."""

    name: str
    kind: str
    path: str
    x: float
    y: float
    lit: bool


@dataclass(frozen=True)
class Supply:
    """A source's lead: which one, and where it goes in."""

    name: str
    sign: str
    kind: str
    x: float
    y: float


@dataclass(frozen=True)
class BoardView:
    """Everything the template draws. `holes` is markup of all holes, `dots` lie over those in use; `marks` are rows'
    numbers and columns' letters; `probes` red and black. `folded`: rows that are not in use are left out.
    """

    width: float
    height: float
    holes: str
    dots: tuple[Dot, ...]
    bodies: tuple[Body, ...]
    wires: tuple[DrawnWire, ...]
    supplies: tuple[Supply, ...]
    rails: tuple[tuple[str, str, str, float, float], ...]
    marks: tuple[tuple[str, float, float], ...]
    probes: tuple[tuple[str, float, float], ...]
    description: str
    folded: bool
    across: bool


def board_view(
    built: Built,
    parts: Mapping[str, Part],
    nodes: Mapping[Strip, str],
    lit: Collection[str] = (),
    lit_holes: Collection[Hole] = (),
    probes: Mapping[str, Hole] | None = None,
    lies: Lies = Lies.UPRIGHT,
    *,
    whole: bool = True,
) -> BoardView:
    """Draw a board; `lit` and `lit_holes` mark what a difference or a step of the path is about.

    Unless the `whole` board is wanted, rows at its ends that nothing is in are folded away.
    """
    board = built.board
    place = _folded(built, lit_holes, probes or {}, lies) if not whole else _Place(lies, 1, board.rows)
    width, height = place.size
    down = (place.last - place.first + 1) * PITCH + 2 * MARGIN_Y
    marks = [
        (str(row), *place.point(x, place.row(row)))
        for row in range(place.first, place.last + 1)
        for x in (_x("a") - 16, _x("j") + 16)
    ]
    marks += [(letter, *place.point(_x(letter), y)) for letter in LEFT + RIGHT for y in (18.0, down - 18.0)]
    placed = list(built.placements.values())
    sources = [placement for placement in placed if placement.piece is Piece.PART and _is_source(placement, parts)]
    wires = [placement for placement in placed if placement.piece is not Piece.PART or _is_wire(placement, parts)]
    bodies = [placement for placement in placed if placement not in sources and placement not in wires]
    return BoardView(
        width=width,
        height=height,
        holes=_empty_holes(place),
        dots=tuple(dot for dot in _used_dots(built, nodes, lit_holes, place)),
        bodies=tuple(_body(placement, parts, placement.name in lit, place) for placement in bodies),
        wires=tuple(_wire(placement, placement.name in lit, place) for placement in wires),
        supplies=tuple(lead for placement in sources for lead in _leads(placement, place)),
        rails=tuple(_rail(rail, place, down) for rail in RAILS),
        marks=tuple(marks),
        probes=tuple((colour, *place.at(hole)) for colour, hole in (probes or {}).items()),
        description=f"Board with {', '.join(map(_words, built.placements.values())) or 'nothing on it'}",
        folded=(place.first, place.last) != (1, board.rows),
        across=lies in (Lies.ACROSS, Lies.ACROSS_TURNED),
    )


def _folded(built: Built, lit: Collection[Hole], probes: Mapping[str, Hole], lies: Lies) -> _Place:
    """The rows in use, with a few beside them; the whole board where nothing is in it."""
    used = [hole.row for placement in built.placements.values() for hole in placement.holes]
    used += [hole.row for hole in (*lit, *probes.values())]
    rows = built.board.rows
    if not used:
        return _Place(lies, 1, rows)
    return _Place(lies, max(1, min(used) - BESIDE), min(rows, max(used) + BESIDE))


def _rail(rail: str, place: _Place, down: float) -> tuple[str, str, str, float, float]:
    """A rail's sign and kind, its line, and where its sign stands."""
    (x1, y1), (x2, y2) = place.point(_x(rail), 28.0), place.point(_x(rail), down - 28.0)
    kind = "plus" if rail[0] == "+" else "minus"
    return rail[0].replace("-", "−"), kind, f"M{x1:g} {y1:g}L{x2:g} {y2:g}", *place.point(_x(rail), 17.0)


def _words(placement: Placement) -> str:
    first, second = (hole.shown for hole in placement.holes)
    return f"{placement.name} from {first} to {second}"


@lru_cache(maxsize=64)
def _empty_holes(place: _Place) -> str:
    """All holes of a board with nothing in them, as markup: the same for every board that lies so."""
    return "".join(
        f'<circle class="hole" cx="{x:g}" cy="{y:g}" r="4.2" data-hole="{column}{row}"/>'
        for row in range(place.first, place.last + 1)
        for column in ACROSS
        for x, y in [place.point(_x(column), place.row(row))]
    )


def _used_dots(built: Built, nodes: Mapping[Strip, str], lit: Collection[Hole], place: _Place) -> Iterator[Dot]:
    """The holes of every strip that something is pushed into, and those that are marked."""
    nets, numbers = built.nets(), dict[Strip, int]()
    leads = {hole: f"{placement.name} {k} {placement.holes[1 - k].name}"
             for placement in built.placements.values() for k, hole in enumerate(placement.holes)}  # fmt: skip
    for strip in dict.fromkeys(built.board.strip(hole) for hole in (*leads, *lit)):
        net = nets.of(built.board.holes(strip)[0])
        number = numbers.setdefault(net, len(numbers))
        for hole in filter(place.shows, built.board.holes(strip)):
            name = hole.shown
            title = f"{name}, node {nodes[net]}" if net in nodes else name
            x, y = place.at(hole)
            yield Dot(
                hole.name, x, y, number, number % TINTS, title, hole in lit, leads.get(hole, ""), nodes.get(net, "")
            )


def _body(placement: Placement, parts: Mapping[str, Part], lit: bool, place: _Place) -> Body:
    (x1, y1), (x2, y2) = (place.at(hole) for hole in placement.holes)
    part = parts.get(placement.name)
    return Body(
        name=placement.name,
        x=(x1 + x2) / 2,
        y=(y1 + y2) / 2,
        angle=round(degrees(atan2(y2 - y1, x2 - x1)), 1),
        reach=round(hypot(x2 - x1, y2 - y1) / 2, 1),
        bands=_bands(part),
        label=((x1 + x2) / 2 + 11, (y1 + y2) / 2 + 4) if x1 == x2 else ((x1 + x2) / 2 - 8, (y1 + y2) / 2 - 11),
        lit=lit,
        look=part.kind.word if part else "resistor",
        is_polarised=part is not None and part.kind.polarised,
    )


def _bands(part: Part | None) -> tuple[tuple[str, float], ...]:
    bands = bands_of(part)
    last = len(bands) - 1
    return tuple((band.word, -BODY / 2 + 5 + k * 6.5 if k < last else BODY / 2 - 8) for k, band in enumerate(bands))


def _wire(placement: Placement, lit: bool, place: _Place) -> DrawnWire:
    (x1, y1), (x2, y2) = (place.at(hole) for hole in placement.holes)
    # Pushed out sideways a little, so that wires along one column do not hide the holes between.
    bend = 0.16 * hypot(x2 - x1, y2 - y1) + 5
    length = hypot(x2 - x1, y2 - y1) or 1.0
    cx, cy = (x1 + x2) / 2 + bend * (y2 - y1) / length, (y1 + y2) / 2 - bend * (x2 - x1) / length
    kind = "pulled" if placement.pulled else placement.piece.value
    return DrawnWire(
        placement.name, kind, f"M{x1:g} {y1:g}Q{cx:.1f} {cy:.1f} {x2:g} {y2:g}", round(cx, 1), round(cy, 1), lit
    )


def _leads(placement: Placement, place: _Place) -> list[Supply]:
    return [
        Supply(placement.name if sign == "−" else "", sign, kind, *place.at(hole))
        for sign, kind, hole in zip("+−", ("plus", "minus"), placement.holes, strict=True)
    ]


def _is_source(placement: Placement, parts: Mapping[str, Part]) -> bool:
    return placement.name in parts and parts[placement.name].kind.is_source


def _is_wire(placement: Placement, parts: Mapping[str, Part]) -> bool:
    """Whether a part is no more than a wire, to be drawn as one."""
    return placement.name in parts and parts[placement.name].kind.is_wire and not parts[placement.name].kind.can_open


def _x(column: str) -> float:
    return MARGIN_X + (ACROSS[column] - ACROSS["-L"]) * PITCH
