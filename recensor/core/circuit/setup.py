"""One state of the circuit: which lead of which part is at which node."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from recensor.core import graph
from recensor.core.circuit.kinds import Off
from recensor.core.circuit.parts import Part
from recensor.core.quantity import CELSIUS, Quantity, QuantityError, parse
from recensor.core.sentences import say

Leads = tuple[str, str]

# Between these temperatures in °C a setup may be: what sensors of a bench stand (common practice, no source).
COLDEST, HOTTEST = -60, 300


def read_temperature(text: str) -> Quantity:
    """How warm a setup is, in °C, as it is typed. Raises `QuantityError`."""
    quantity = parse(text.strip(), CELSIUS)
    if quantity.over_range or not COLDEST <= float(quantity) <= HOTTEST:
        raise QuantityError(say("circuit.temperature_lies_between", typed=quantity.text, low=COLDEST, high=HOTTEST))
    return quantity


@dataclass(frozen=True)
class Setup:
    """One state of the circuit: which lead of which part is at which node.

    `connections` gives [first lead, second lead], for a source [+, −]. A part that is missing here is
    not in this circuit. `values` are set differently here; a source in `sources_off` is replaced as its kind
    says: a voltage source by a wire, a current source by nothing. Switches that are `open` join nothing. `temperature`
    is that of its parts in °C; without one they are at the 25 °C that values are stated for.
    `label` is what the handout calls it, `line` how it was typed as a circuit in one line. Names are case-sensitive.
    """

    name: str
    reference: str
    connections: Mapping[str, Leads]
    sources_off: frozenset[str] = frozenset()
    values: Mapping[str, Quantity] = field(default_factory=dict)
    open: frozenset[str] = frozenset()
    temperature: Quantity | None = None
    label: str = ""
    line: str = ""

    @property
    def nodes(self) -> tuple[str, ...]:
        """Every node once, in the order in which the connections name them."""
        return tuple(dict.fromkeys(node for leads in self.connections.values() for node in leads))

    def stated(self, part: Part) -> Quantity | None:
        """What a part should be here: set differently, else as marked; None when it is unmarked, or to be set."""
        return self.values.get(part.name) or part.marked_at(self.temperature)

    def set_to(self, part: Part) -> Quantity | None:
        """What a part is set to here, else what it is marked, however warm it is."""
        return self.values.get(part.name) or part.marked

    def across(self, first: str, second: str) -> list[str]:
        """The parts whose leads are at just these two nodes, in order."""
        return [name for name, leads in self.connections.items() if set(leads) == {first, second}]

    def joined(self, parts: Mapping[str, Part]) -> dict[str, Leads]:
        """The connections without what is open, or off and leaves nothing in its place."""
        return {
            name: leads
            for name, leads in self.closed.items()
            if not (name in self.sources_off and parts[name].kind.off is Off.NOTHING)
        }

    @property
    def closed(self) -> Mapping[str, Leads]:
        """The connections without the switches that are open."""
        if not self.open:
            return self.connections
        return {name: leads for name, leads in self.connections.items() if name not in self.open}

    def without_wires(self, parts: Mapping[str, Part]) -> "Setup":
        """The setup as a person works it out: the ends of a wire are one node, and what then lies open is left out.

        The same setup where it has neither wires nor switches.
        """
        if not any(parts[name].kind.is_wire for name in self.connections):
            return self
        merged: graph.Groups[str] = graph.Groups()
        for name, leads in self.closed.items():
            if parts[name].kind.is_wire:
                merged.join(*leads)
        kept = {
            name: (merged.top(first), merged.top(second))
            for name, (first, second) in self.closed.items()
            if not parts[name].kind.is_wire and merged.top(first) != merged.top(second)
        }
        on_loops = set(graph.on_loops(kept))
        kept = {name: leads for name, leads in kept.items() if name in on_loops}
        return replace(self, reference=merged.top(self.reference), connections=kept, open=frozenset())

    def wires(self, parts: Mapping[str, Part]) -> list[str]:
        """The wires, the switches that are closed, and the sources that are off and have a wire in their place."""
        return [
            name
            for name in self.closed
            if parts[name].kind.is_wire or (name in self.sources_off and parts[name].kind.off is Off.WIRE)
        ]

    def driving(self, parts: Mapping[str, Part]) -> list[str]:
        """The sources that are on, in order."""
        return [name for name in self.connections if parts[name].kind.is_source and name not in self.sources_off]
