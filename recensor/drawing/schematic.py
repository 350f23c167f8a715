"""The schematic of a series-parallel circuit with one source: a view model for ``drawing/schematic.svg``.

The source stands at the left. A parallel group hangs between two rails; a chain runs round the loop,
along the top, down the right and back along the bottom, as on a ruled sheet. Lengths are in SVG units.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

from recensor.core.circuit import Setup
from recensor.core.quantity import as_read
from recensor.core.record import Run, Target

PITCH, COLUMN, LEFT, TOP = 92, 104, 60, 46
SYMBOL = 44
RESISTORS_DOWN = 3


class NotSeriesParallelError(ValueError):
    """The circuit is no series-parallel network between the terminals of one source."""


@dataclass(frozen=True)
class Leaf:
    """One part, met from node `start` to node `end`."""

    part: str
    start: str
    end: str


@dataclass(frozen=True)
class Series:
    """Members one after the other."""

    members: "tuple[Tree, ...]"
    start: str
    end: str


@dataclass(frozen=True)
class Parallel:
    """Members side by side."""

    members: "tuple[Tree, ...]"
    start: str
    end: str


Tree = Leaf | Series | Parallel


@dataclass
class Symbol:
    """A part's place. `lit` marks the part that the next reading is about."""

    id: str
    name: str
    value: str
    kind: str
    x: float
    y: float
    vertical: bool
    lit: bool = False


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
class Meter:
    """An ammeter in a gap."""

    x: float
    y: float


@dataclass
class Schematic:
    """Everything that the template draws."""

    width: float
    height: float
    wires: list[str] = field(default_factory=list)
    symbols: list[Symbol] = field(default_factory=list)
    nodes: list[NodeMark] = field(default_factory=list)
    ground: tuple[float, float] = (0.0, 0.0)
    meter: Meter | None = None
    description: str = ""


def series_parallel_tree(setup: Setup, source: str) -> Tree:
    """Reduce everything but the source to one tree between its terminals. Raises `NotSeriesParallelError`."""
    start, end = setup.connections[source]
    edges: list[Tree] = [Leaf(name, *leads) for name, leads in setup.connections.items() if name != source]
    reduced = True
    while reduced and len(edges) > 1:
        reduced = _merge_parallel(edges) or _merge_series(edges, {start, end})
    if len(edges) != 1 or {edges[0].start, edges[0].end} != {start, end}:
        raise NotSeriesParallelError("the circuit is not series-parallel between the source's terminals")
    return edges[0] if edges[0].start == start else _turned(edges[0])


def schematic(run: Run, setup: Setup, target: Target | None = None) -> Schematic:
    """Lay the setup out; `target` is the next reading, whose part and probes are marked."""
    sources = [name for name in setup.connections if run.parts[name].kind.is_source]
    if len(sources) != 1:
        raise NotSeriesParallelError("the circuit does not have just one source")
    tree = series_parallel_tree(setup, sources[0])
    layout = _Layout(run, setup)
    drawn = layout.loop(sources[0], tree)
    if target is not None:
        _mark(drawn, target, setup)
    return drawn


