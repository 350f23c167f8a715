"""Groups, ways and loops in a graph whose edges have names: circuits and boards are walked here and nowhere else.

Edges are given as a mapping from name to (first node, second node); several may join the same two nodes.
"""

from collections import defaultdict, deque
from collections.abc import Hashable, Iterable, Iterator, Mapping
from heapq import heappop, heappush
from typing import Generic, TypeVar

Node = TypeVar("Node", bound=Hashable)
Edges = Mapping[str, tuple[str, str]]


class Groups(Generic[Node]):
    """Things that are joined to one another, each group named by one of its members.

    Examples
    --------
    >>> groups = Groups(["a", "b", "c"])
    >>> groups.join("a", "b"), groups.join("b", "a"), groups.together("a", "c")
    (True, False, False)
    """

    def __init__(self, members: Iterable[Node] = ()) -> None:
        self._parent: dict[Node, Node] = {member: member for member in members}

    def __iter__(self) -> Iterator[Node]:
        return iter(self._parent)

    def top(self, member: Node) -> Node:
        """The member that names the group; a new member is a group by itself."""
        parent = self._parent
        parent.setdefault(member, member)
        while parent[member] != member:
            parent[member] = parent[parent[member]]
            member = parent[member]
        return member

    def join(self, first: Node, second: Node) -> bool:
        """Make two groups one, named as the second was; False when they were one already."""
        first, second = self.top(first), self.top(second)
        self._parent[first] = second
        return first != second

    def together(self, first: Node, second: Node) -> bool:
        """Whether two members are in one group."""
        return self.top(first) == self.top(second)


def touching(edges: Edges) -> dict[str, list[str]]:
    """For each node the names of the edges at it, in order; an edge with both ends there is named once."""
    found: dict[str, list[str]] = defaultdict(list)
    for name, ends in edges.items():
        for node in dict.fromkeys(ends):
            found[node].append(name)
    return found


def reached(start: str, edges: Edges) -> set[str]:
    """Every node that some way leads to from `start`, itself included.

    Examples
    --------
    >>> sorted(reached("a", {"R1": ("a", "b"), "R2": ("c", "d")}))
    ['a', 'b']
    """
    at = touching(edges)
    found, waiting = {start}, [start]
    while waiting:
        for name in at.get(waiting.pop(), ()):
            for node in edges[name]:
                if node not in found:
                    found.add(node)
                    waiting.append(node)
    return found


def way(start: str, end: str, edges: Edges) -> list[str] | None:
    """The names of the edges on a shortest way, None where there is none.

    Examples
    --------
    >>> way("a", "c", {"R1": ("a", "b"), "R2": ("b", "c"), "R3": ("c", "d")})
    ['R1', 'R2']
    """
    at = touching(edges)
    arrived: dict[str, tuple[str, str]] = {start: ("", "")}
    waiting = deque([start])
    while waiting and end not in arrived:
        node = waiting.popleft()
        for name in at.get(node, ()):
            first, second = edges[name]
            other = second if node == first else first
            if other not in arrived:
                arrived[other] = (name, node)
                waiting.append(other)
    if end not in arrived:
        return None
    names, node = [], end
    while node != start:
        name, node = arrived[node]
        names.append(name)
    return names[::-1]


def on_loops(edges: Edges) -> list[str]:
    """The edges that lie on some loop, in order: dangling ends and bridges between loops are left out.

    A depth-first search keeps the lowest depth that each subtree reaches back to (Tarjan, 1974, "A note on
    finding the bridges of a graph"; from memory).
    """
    at = touching(edges)
    depth: dict[str, int] = {}
    lowest: dict[str, int] = {}
    bridges: set[str] = set()
    for root in at:
        if root in depth:
            continue
        depth[root] = lowest[root] = 0
        stack: list[tuple[str, str, Iterator[str]]] = [(root, "", iter(at[root]))]
        while stack:
            node, arrived_by, waiting = stack[-1]
            name = next(waiting, "")
            if not name:
                stack.pop()
                if stack:
                    above = stack[-1][0]
                    lowest[above] = min(lowest[above], lowest[node])
                    if lowest[node] > depth[above]:
                        bridges.add(arrived_by)
                continue
            if name == arrived_by:
                continue
            first, second = edges[name]
            other = second if node == first else first
            if other in depth:
                lowest[node] = min(lowest[node], depth[other])
            else:
                depth[other] = lowest[other] = len(stack)
                stack.append((other, name, iter(at[other])))
    return [name for name in edges if name not in bridges]


def lightest_tree(root: str, edges: Edges, weights: Mapping[str, int]) -> dict[str, tuple[str, str]]:
    """The tree of lightest ways from `root`, nearest node first (Dijkstra, 1959).

    For each node that is reached, the edge that its way ends with, and the node before; both empty for the root.
    """
    at = touching(edges)
    settled: dict[str, tuple[str, str]] = {}
    queue: list[tuple[int, str, str, str]] = [(0, root, "", "")]
    while queue:
        distance, node, arrived_by, before = heappop(queue)
        if node in settled:
            continue
        settled[node] = arrived_by, before
        for name in at.get(node, ()):
            first, second = edges[name]
            other = second if node == first else first
            if other not in settled:
                heappush(queue, (distance + weights[name], other, name, node))
    return settled
