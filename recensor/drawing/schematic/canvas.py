"""What a schematic is made of, and the sheet that layouts place it on. Lengths are in SVG units."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from recensor.core.circuit import Setup, Sheet
from recensor.core.figures import as_read
from recensor.core.quantity import AMPERE
from recensor.drawing.schematic.symbols import OFF, OPEN, SYMBOLS, Look

# Room for one part along the way a current takes, and from one column of parts to the next.
PITCH, COLUMN = 92, 104
LEFT, TOP = 84, 46
SYMBOL = 44

# How large a drawing is shown where there is room for it.
SCALE = 1.25


# How wide one character of a part's value is.
CHARACTER = 8.0

# From the middle of an ammeter to its leads.
_LEAD = 15.0


@dataclass
class Symbol:
    """A part's place. `first_leads` says that its first lead is at the top or left.

    `arrow` is the way of its current on the sheet: down, up, right, left or nothing; `signs` has it shown by + and −
    at the part's ends instead. `lit` marks the part that the next reading is about. `whole` is the potentiometer of
    which it is half, whose name it is shown by.
    """

    id: str
    name: str
    value: str
    look: Look
    x: float
    y: float
    vertical: bool
    first_leads: bool = True
    label_left: bool = False
    note: str = ""
    whole: str = ""
    arrow: str = ""
    signs: bool = False
    lit: bool = False

    @property
    def shown_name(self) -> str:
        """The name that stands beside it."""
        return self.whole or self.name


@dataclass
class NodeMark:
    """A node's dot and name; `probe` is red or black where a probe goes."""

    id: str
    name: str
    x: float
    y: float
    side: str
    probe: str = ""


@dataclass
class MeterSymbol:
    """An ammeter in a gap at the end of a part, with its red lead above or at the left where `red_first`."""

    x: float
    y: float
    vertical: bool = True
    red_first: bool = True

    @property
    def probes(self) -> list[tuple[str, float, float]]:
        """The two leads: colour and place, from the meter's middle."""
        names = ("red", "black") if self.red_first else ("black", "red")
        ends = ((0.0, -_LEAD), (0.0, _LEAD)) if self.vertical else ((-_LEAD, 0.0), (_LEAD, 0.0))
        return [(name, *end) for name, end in zip(names, ends, strict=True)]


@dataclass
class Schematic:
    """Everything that the template draws."""

    width: float = 0.0
    height: float = 0.0
    wires: list[str] = field(default_factory=list)
    symbols: list[Symbol] = field(default_factory=list)
    nodes: list[NodeMark] = field(default_factory=list)
    ground: tuple[float, float] = (0.0, 0.0)
    meter: MeterSymbol | None = None
    description: str = ""

    @property
    def shown_width(self) -> float:
        """How wide it is shown where there is room."""
        return round(SCALE * self.width)


@dataclass(frozen=True)
class Beside:
    """What stands beside parts: notes by name, and which way each current goes.

    `currents` in amperes, positive from first lead to second (for a source: delivered). They are shown by
    arrows, or with `signs` by + and − at the ends of resistors.
    """

    notes: Mapping[str, str] = field(default_factory=dict)
    currents: Mapping[str, float] = field(default_factory=dict)
    signs: bool = False


class Canvas:
    """Places symbols, wires and node names of one setup, with what stands beside the parts."""

    def __init__(self, sheet: Sheet, setup: Setup, beside: Beside) -> None:
        self.sheet = sheet
        self.setup = setup
        self.beside = beside
        self.drawn = Schematic()
        self._node_index = {node: k for k, node in enumerate(setup.nodes)}
        self._part_index = {name: k for k, name in enumerate(sheet.parts)}
        self._wholes = {half: name for name, halves in sheet.potentiometers.items() for half in halves}

    def wire(self, x1: float, y1: float, x2: float, y2: float) -> None:
        """A straight wire; none where both ends are one point."""
        if (x1, y1) != (x2, y2):
            self.drawn.wires.append(f"M{x1:g} {y1:g}L{x2:g} {y2:g}")

    def node(self, name: str, x: float, y: float, side: str) -> None:
        """A node's dot with its name above, below or at the left of it."""
        self.drawn.nodes.append(NodeMark(f"node-{self._node_index[name]}", name, x, y, side))

    def symbol(self, name: str, x: float, y: float, start: str, *, vertical: bool, label_left: bool = False) -> None:
        """A part, whose top or left end is at node `start`."""
        part = self.sheet.parts[name]
        stated = self.setup.stated(part)
        value = as_read(stated, part.kind.unit) if stated else part.doubtful or "unmarked"
        if part.current and stated:
            value = f"{value} {as_read(part.current, AMPERE)}"
        look = SYMBOLS[part.kind]
        if part.kind.adjustable_value and not stated:
            value = f"to {as_read(part.nominal, part.kind.unit)}" if part.nominal else "to be set"
        if part.kind.is_wire:
            value = "open" if name in self.setup.open else "closed" if part.kind.can_open else ""
            look = OPEN if name in self.setup.open else look
        if part.kind.off and name in self.setup.sources_off:
            look, value = OFF[part.kind.off], "off"
        first_leads = self.setup.connections[name][0] == start
        arrow = self._arrow(name, first_leads == part.kind.is_source, vertical)
        self.drawn.symbols.append(
            Symbol(f"part-{self._part_index[name]}", name, value, look, x, y, vertical, first_leads, label_left,
                   self.beside.notes.get(name, ""), self._wholes.get(name, ""), arrow,
                   self.beside.signs and not part.kind.is_source)
        )  # fmt: skip

    def part_between(
        self,
        name: str,
        x: float,
        top: float,
        bottom: float,
        start: str,
        *,
        middle: float = 0.0,
        label_left: bool = False,
    ) -> None:
        """A part upright on a wire from `top` down to `bottom`, half way unless `middle` says where."""
        middle = middle or (top + bottom) / 2
        self.symbol(name, x, middle, start, vertical=True, label_left=label_left)
        self.wire(x, top, x, middle - SYMBOL / 2)
        self.wire(x, middle + SYMBOL / 2, x, bottom)

    def part_along(self, name: str, left: float, right: float, y: float, start: str) -> None:
        """A part lying in the middle of a wire from `left` to `right`."""
        middle = (left + right) / 2
        self.symbol(name, middle, y, start, vertical=False)
        self.wire(left, y, middle - SYMBOL / 2, y)
        self.wire(middle + SYMBOL / 2, y, right, y)

    def finished(self, width: float, height: float, ground: tuple[float, float]) -> Schematic:
        """The drawing, with its size, the place of the reference and a description."""
        ends = (
            s.x + s.look.label + CHARACTER * len(s.value) for s in self.drawn.symbols if s.vertical and not s.label_left
        )
        self.drawn.width, self.drawn.height, self.drawn.ground = max(width, *ends, 0.0), height, ground
        parts = (
            f"{symbol.name} {symbol.value} from {' to '.join(self.setup.connections[symbol.name])}"
            for symbol in self.drawn.symbols
        )
        self.drawn.description = f"Circuit: {'; '.join(parts)}"
        return self.drawn

    def _arrow(self, name: str, against: bool, vertical: bool) -> str:
        """A resistor's current leaves its first lead for its second, a source's comes out of its first."""
        current = self.beside.currents.get(name, 0.0)
        if not current:
            return ""
        backward = (current < 0) != against
        return {(True, False): "down", (True, True): "up", (False, False): "right", (False, True): "left"}[
            vertical, backward
        ]
