"""The series-parallel structure of a circuit: one tree between two nodes, where there is one.

Two parts across the same two nodes are merged into a parallel group, two that alone share a node into a
chain, until one member is left (Duffin, 1965, "Topology of series-parallel networks"; from memory).
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from heapq import heappop, heappush

from recensor.core.circuit.parts import Part
from recensor.core.circuit.setup import Leads, Setup
from recensor.core.errors import Refused
from recensor.core.sentences import say


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
    left = _Reduction(connections, {start, end}).members()
    if len(left) != 1 or start == end or {left[0].start, left[0].end} != {start, end}:
        raise NotSeriesParallelError(say("circuit.circuit_not_series_parallel"))
    return left[0] if left[0].start == start else turned(left[0])


def tree_of_source(setup: Setup, parts: Mapping[str, Part]) -> tuple[str, Tree]:
    """The only source of a setup, and everything else as a tree from its + to its −.

    Raises `NotSeriesParallelError`, also where there is not just one source.
    """
    sources = [name for name in setup.connections if parts[name].kind.is_source]
    if len(sources) != 1:
        raise NotSeriesParallelError(say("circuit.circuit_does_not_just"))
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


class _Reduction:
    """Members between nodes, merged until nothing is left to merge; a merged member takes the place of its first.

    Only what a merge touches is looked at again, so that the work grows with the parts and hardly faster.
    """

    def __init__(self, connections: Mapping[str, Leads], terminals: set[str]) -> None:
        self._terminals = terminals
        self._members: dict[int, Tree] = {}
        self._at: dict[str, set[int]] = defaultdict(set)
        self._between: dict[frozenset[str], set[int]] = defaultdict(set)
        self._side_by_side: list[frozenset[str]] = []
        self._in_a_row: list[tuple[int, str]] = []
        for place, (name, leads) in enumerate(connections.items()):
            self._put(place, Leaf(name, *leads))

    def members(self) -> list[Tree]:
        """What is left, in the order of the parts."""
        while self._side_by_side or self._in_a_row:
            if self._side_by_side:
                self._merge_parallel(self._between[self._side_by_side.pop()])
            else:
                self._merge_series(heappop(self._in_a_row)[1])
        return [self._members[place] for place in sorted(self._members)]

    def _put(self, place: int, member: Tree) -> None:
        self._members[place] = member
        pair = frozenset((member.start, member.end))
        self._between[pair].add(place)
        if len(pair) == 2 and len(self._between[pair]) > 1:
            self._side_by_side.append(pair)
        for node in pair:
            self._at[node].add(place)
        self._look_at(pair)

    def _take(self, place: int) -> Tree:
        member = self._members.pop(place)
        pair = frozenset((member.start, member.end))
        self._between[pair].remove(place)
        for node in pair:
            self._at[node].remove(place)
        return member

    def _look_at(self, nodes: Iterable[str]) -> None:
        for node in nodes:
            if node not in self._terminals and len(self._at[node]) == 2:
                heappush(self._in_a_row, (min(self._at[node]), node))

    def _merge_parallel(self, group: set[int]) -> None:
        if len(group) < 2:
            return
        places = sorted(group)
        members = [self._take(place) for place in places]
        start, end = members[0].start, members[0].end
        facing = [member if member.start == start else turned(member) for member in members]
        self._put(places[0], Parallel(_flat(facing, Parallel), start, end))

    def _merge_series(self, node: str) -> None:
        places = sorted(self._at[node])
        if len(places) != 2 or any(self._members[place].start == self._members[place].end for place in places):
            return
        first, second = (self._take(place) for place in places)
        first = first if first.end == node else turned(first)
        second = second if second.start == node else turned(second)
        self._put(places[0], Series(_flat([first, second], Series), first.start, second.end))


def _flat(members: list[Tree], kind: type[Series] | type[Parallel]) -> tuple[Tree, ...]:
    """Members of members of the same kind are members."""
    flat: list[Tree] = []
    for member in members:
        flat.extend(member.members if isinstance(member, kind) else (member,))
    return tuple(flat)
