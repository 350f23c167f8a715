"""The series-parallel structure of a circuit: one tree between two nodes, where there is one.

Two parts across the same two nodes are merged into a parallel group, two that alone share a node into a
chain, until one member is left (Duffin, 1965, "Topology of series-parallel networks"; from memory).
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from recensor.core.circuit.parts import Part
from recensor.core.circuit.setup import Leads, Setup
from recensor.core.errors import Refused


class NotSeriesParallelError(Refused):
    """The circuit is no series-parallel network between the two nodes."""


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


def tree(connections: Mapping[str, Leads], start: str, end: str) -> Tree:
    """Reduce all parts to one tree from `start` to `end`. Raises `NotSeriesParallelError`.

    Examples
    --------
    >>> whole = tree({"R1": ("a", "b"), "R2": ("b", "g"), "R3": ("g", "b")}, "a", "g")
    >>> type(whole).__name__, type(whole.members[1]).__name__
    ('Series', 'Parallel')
    """
    edges: list[Tree] = [Leaf(name, *leads) for name, leads in connections.items()]
    reduced = True
    while reduced and len(edges) > 1:
        reduced = _merge_parallel(edges) or _merge_series(edges, {start, end})
    if len(edges) != 1 or start == end or {edges[0].start, edges[0].end} != {start, end}:
        raise NotSeriesParallelError("the circuit is not series-parallel between these two nodes")
    return edges[0] if edges[0].start == start else turned(edges[0])


def tree_of_source(setup: Setup, parts: Mapping[str, Part]) -> tuple[str, Tree]:
    """The only source of a setup, and everything else as a tree from its + to its −.

    Raises `NotSeriesParallelError`, also where there is not just one source.
    """
    sources = [name for name in setup.connections if parts[name].kind.drives]
    if len(sources) != 1:
        raise NotSeriesParallelError("the circuit does not have just one source")
    rest = {name: leads for name, leads in setup.connections.items() if name != sources[0]}
    return sources[0], tree(rest, *setup.connections[sources[0]])


def leaves(whole: Tree) -> Iterator[Leaf]:
    """The parts of a tree in its order."""
    if isinstance(whole, Leaf):
        yield whole
    else:
        for member in whole.members:
            yield from leaves(member)


def turned(whole: Tree) -> Tree:
    """The same tree met from its other end."""
    if isinstance(whole, Leaf):
        return Leaf(whole.part, whole.end, whole.start)
    if isinstance(whole, Series):
        return Series(tuple(turned(member) for member in reversed(whole.members)), whole.end, whole.start)
    return Parallel(tuple(turned(member) for member in whole.members), whole.end, whole.start)


def _merge_parallel(edges: list[Tree]) -> bool:
    groups: dict[frozenset[str], list[Tree]] = {}
    for edge in edges:
        groups.setdefault(frozenset((edge.start, edge.end)), []).append(edge)
    for group in groups.values():
        if len(group) > 1:
            start, end = group[0].start, group[0].end
            if start == end:
                continue
            facing = [edge if edge.start == start else turned(edge) for edge in group]
            position = edges.index(group[0])
            edges[:] = [edge for edge in edges if edge not in group]
            edges.insert(position, Parallel(_flat(facing, Parallel), start, end))
            return True
    return False


def _merge_series(edges: list[Tree], terminals: set[str]) -> bool:
    nodes = dict.fromkeys(node for edge in edges for node in (edge.start, edge.end))
    for node in nodes:
        meeting = [edge for edge in edges if node in (edge.start, edge.end)]
        if node in terminals or len(meeting) != 2 or any(edge.start == edge.end for edge in meeting):
            continue
        first, second = meeting
        first = first if first.end == node else turned(first)
        second = second if second.start == node else turned(second)
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
