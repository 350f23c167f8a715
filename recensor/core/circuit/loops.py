"""Which loops and nodes to check: an independent set for Kirchhoff's two laws.

The loops are a minimum cycle basis by Horton's method: every loop made of one edge and the two
shortest paths from some node to its ends is a candidate, the lightest independent ones are kept
(Horton, 1987, "A polynomial-time algorithm to find the shortest cycle basis of a graph", SIAM
Journal on Computing 16; from memory).
"""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from recensor.core import graph
from recensor.core.circuit.setup import Leads

# A circuit's loops and branches are asked for at every reading of a run: kept for that many circuits.
KEPT = 512


@dataclass(frozen=True)
class Passage:
    """One part on the way round a loop or along a branch; `forward` is from its first lead to its second."""

    part: str
    forward: bool


@dataclass(frozen=True)
class Branch:
    """A maximal chain of series parts between two nodes where branches meet."""

    start: str
    end: str
    passages: tuple[Passage, ...]


def independent_loops(
    connections: Mapping[str, Leads], sources: frozenset[str] = frozenset()
) -> list[tuple[Passage, ...]]:
    """An independent set of b − n + c loops, fewest parts first, then those with a source, then file order.

    Each loop starts at its first source and enters it at its second (−) lead, else along its first part.

    Parameters
    ----------
    connections : part name -> (first node, second node); order matters.
    sources : the names among them that are sources.

    Examples
    --------
    >>> loop, = independent_loops({"V1": ("top", "gnd"), "R1": ("top", "mid"), "R2": ("mid", "gnd")}, frozenset({"V1"}))
    >>> [(passage.part, passage.forward) for passage in loop]
    [('V1', False), ('R1', True), ('R2', True)]
    """
    return list(_independent_loops(tuple(connections.items()), sources))


@lru_cache(maxsize=KEPT)
def _independent_loops(
    parts: tuple[tuple[str, Leads], ...], sources: frozenset[str]
) -> tuple[tuple[Passage, ...], ...]:
    connections = dict(parts)
    order = {name: k for k, name in enumerate(connections)}
    cyclic = graph.on_loops(connections)
    candidates: set[frozenset[str]] = set()
    within = {name: connections[name] for name in cyclic}
    weights = _weights(within, sources, order)
    nodes = dict.fromkeys(node for leads in within.values() for node in leads)
    for root in nodes:
        paths = graph.lightest_ways(root, within, weights)
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
    return tuple(walk for walk in walks if walk)


def branches(connections: Mapping[str, Leads]) -> list[Branch]:
    """The branches that carry current: parts that lie on no loop are left out."""
    return list(_branches(tuple(connections.items())))


@lru_cache(maxsize=KEPT)
def _branches(parts: tuple[tuple[str, Leads], ...]) -> tuple[Branch, ...]:
    connections = dict(parts)
    cyclic = graph.on_loops(connections)
    touching: dict[str, list[str]] = defaultdict(list)  # a part with both leads at one node is there twice
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
            passages, start = [Passage(name, True), *onward], first
        else:
            back, start = _follow(name, first, connections, touching)
            turned = [Passage(passage.part, not passage.forward) for passage in reversed(back)]
            passages = [*turned, Passage(name, True), *onward]
        seen.update(passage.part for passage in passages)
        found.append(Branch(start, end, tuple(passages)))
    return tuple(found)


def current_nodes(connections: Mapping[str, Leads], reference: str) -> list[str]:
    """The nodes to check: three or more branches meet; the reference, and what follows from the others, left out."""
    all_branches = branches(connections)
    meeting: dict[str, int] = defaultdict(int)
    groups: graph.Groups[str] = graph.Groups()
    for branch in all_branches:
        meeting[branch.start] += 1
        meeting[branch.end] += 1
        groups.join(branch.start, branch.end)
    junctions = [node for node in _nodes_in_order(connections) if meeting[node] >= 3]
    redundant: set[str] = set()
    for top in {groups.top(node) for node in junctions}:
        together = [node for node in junctions if groups.top(node) == top]
        redundant.add(reference if reference in together else together[-1])
    return [node for node in junctions if node not in redundant]


def _nodes_in_order(connections: Mapping[str, Leads]) -> list[str]:
    return list(dict.fromkeys(node for leads in connections.values() for node in leads))


def _weights(edges: Mapping[str, Leads], sources: frozenset[str], order: Mapping[str, int]) -> dict[str, int]:
    """What each part weighs on a way: fewest parts win, then those with a source, then the order in the file."""
    span = 1 << (len(order) + 1)
    part, source = 2 * len(order) * span, (2 * len(order) - 1) * span
    return {name: (source if name in sources else part) + (1 << order[name]) for name in edges}


def _walk(loop: list[str], connections: Mapping[str, Leads], sources: frozenset[str]) -> tuple[Passage, ...]:
    """The loop's parts in the order and direction in which they are met; empty if it is no simple loop."""
    start = next((name for name in loop if name in sources), loop[0])
    forward = start not in sources
    first, second = connections[start]
    steps, left = [Passage(start, forward)], [name for name in loop if name != start]
    home, node = (first, second) if forward else (second, first)
    while left:
        onward = [name for name in left if node in connections[name]]
        if not onward:
            return ()
        name = onward[0]
        left.remove(name)
        forward = connections[name][0] == node
        steps.append(Passage(name, forward))
        node = connections[name][1] if forward else connections[name][0]
    return tuple(steps) if node == home else ()


def _follow(
    name: str, node: str, connections: Mapping[str, Leads], touching: Mapping[str, list[str]]
) -> tuple[list[Passage], str]:
    """Go on from `name` through `node` as long as just one other part goes on from there."""
    steps: list[Passage] = []
    begun = name
    while len(touching[node]) == 2 and touching[node][0] != touching[node][1]:
        name = touching[node][1] if touching[node][0] == name else touching[node][0]
        if name == begun:
            break
        forward = connections[name][0] == node
        steps.append(Passage(name, forward))
        node = connections[name][1] if forward else connections[name][0]
    return steps, node
