"""A board with what is on it: a view model for ``drawing/board.svg``. Lengths are in SVG units, rows go down."""

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
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


@dataclass(frozen=True)
class Dot:
    """A hole of a strip in use: its net by number, and what is in it, as name, which lead, and its other hole."""

    name: str
    x: float
    y: float
    net: int
    tint: int
    title: str
    lit: bool
    lead: str


@dataclass(frozen=True)
class Body:
    """A resistor: its middle and angle, its leads' length, its bands' words with their places, and its name's place."""

    name: str
    x: float
    y: float
    angle: float
    reach: float
    bands: tuple[tuple[str, float], ...]
    label: tuple[float, float]
    lit: bool


@dataclass(frozen=True)
class Wire:
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
    numbers and columns' letters; `probes` red and black.
    """

    width: float
    height: float
    holes: str
    dots: tuple[Dot, ...]
    bodies: tuple[Body, ...]
    wires: tuple[Wire, ...]
    supplies: tuple[Supply, ...]
    rails: tuple[tuple[str, str, float], ...]
    marks: tuple[tuple[str, float, float], ...]
    probes: tuple[tuple[str, float, float], ...]
    description: str


def board_view(
    built: Built,
    parts: Mapping[str, Part],
    nodes: Mapping[Strip, str],
    lit: Collection[str] = (),
    lit_holes: Collection[Hole] = (),
    probes: Mapping[str, Hole] | None = None,
) -> BoardView:
    """Draw a board; `lit` and `lit_holes` mark what a difference or a step of the path is about."""
    board = built.board
    height = _y(board.rows) + MARGIN_Y
    marks = [
        (str(row), x, _y(row) + 4) for row in (1, *range(5, board.rows + 1, 5)) for x in (_x("a") - 16, _x("j") + 16)
    ]
    marks += [(letter, _x(letter), y) for letter in LEFT + RIGHT for y in (MARGIN_Y - 8, height - 8)]
    resistors = [
        placement
        for placement in built.placements.values()
        if placement.piece is Piece.PART and not _is_source(placement, parts)
    ]
    sources = [
        placement
        for placement in built.placements.values()
        if placement.piece is Piece.PART and _is_source(placement, parts)
    ]
    wires = [placement for placement in built.placements.values() if placement.piece is not Piece.PART]
    return BoardView(
        width=_x("-R") + MARGIN_X,
        height=height,
        holes=_empty_holes(board.rows),
        dots=tuple(_used_dots(built, nodes, lit_holes)),
        bodies=tuple(_body(placement, parts, placement.name in lit) for placement in resistors),
        wires=tuple(_wire(placement, placement.name in lit) for placement in wires),
        supplies=tuple(lead for placement in sources for lead in _leads(placement)),
        rails=tuple((rail[0].replace("-", "−"), "plus" if rail[0] == "+" else "minus", _x(rail)) for rail in RAILS),
        marks=tuple(marks),
        probes=tuple((colour, *_at(hole)) for colour, hole in (probes or {}).items()),
        description=f"Board with {', '.join(map(_words, built.placements.values())) or 'nothing on it'}",
    )


def _words(placement: Placement) -> str:
    first, second = (hole.shown for hole in placement.holes)
    return f"{placement.name} from {first} to {second}"


@lru_cache(maxsize=8)
def _empty_holes(rows: int) -> str:
    """All holes of a board with nothing in them, as markup: the same for every board of this size."""
    return "".join(
        f'<circle class="hole" cx="{_x(column):g}" cy="{_y(row):g}" r="4.2" data-hole="{column}{row}"/>'
        for row in range(1, rows + 1)
        for column in ACROSS
    )


def _used_dots(built: Built, nodes: Mapping[Strip, str], lit: Collection[Hole]) -> Iterator[Dot]:
    """The holes of every strip that something is pushed into, and those that are marked."""
    nets, numbers = built.nets(), dict[Strip, int]()
    leads = {hole: f"{placement.name} {k} {placement.holes[1 - k].name}"
             for placement in built.placements.values() for k, hole in enumerate(placement.holes)}  # fmt: skip
    for strip in dict.fromkeys(built.board.strip(hole) for hole in (*leads, *lit)):
        net = nets.of(built.board.holes(strip)[0])
        number = numbers.setdefault(net, len(numbers))
        for hole in built.board.holes(strip):
            name = hole.shown
            title = f"{name}, node {nodes[net]}" if net in nodes else name
            x, y = _at(hole)
            yield Dot(hole.name, x, y, number, number % TINTS, title, hole in lit, leads.get(hole, ""))


def _body(placement: Placement, parts: Mapping[str, Part], lit: bool) -> Body:
    (x1, y1), (x2, y2) = (_at(hole) for hole in placement.holes)
    return Body(
        name=placement.name,
        x=(x1 + x2) / 2,
        y=(y1 + y2) / 2,
        angle=round(degrees(atan2(y2 - y1, x2 - x1)), 1),
        reach=round(hypot(x2 - x1, y2 - y1) / 2, 1),
        bands=_bands(parts.get(placement.name)),
        label=((x1 + x2) / 2 + 11, (y1 + y2) / 2 + 4) if x1 == x2 else ((x1 + x2) / 2 - 8, (y1 + y2) / 2 - 11),
        lit=lit,
    )


def _bands(part: Part | None) -> tuple[tuple[str, float], ...]:
    bands = bands_of(part)
    last = len(bands) - 1
    return tuple((band.word, -BODY / 2 + 5 + k * 6.5 if k < last else BODY / 2 - 8) for k, band in enumerate(bands))


def _wire(placement: Placement, lit: bool) -> Wire:
    (x1, y1), (x2, y2) = (_at(hole) for hole in placement.holes)
    # Pushed out sideways a little, so that wires along one column do not hide the holes between.
    bend = 0.16 * hypot(x2 - x1, y2 - y1) + 5
    length = hypot(x2 - x1, y2 - y1) or 1.0
    cx, cy = (x1 + x2) / 2 + bend * (y2 - y1) / length, (y1 + y2) / 2 - bend * (x2 - x1) / length
    kind = "pulled" if placement.pulled else placement.piece.value
    return Wire(
        placement.name, kind, f"M{x1:g} {y1:g}Q{cx:.1f} {cy:.1f} {x2:g} {y2:g}", round(cx, 1), round(cy, 1), lit
    )


def _leads(placement: Placement) -> list[Supply]:
    return [
        Supply(placement.name if sign == "−" else "", sign, kind, *_at(hole))
        for sign, kind, hole in zip("+−", ("plus", "minus"), placement.holes, strict=True)
    ]


def _is_source(placement: Placement, parts: Mapping[str, Part]) -> bool:
    return placement.name in parts and not parts[placement.name].kind.rigid


def _x(column: str) -> float:
    return MARGIN_X + (ACROSS[column] - ACROSS["-L"]) * PITCH


def _y(row: int) -> float:
    return MARGIN_Y + row * PITCH - PITCH / 2


def _at(hole: Hole) -> tuple[float, float]:
    return _x(hole.column), _y(hole.row)
