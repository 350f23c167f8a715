"""Any circuit drawn with its nodes as level rails and its parts upright between them.

Nodes where branches meet become rails, chains of parts columns. A planar circuit is drawn without a
crossing, as a visibility representation: heights by longest paths through the circuit, columns by longest
paths through its faces (Tamassia and Tollis, 1986, "A unified approach to visibility representations of
planar graphs"; from memory). Heights follow the node potentials of a like circuit of slightly unequal
resistors, which puts a neighbour above and one below every node but the two ends.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import networkx as nx
import numpy as np

from recensor.drawing.schematic.canvas import COLUMN, LEFT, PITCH, TOP, Canvas, Schematic

if TYPE_CHECKING:
    Graph = nx.Graph[str]

Leads = tuple[str, str]
# What is at the left of the first column, and at the right of the last one.
_OUTSIDE, _BEYOND = "outside", "beyond"


@dataclass(frozen=True)
class Chain:
    """Parts one after the other between two rails, through `nodes`, which name both ends too."""

    parts: tuple[str, ...]
    nodes: tuple[str, ...]

    @property
    def ends(self) -> Leads:
        """The rails it joins."""
        return self.nodes[0], self.nodes[-1]

    def upward(self, heights: Mapping[str, float]) -> "Chain":
        """The same from its lower rail to its upper one."""
        start, end = self.ends
        return self if heights[start] <= heights[end] else Chain(self.parts[::-1], self.nodes[::-1])


def draw(canvas: Canvas) -> Schematic:
    """Lay the whole setup out."""
    setup = canvas.setup
    sources = [name for name in setup.connections if canvas.sheet.parts[name].kind.is_source]
    top = setup.connections[sources[0] if sources else next(iter(setup.connections))][0]
    chains = _chains(setup.connections, setup.reference, top)
    between: dict[frozenset[str], list[Chain]] = {}
    for chain in sorted(chains, key=lambda chain: not any(name in sources for name in chain.parts)):
        between.setdefault(frozenset(chain.ends), []).append(chain)
    graph: Graph = nx.Graph([chain.ends for chain in chains])
    graph.add_node(setup.reference)
    first = next(chain for chain in chains if top in chain.nodes)
    end = next(node for node in (top, *first.ends, *graph) if node in graph and node != setup.reference)
    _make_biconnected(graph, setup.reference, end)
    potentials = _potentials(graph, setup.reference, end)
    edges: list[Leads] = [(a, b) if potentials[a] <= potentials[b] else (b, a) for a, b in graph.edges]
    spans = [(low, high, max((len(chain.parts) for chain in between.get(frozenset((low, high)), ())), default=1))
             for low, high in edges]  # fmt: skip
    planar, embedding = nx.check_planarity(graph)
    if planar and isinstance(embedding, nx.PlanarEmbedding):
        columns = _columns(embedding, edges, (setup.reference, end), between)
    else:
        # Every rail at a height of its own, so that what must cross never lies along one another.
        spans += [(low, high, 1) for low, high in pairwise(sorted(graph, key=potentials.__getitem__))]
        columns = _columns_in_order(edges, between, potentials)
    levels = _longest(dict.fromkeys(graph, 0), sorted(spans, key=lambda span: potentials[span[0]]))
    grouped = [(columns[frozenset(pair)], between.get(frozenset(pair), [])) for pair in edges]
    return _place(canvas, levels, grouped, spread=planar)


def _place(
    canvas: Canvas, levels: Mapping[str, int], grouped: list[tuple[int, list[Chain]]], *, spread: bool
) -> Schematic:
    """Put chains into their columns and draw each rail as far as its columns reach; `spread` parts evenly."""
    height = max(levels.values())
    level_y = {node: TOP + (height - level) * PITCH for node, level in levels.items()}
    used = sorted({column + k for column, chains in grouped for k in range(len(chains))})
    places = {column: LEFT + COLUMN * k for k, column in enumerate(used)}
    reach: dict[str, list[float]] = {}
    for column, chains in grouped:
        for k, chain in enumerate(chains):
            x, downward = places[column + k], chain.upward(levels)
            downward = Chain(downward.parts[::-1], downward.nodes[::-1])
            for rail in downward.ends:
                reach.setdefault(rail, []).append(x)
            _chain(canvas, downward, x, level_y, spread=spread)
    for rail, columns in reach.items():
        canvas.wire(min(columns), level_y[rail], max(columns), level_y[rail])
        canvas.node(rail, min(columns), level_y[rail], "below" if level_y[rail] == max(level_y.values()) else "beside")
    reference = canvas.setup.reference
    ground = (min(reach[reference]), level_y[reference])
    return canvas.finished(max(places.values()) + COLUMN, TOP + height * PITCH + 44, ground)


def _chain(canvas: Canvas, chain: Chain, x: float, level_y: Mapping[str, float], *, spread: bool) -> None:
    """A chain from its upper rail down to its lower one; not spread, its parts stand clear of all rails."""
    upper, lower = (level_y[node] for node in chain.ends)
    each = (lower - upper) / len(chain.parts) if spread else PITCH
    for k, (name, (start, end)) in enumerate(zip(chain.parts, pairwise(chain.nodes), strict=True)):
        top, is_last = upper + k * each, k == len(chain.parts) - 1
        canvas.part_between(name, x, top, lower if is_last else top + each, start, middle=top + each / 2)
        if not is_last:
            canvas.node(end, x, top + each, "left")


def _chains(connections: Mapping[str, Leads], reference: str, top: str) -> list[Chain]:
    """Maximal chains between the nodes where branches meet or end; a chain back to its own node is cut in two."""
    degree = {node: sum(node in leads for leads in connections.values()) for node in _nodes(connections)}
    rails = {node for node, count in degree.items() if count != 2} | {reference}
    rails |= {top} if rails == {reference} else set()
    while True:
        chains = list(_walked(connections, rails))
        loops = [chain for chain in chains if chain.nodes[0] == chain.nodes[-1]]
        cuts = {loop.nodes[len(loop.nodes) // 2] for loop in loops} - rails
        if not cuts:  # what is left is a part with both leads at one node, and goes nowhere
            return [chain for chain in chains if chain not in loops]
        rails |= cuts


def _walked(connections: Mapping[str, Leads], rails: set[str]) -> Iterator[Chain]:
    seen: set[str] = set()
    for name, leads in connections.items():
        for start in leads:
            if name in seen or start not in rails:
                continue
            parts, nodes = [name], [start, leads[1] if start == leads[0] else leads[0]]
            while nodes[-1] not in rails:
                name_on, other = next(
                    (key, pair) for key, pair in connections.items() if nodes[-1] in pair and key != parts[-1]
                )
                parts.append(name_on)
                nodes.append(other[1] if nodes[-1] == other[0] else other[0])
            seen.update(parts)
            yield Chain(tuple(parts), tuple(nodes))


def _nodes(connections: Mapping[str, Leads]) -> dict[str, None]:
    return dict.fromkeys(node for leads in connections.values() for node in leads)


def _make_biconnected(graph: "Graph", start: str, end: str) -> None:
    """Add edges that are never drawn until no single node holds the graph together; planar as long as it can be."""
    graph.add_edge(start, end)
    pieces = [next(iter(piece)) for piece in nx.connected_components(graph)]
    for one, other in pairwise(pieces):
        graph.add_edge(one, other)
    while cut := next(nx.articulation_points(graph), None):
        rest = graph.subgraph(node for node in graph if node != cut)
        pieces, *others = (sorted(set(piece) & set(graph[cut])) for piece in nx.connected_components(rest))
        pairs = [(a, b) for other in others for a in pieces for b in other]
        graph.add_edge(*next((pair for pair in pairs if _stays_planar(graph, pair)), pairs[0]))


def _stays_planar(graph: "Graph", pair: Leads) -> bool:
    tried = graph.copy()
    tried.add_edge(*pair)
    return bool(nx.check_planarity(tried)[0])


def _potentials(graph: "Graph", low: str, high: str) -> dict[str, float]:
    """Node potentials with `low` at 0 and `high` at 1; unequal conductances keep any two from being the same."""
    index = {node: k for k, node in enumerate(graph)}
    matrix = np.zeros((len(index), len(index)))
    for k, (a, b) in enumerate(graph.edges):
        weight = 1.0 + 0.1 * np.sin(1.0 + k)
        for one, other in ((index[a], index[b]), (index[b], index[a])):
            matrix[one, one] += weight
            matrix[one, other] -= weight
    drive = np.zeros(len(index))
    for node, value in ((low, 0.0), (high, 1.0)):
        matrix[index[node]] = 0.0
        matrix[index[node], index[node]] = 1.0
        drive[index[node]] = value
    return dict(zip(index, np.linalg.solve(matrix, drive).tolist(), strict=True))


def _longest(found: dict[str, int], edges: list[tuple[str, str, int]]) -> dict[str, int]:
    """Longest distance to every place along edges that come in the order of their beginnings."""
    for start, end, length in edges:
        found[end] = max(found[end], found[start] + length)
    return found


def _columns_in_order(
    edges: list[Leads], between: Mapping[frozenset[str], list[Chain]], potentials: Mapping[str, float]
) -> dict[frozenset[str], int]:
    """The first column of the chains between every two rails where crossings cannot be helped: by height."""
    columns, at = {}, 0
    for edge in sorted(edges, key=lambda edge: potentials[edge[0]] + potentials[edge[1]]):
        columns[frozenset(edge)] = at
        at += len(between.get(frozenset(edge), ()))
    return columns


def _columns(
    embedding: "nx.PlanarEmbedding[str]",
    edges: list[Leads],
    outer: Leads,
    between: Mapping[frozenset[str], list[Chain]],
) -> dict[frozenset[str], int]:
    """The first column of the chains between every two rails, from the faces of a planar drawing."""
    width = {frozenset(edge): len(between.get(frozenset(edge), ())) for edge in edges}
    face: dict[Leads, str] = {}
    for edge in (*edges, *(edge[::-1] for edge in edges)):
        if edge not in face:
            marked: set[Leads] = set()
            embedding.traverse_face(*edge, mark_half_edges=marked)
            face.update(dict.fromkeys(marked, f"face {len(face)}"))
    outside = face[outer[::-1]]
    dual: nx.DiGraph[str] = nx.DiGraph()
    for low, high in edges:
        left, right = face[high, low], face[low, high]
        left = _OUTSIDE if (low, high) == outer else left
        right = _BEYOND if right == outside and (low, high) != outer else right
        length = max(width[frozenset((low, high))], dual.edges.get((left, right), {}).get("length", 0))
        dual.add_edge(left, right, length=length)
    order = list(nx.topological_sort(dual))
    steps = [
        (face_id, after, data["length"]) for face_id in order for _, after, data in dual.out_edges(face_id, data=True)
    ]
    places = _longest(dict.fromkeys(order, 0), steps)
    return {
        frozenset((low, high)): places[_OUTSIDE if (low, high) == outer else face[high, low]] for low, high in edges
    }
