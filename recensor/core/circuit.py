"""What is drawn: parts, and setups that connect them.

Names are case-sensitive: node ``a`` is not node ``A``.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from recensor.core.quantity import AMPERE, OHM, VOLT, Quantity


class Kind(StrEnum):
    """The kinds of part, named as in a run document."""

    RESISTOR = "resistor"
    VOLTAGE_SOURCE = "voltage source"
    CURRENT_SOURCE = "current source"

    @property
    def unit(self) -> str:
        """The unit of the part's value."""
        return {"resistor": OHM, "voltage source": VOLT, "current source": AMPERE}[self.value]

    @property
    def is_source(self) -> bool:
        """Whether the part drives the circuit."""
        return self is not Kind.RESISTOR


@dataclass(frozen=True)
class Part:
    """One part of the box: what it should be, in ohms, volts or amperes.

    `tolerance` is a percentage, `rating` in watts, `internal` a source's own resistance in ohms.
    """

    name: str
    kind: Kind
    nominal: Quantity | None = None
    tolerance: Quantity | None = None
    rating: Quantity | None = None
    internal: Quantity | None = None

    @property
    def internal_resistance(self) -> float:
        """The source's own resistance in ohms, 0 when none is stated."""
        return float(self.internal) if self.internal else 0.0


@dataclass(frozen=True)
class Setup:
    """One state of the circuit: which lead of which part is at which node.

    `connections` gives [first lead, second lead], for a source [+, −]. A part that is missing here is
    not in this circuit. `values` are set differently here; a voltage source in `sources_off` is
    replaced by a wire, a current source by nothing.
    """

    name: str
    reference: str
    connections: Mapping[str, tuple[str, str]]
    sources_off: frozenset[str] = frozenset()
    values: Mapping[str, Quantity] = field(default_factory=dict)

    @property
    def nodes(self) -> tuple[str, ...]:
        """Every node once, in the order in which the connections name them."""
        return tuple(dict.fromkeys(node for leads in self.connections.values() for node in leads))

    def stated(self, part: Part) -> Quantity | None:
        """What a part should be here: set differently, else as marked; None when it is unmarked."""
        return self.values.get(part.name) or part.nominal
