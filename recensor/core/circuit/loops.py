"""Which loops and nodes to check: an independent set for Kirchhoff's two laws.

The loops are a minimum cycle basis by Horton's method: every loop made of one edge and the two
shortest paths from some node to its ends is a candidate, the lightest independent ones are kept
(Horton, 1987, "A polynomial-time algorithm to find the shortest cycle basis of a graph", SIAM
Journal on Computing 16; from memory).
"""

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
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
    """Over the circuit's branches, each as one edge; a loop is a set of bits, the first part's the highest."""
    connections = dict(parts)
    last = len(connections) - 1
    bit = {name: 1 << (last - k) for k, name in enumerate(connections)}
    of_sources = sum(bit[name] for name in sources if name in bit)
    chains = {str(k): branch for k, branch in enumerate(_branches(parts))}
    ends = {key: (branch.start, branch.end) for key, branch in chains.items()}
    bits = {key: sum(bit[passage.part] for passage in branch.passages) for key, branch in chains.items()}
    candidates = {bits[key] for key, (start, end) in ends.items() if start == end}
    edges = {key: pair for key, pair in ends.items() if pair[0] != pair[1]}
    roots = list(dict.fromkeys(node for pair in edges.values() for node in pair))
    # Of several sources a loop needs but one: ways that pass them by are tried too.
    for preferred in {of_sources, of_sources if of_sources.bit_count() < 2 else 0}:
        weights = {key: _weight(bits[key], preferred, last) for key in edges}
        for root in roots:
            candidates |= _around(root, edges, bits, weights)

    def rank(loop: int) -> tuple[int, bool, int]:
        return loop.bit_count(), not loop & of_sources, -loop

    names = list(connections)
    walks = (
        _walk([names[last - k] for k in _places(loop)], connections, sources)
        for loop in _independent(sorted(candidates, key=rank))
    )
    return tuple(walk for walk in walks if walk)


def _weight(bits: int, preferred: int, last: int) -> int:
    """What a branch weighs on a way: fewest parts win, then the preferred ones, then the order in the file."""
    parts = bits.bit_count()
    return (2 * (last + 1) * parts - (bits & preferred).bit_count() << last + 2) - bits


def _around(root: str, edges: graph.Edges, bits: Mapping[str, int], weights: Mapping[str, int]) -> set[int]:
    """The loops of one edge and the lightest ways from `root` to its ends, as far as they meet nowhere else."""
    ways: dict[str, int] = {}
    first_steps: dict[str, str] = {}
    tree = graph.lightest_tree(root, edges, weights)
    for node, (edge, before) in tree.items():
        ways[node] = ways[before] | bits[edge] if edge else 0
        first_steps[node] = first_steps.get(before) or edge
    found = set()
    for edge, (first, second) in edges.items():
        if first not in ways or edge in (tree[first][0], tree[second][0]):
            continue
        if root in (first, second) or first_steps[first] != first_steps[second]:
            found.add(ways[first] | ways[second] | bits[edge])
    return found


def _independent(loops: Iterable[int]) -> Iterator[int]:
    """The loops that are no sum of earlier ones."""
    reduced: dict[int, int] = {}
    for loop in loops:
        rest = loop
        while rest and rest.bit_length() in reduced:
            rest ^= reduced[rest.bit_length()]
        if rest:
            reduced[rest.bit_length()] = rest
            yield loop


def _places(bits: int) -> Iterator[int]:
    """The places of the bits that are set, highest first."""
    while bits:
        place = bits.bit_length() - 1
        yield place
        bits ^= 1 << place


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


def _walk(loop: list[str], connections: Mapping[str, Leads], sources: frozenset[str]) -> tuple[Passage, ...]:
    """The loop's parts in the order and direction in which they are met; empty if it is no simple loop."""
    start = next((name for name in loop if name in sources), loop[0])
    forward = start not in sources
    first, second = connections[start]
    steps = [Passage(start, forward)]
    home, node = (first, second) if forward else (second, first)
    at = graph.touching({name: connections[name] for name in loop if name != start})
    left = set(loop) - {start}
    while left:
        name = next((one for one in at.get(node, ()) if one in left), None)
        if name is None:
            return ()
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
