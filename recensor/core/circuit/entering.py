"""The current that enters what lies between two nodes, as the current through one part that carries it."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from recensor.core import graph
from recensor.core.circuit.parts import Part
from recensor.core.circuit.setup import Leads, Setup


@dataclass(frozen=True)
class Entering:
    """A part that carries it, and whether its own current counts the other way."""

    part: str
    is_reversed: bool


def entering(setup: Setup, parts: Mapping[str, Part], nodes: Leads) -> Entering | None:
    """What carries the current that enters at the first of two nodes, and leaves at the second.

    Between them lies what no source is in; everything that is joined to one, without passing either node, is outside.
    None where no single part carries it. Of two that do, the one whose own current counts the same way.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> [entering(sheet.setup(), sheet.parts, nodes) for nodes in (("A", "gnd"), ("B", "gnd"))]
    [Entering(part='V1', is_reversed=False), Entering(part='R1', is_reversed=False)]
    """
    first, second = nodes
    inside, outside = [], []
    for piece in _pieces(setup.connections, nodes):
        touched = {node for name in piece for node in setup.connections[name]}
        at_first = [name for name in piece if first in setup.connections[name]]
        if any(parts[name].kind.is_source for name in piece):
            outside += at_first
        elif second in touched:
            inside += at_first
    found = [*_alone(outside, setup, parts, first, is_outside=True), *_alone(inside, setup, parts, first)]
    return min(found, key=lambda one: one.is_reversed, default=None)


def _alone(
    names: list[str], setup: Setup, parts: Mapping[str, Part], first: str, *, is_outside: bool = False
) -> Iterator[Entering]:
    """The only part of one side at a node. A current counts from first lead to second, of a source out of its first."""
    if len(names) == 1:
        (name,) = names
        leaves_first = (setup.connections[name][0] == first) != parts[name].kind.is_source
        yield Entering(name, leaves_first == is_outside)


def _pieces(connections: Mapping[str, Leads], nodes: Leads) -> list[list[str]]:
    """Parts that are joined without passing either of two nodes."""
    groups: graph.Groups[str] = graph.Groups()
    for name, leads in connections.items():
        for node in leads:
            if node not in nodes:
                groups.join(f"part {name}", f"node {node}")
    found: dict[str, list[str]] = {}
    for name in connections:
        found.setdefault(groups.top(f"part {name}"), []).append(name)
    return list(found.values())