class _Layout:
    """Places symbols, wires and node names while it walks the tree."""

    def __init__(self, run: Run, setup: Setup) -> None:
        self.run = run
        self.setup = setup
        self.drawn = Schematic(0, 0)
        self.node_index = {node: k for k, node in enumerate(setup.nodes)}

    def loop(self, source: str, tree: Tree) -> Schematic:
        """The source at the left, the tree round the loop."""
        members = tree.members if isinstance(tree, Series) else (tree,)
        along_top, down, along_bottom = _round_the_loop(members)
        right = LEFT + COLUMN * max(len(along_top), len(along_bottom), 1) + (24 if along_top or along_bottom else 0)
        span = max(sum(_height(member) for member in down), 2 * PITCH)
        bottom = TOP + span
        width = right + max(_width(member) for member in down) + 8
        self.drawn.width, self.drawn.height = width, bottom + 44

        x = float(LEFT)
        self.node(tree.start, LEFT, TOP, "above")
        for leaf in along_top:
            self.symbol(leaf.part, x + COLUMN / 2, TOP, vertical=False)
            self.wire(x, TOP, x + COLUMN / 2 - SYMBOL / 2, TOP)
            x += COLUMN
            self.wire(x - COLUMN / 2 + SYMBOL / 2, TOP, x, TOP)
            self.node(leaf.end, x, TOP, "above")
        self.wire(x, TOP, right, TOP)

        y, extra = float(TOP), (span - sum(_height(member) for member in down)) / len(down)
        for k, member in enumerate(down):
            height = _height(member) + extra
            self.down(member, right, y, height)
            y += height
            if k < len(down) - 1:
                self.node(member.end, right, y, "left")

        x = float(LEFT)
        for leaf in reversed(along_bottom):
            self.symbol(leaf.part, x + COLUMN / 2, bottom, vertical=False)
            self.wire(x, bottom, x + COLUMN / 2 - SYMBOL / 2, bottom)
            x += COLUMN
            self.wire(x - COLUMN / 2 + SYMBOL / 2, bottom, x, bottom)
            self.node(leaf.start, x, bottom, "below")
        self.wire(x, bottom, right, bottom)
        self.node(tree.end, LEFT, bottom, "below")

        middle = (TOP + bottom) / 2
        self.symbol(source, LEFT, middle, vertical=True)
        self.wire(LEFT, TOP, LEFT, middle - SYMBOL / 2)
        self.wire(LEFT, middle + SYMBOL / 2, LEFT, bottom)
        self.drawn.ground = (LEFT, bottom)
        names = ", ".join(f"{symbol.name} {symbol.value}" for symbol in self.drawn.symbols)
        self.drawn.description = f"Circuit as drawn: {names}"
        return self.drawn

    def down(self, tree: Tree, x: float, y: float, height: float) -> None:
        """Draw a tree from (x, y) downward over `height`."""
        if isinstance(tree, Leaf):
            middle = y + height / 2
            self.symbol(tree.part, x, middle, vertical=True)
            self.wire(x, y, x, middle - SYMBOL / 2)
            self.wire(x, middle + SYMBOL / 2, x, y + height)
        elif isinstance(tree, Series):
            stretch = (height - _height(tree)) / len(tree.members)
            for member in tree.members:
                self.down(member, x, y, _height(member) + stretch)
                y += _height(member) + stretch
                if member is not tree.members[-1]:
                    self.node(member.end, x, y, "left")
        else:
            column = x
            upper, lower = y + 16, y + height - 16
            self.wire(x, y, x, upper)
            self.wire(x, lower, x, y + height)
            for member in tree.members:
                self.down(member, column, upper, lower - upper)
                if member is not tree.members[-1]:
                    self.wire(column, upper, column + _width(member), upper)
                    self.wire(column, lower, column + _width(member), lower)
                column += _width(member)

    def wire(self, x1: float, y1: float, x2: float, y2: float) -> None:
        if (x1, y1) != (x2, y2):
            self.drawn.wires.append(f"M{x1:g} {y1:g}L{x2:g} {y2:g}")

    def node(self, name: str, x: float, y: float, side: str) -> None:
        self.drawn.nodes.append(NodeMark(f"node-{self.node_index[name]}", name, x, y, side))

    def symbol(self, name: str, x: float, y: float, *, vertical: bool) -> None:
        part = self.run.parts[name]
        value = as_read(part.nominal, part.kind.unit) if part.nominal else "unmarked"
        index = list(self.run.parts).index(name)
        self.drawn.symbols.append(
            Symbol(f"part-{index}", name, value, part.kind.value.replace(" ", "-"), x, y, vertical)
        )


