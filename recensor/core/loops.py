"""Which loops and nodes to check: an independent set for Kirchhoff's two laws.

The loops are a minimum cycle basis by Horton's method: every loop made of one edge and the two
shortest paths from some node to its ends is a candidate, the lightest independent ones are kept
(Horton, 1987, "A polynomial-time algorithm to find the shortest cycle basis of a graph", SIAM
Journal on Computing 16; from memory).
"""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from heapq import heappop, heappush

Leads = tuple[str, str]


@dataclass(frozen=True)
class Step:
    """One part on the way round a loop or along a branch; `forward` is from its first lead to its second."""

    part: str
    forward: bool


@dataclass(frozen=True)
class Branch:
    """A maximal chain of series parts between two nodes where branches meet."""

    start: str
    end: str
    steps: tuple[Step, ...]


def independent_loops(
    connections: Mapping[str, Leads], sources: frozenset[str] = frozenset()
) -> list[tuple[Step, ...]]:
    """An independent set of b − n + c loops, fewest parts first, then those with a source, then file order.

    Each loop starts at its first source and enters it at its second (−) lead, else along its first part.

    Parameters
    ----------
    connections : part name -> (first node, second node); order matters.
    sources : the names among them that are sources.

    Examples
    --------
    >>> loop, = independent_loops({"V1": ("top", "gnd"), "R1": ("top", "mid"), "R2": ("mid", "gnd")}, frozenset({"V1"}))
    >>> [(step.part, step.forward) for step in loop]
    [('V1', False), ('R1', True), ('R2', True)]
    """
    order = {name: k for k, name in enumerate(connections)}
    cyclic = _parts_on_loops(connections)
    candidates: set[frozenset[str]] = set()
    nodes = dict.fromkeys(node for name in cyclic for node in connections[name])
    for root in nodes:
        paths = _shortest_paths(root, {name: connections[name] for name in cyclic}, sources, order)
        for name in cyclic:
            first, second = connections[name]
            if (
                first in paths
                and second in paths
                and not paths[first] & paths[second]
                and name not in paths[first] | paths[second]
            ):
                candidates.add(paths[first] | paths[second] | {name})

    def rank(loop: frozenset[str]) -> tuple[int, bool, list[int]]:
        return len(loop), not loop & sources, sorted(order[name] for name in loop)

    kept: list[frozenset[str]] = []
    reduced: dict[int, int] = {}
    for loop in sorted(candidates, key=rank):
        bits = sum(1 << order[name] for name in loop)
        while bits and bits.bit_length() in reduced:
            bits ^= reduced[bits.bit_length()]
        if bits:
            reduced[bits.bit_length()] = bits
            kept.append(loop)
    walks = (_walk(sorted(loop, key=order.__getitem__), connections, sources) for loop in kept)
    return [walk for walk in walks if walk]


def branches(connections: Mapping[str, Leads]) -> list[Branch]:
    """The branches that carry current: parts that lie on no loop are left out."""
    cyclic = _parts_on_loops(connections)
    touching: dict[str, list[str]] = defaultdict(list)
    for name in cyclic:
        for node in connections[name]:
            touching[node].append(name)
    found: list[Branch] = []
    seen: set[str] = set()
    for name in cyclic:
        if name in seen:
            continue
        first, second = connections[name]
        onward, end = _follow(name, second, connections, touching)
        if end == first and len(touching[first]) == 2:
            steps, start = [Step(name, True), *onward], first
        else:
            back, start = _follow(name, first, connections, touching)
            steps = [*(Step(step.part, not step.forward) for step in reversed(back)), Step(name, True), *onward]
        seen.update(step.part for step in steps)
        found.append(Branch(start, end, tuple(steps)))
    return found


def current_nodes(connections: Mapping[str, Leads], reference: str) -> list[str]:
    """The nodes to check: three or more branches meet; the reference, and what follows from the others, left out."""
    all_branches = branches(connections)
    meeting: dict[str, int] = defaultdict(int)
    group: dict[str, str] = {}
    for branch in all_branches:
        meeting[branch.start] += 1
        meeting[branch.end] += 1
        a, b = _top(group, branch.start), _top(group, branch.end)
        group[a] = b
    junctions = [node for node in _nodes_in_order(connections) if meeting[node] >= 3]
    redundant: set[str] = set()
    for top in {_top(group, node) for node in junctions}:
        together = [node for node in junctions if _top(group, node) == top]
        redundant.add(reference if reference in together else together[-1])
    return [node for node in junctions if node not in redundant]


def _nodes_in_order(connections: Mapping[str, Leads]) -> list[str]:
    return list(dict.fromkeys(node for leads in connections.values() for node in leads))


def _top(group: dict[str, str], node: str) -> str:
    while group.setdefault(node, node) != node:
        node = group[node]
    return node


def _parts_on_loops(connections: Mapping[str, Leads]) -> list[str]:
    """The parts that lie on some loop, in order: dangling ends and bridges between loops are left out.

    A depth-first search keeps the lowest depth that each subtree reaches back to (Tarjan, 1974).
    """
    touching: dict[str, list[str]] = defaultdict(list)
    for name, leads in connections.items():
        for node in dict.fromkeys(leads):
            touching[node].append(name)
    depth: dict[str, int] = {}
    lowest: dict[str, int] = {}
    bridges: set[str] = set()
    for root in touching:
        if root in depth:
            continue
        depth[root] = lowest[root] = 0
        stack: list[tuple[str, str, Iterator[str]]] = [(root, "", iter(touching[root]))]
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
            first, second = connections[name]
            other = second if node == first else first
            if other in depth:
                lowest[node] = min(lowest[node], depth[other])
            else:
                depth[other] = lowest[other] = len(stack)
                stack.append((other, name, iter(touching[other])))
    return [name for name in connections if name not in bridges]


def _shortest_paths(
    root: str, connections: Mapping[str, Leads], sources: frozenset[str], order: Mapping[str, int]
) -> dict[str, frozenset[str]]:
    """Parts on the lightest path from `root` to each node: fewest parts, then sources, then file order."""
    touching: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for name, (first, second) in connections.items():
        touching[first].append((name, second))
        touching[second].append((name, first))
    span = 1 << (len(order) + 1)
    weight = {name: (2 * len(order) * span if name not in sources else (2 * len(order) - 1) * span) + (1 << order[name])
              for name in connections}  # fmt: skip
    settled: dict[str, frozenset[str]] = {}
    queue: list[tuple[int, str, frozenset[str]]] = [(0, root, frozenset())]
    while queue:
        distance, node, path = heappop(queue)
        if node in settled:
            continue
        settled[node] = path
        for name, other in touching[node]:
            if other not in settled:
                heappush(queue, (distance + weight[name], other, path | {name}))
    return settled


def _walk(loop: list[str], connections: Mapping[str, Leads], sources: frozenset[str]) -> tuple[Step, ...]:
    """The loop's parts in the order and direction in which they are met; empty if it is no simple loop."""
    start = next((name for name in loop if name in sources), loop[0])
    forward = start not in sources
    first, second = connections[start]
    steps, left = [Step(start, forward)], [name for name in loop if name != start]
    home, node = (first, second) if forward else (second, first)
    while left:
        onward = [name for name in left if node in connections[name]]
        if not onward:
            return ()
        name = onward[0]
        left.remove(name)
        forward = connections[name][0] == node
        steps.append(Step(name, forward))
        node = connections[name][1] if forward else connections[name][0]
    return tuple(steps) if node == home else ()


def _follow(
    name: str, node: str, connections: Mapping[str, Leads], touching: Mapping[str, list[str]]
) -> tuple[list[Step], str]:
    """Go on from `name` through `node` as long as just one other part goes on from there."""
    steps: list[Step] = []
    begun = name
    while len(touching[node]) == 2 and touching[node][0] != touching[node][1]:
        name = touching[node][1] if touching[node][0] == name else touching[node][0]
        if name == begun:
            break
        forward = connections[name][0] == node
        steps.append(Step(name, forward))
        node = connections[name][1] if forward else connections[name][0]
    return steps, node