def _round_the_loop(members: tuple[Tree, ...]) -> tuple[list[Leaf], list[Tree], list[Leaf]]:
    """Which members go along the top, down the right and back along the bottom."""
    surplus = max(0, len(members) - RESISTORS_DOWN)
    most_top = (surplus + 1) // 2
    top: list[Leaf] = []
    for member in members:
        if not isinstance(member, Leaf) or len(top) == most_top:
            break
        top.append(member)
    bottom: list[Leaf] = []
    for member in reversed(members[len(top) :]):
        if not isinstance(member, Leaf) or len(bottom) == surplus - len(top):
            break
        bottom.insert(0, member)
    return top, list(members[len(top) : len(members) - len(bottom)]), bottom


def _mark(drawn: Schematic, target: Target, setup: Setup) -> None:
    """Light the parts a reading is about and show where red and black go."""
    red = black = ""
    if target.across:
        red, black = target.across
        lit = [name for name, leads in setup.connections.items() if set(leads) == {red, black}]
    else:
        lit = [target.of or target.through or ""]
        leads = setup.connections.get(lit[0])
        if leads and target.of and any(s.name == lit[0] and s.kind != "resistor" for s in drawn.symbols):
            red, black = leads
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
        if symbol.name == target.through:
            drawn.meter = Meter(symbol.x, symbol.y - 40) if symbol.vertical else Meter(symbol.x - 40, symbol.y)
    for mark in drawn.nodes:
        mark.probe = "red" if mark.name == red else "black" if mark.name == black else ""


def _merge_parallel(edges: list[Tree]) -> bool:
    groups: dict[frozenset[str], list[Tree]] = {}
    for edge in edges:
        groups.setdefault(frozenset((edge.start, edge.end)), []).append(edge)
    for group in groups.values():
        if len(group) > 1:
            start, end = group[0].start, group[0].end
            turned = [edge if edge.start == start else _turned(edge) for edge in group]
            position = edges.index(group[0])
            edges[:] = [edge for edge in edges if edge not in group]
            edges.insert(position, Parallel(_flat(turned, Parallel), start, end))
            return True
    return False


def _merge_series(edges: list[Tree], terminals: set[str]) -> bool:
    nodes = dict.fromkeys(node for edge in edges for node in (edge.start, edge.end))
    for node in nodes:
        meeting = [edge for edge in edges if node in (edge.start, edge.end)]
        if node in terminals or len(meeting) != 2 or any(edge.start == edge.end for edge in meeting):
            continue
        first, second = meeting
        first = first if first.end == node else _turned(first)
        second = second if second.start == node else _turned(second)
        position = edges.index(meeting[0])
        edges[:] = [edge for edge in edges if edge not in meeting]
        edges.insert(position, Series(_flat([first, second], Series), first.start, second.end))
        return True
    return False


def _flat(members: list[Tree], kind: type[Series] | type[Parallel]) -> tuple[Tree, ...]:
    """Members of members of the same kind are members."""
    flat: list[Tree] = []
    for member in members:
        flat.extend(member.members if isinstance(member, kind) else (member,))
    return tuple(flat)


def _turned(tree: Tree) -> Tree:
    """The same tree met from its other end."""
    if isinstance(tree, Leaf):
        return Leaf(tree.part, tree.end, tree.start)
    if isinstance(tree, Series):
        return Series(tuple(_turned(member) for member in reversed(tree.members)), tree.end, tree.start)
    return Parallel(tuple(_turned(member) for member in tree.members), tree.end, tree.start)


def _size(tree: Tree, leaf: float, along: Callable[..., float], padding: float) -> float:
    if isinstance(tree, Leaf):
        return leaf
    sizes = [_size(member, leaf, along, padding) for member in tree.members]
    return along(tree, sizes) + (padding if isinstance(tree, Parallel) else 0.0)


def _height(tree: Tree) -> float:
    return _size(tree, PITCH, lambda t, sizes: sum(sizes) if isinstance(t, Series) else max(sizes), 32)


def _width(tree: Tree) -> float:
    return _size(tree, COLUMN, lambda t, sizes: max(sizes) if isinstance(t, Series) else sum(sizes), 0)
