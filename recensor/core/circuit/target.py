"""One thing that can be read: a part by itself, the touched leads, across two nodes, or through a part.

A target is the same thing however the leads were turned: its `key` is the form that all readings of it share.
"""

from dataclasses import dataclass, replace
from typing import ClassVar

from recensor.core.circuit.setup import Leads
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand


@dataclass(frozen=True, slots=True)
class PartAlone:
    """A part by itself, out of circuit; a source before connecting, perhaps as `setup` has it set."""

    part: str
    measurand: Measurand
    setup: str | None = None
    step: ClassVar[None] = None

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return self.measurand.unit

    @property
    def key(self) -> "PartAlone":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Whether a reading here has the opposite sign of one at `other`, the leads being reversed."""
        return False

    @property
    def words(self) -> str:
        """The target in words."""
        return f"{self.part} by itself"


@dataclass(frozen=True)
class TouchedLeads:
    """The meter's own leads, their probes touched together."""

    measurand: ClassVar[Measurand] = RESISTANCE
    unit: ClassVar[str] = RESISTANCE.unit
    setup: ClassVar[None] = None
    step: ClassVar[None] = None
    words: ClassVar[str] = "the touched leads"

    @property
    def key(self) -> "TouchedLeads":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Never: there is no direction."""
        return False


@dataclass(frozen=True, slots=True)
class Across:
    """A voltage or resistance between two nodes of a setup, [red, black].

    `at` is the part whose own leads the probes touch, where several share the two nodes: a target of its own. `step`
    is the row of a sweep, counted from 0.
    """

    measurand: Measurand
    nodes: Leads
    setup: str
    at: str | None = None
    step: int | None = None

    @property
    def unit(self) -> str:
        """The SI unit it is read in."""
        return self.measurand.unit

    @property
    def red(self) -> str:
        """Where the red probe goes."""
        return self.nodes[0]

    @property
    def black(self) -> str:
        """Where the black probe goes."""
        return self.nodes[1]

    @property
    def key(self) -> "Across":
        """The form that all readings of it share, whichever way round the leads were."""
        return self if self.nodes[0] <= self.nodes[1] else replace(self, nodes=self.nodes[::-1])

    def reversed_against(self, other: "Target") -> bool:
        """Whether a reading here has the opposite sign of one at `other`, the leads being reversed."""
        return self.measurand is VOLTAGE and isinstance(other, Across) and self.nodes != other.nodes

    @property
    def words(self) -> str:
        """The target in words, such as ``voltage from top to mid``."""
        return f"{self.measurand} from {self.red} to {self.black}{_at(self.at)}{_row(self.step)}"


@dataclass(frozen=True, slots=True)
class Through:
    """A current through a part of a setup: positive from its first lead to its second, for a source when delivered.

    `at` is the part beside which the loop is opened for the meter, where that matters: a target of its own. `step` is
    the row of a sweep, counted from 0.
    """

    part: str
    setup: str
    at: str | None = None
    step: int | None = None
    measurand: ClassVar[Measurand] = CURRENT
    unit: ClassVar[str] = CURRENT.unit

    @property
    def key(self) -> "Through":
        """The form that all readings of it share."""
        return self

    def reversed_against(self, other: "Target") -> bool:
        """Never: the direction is the part's."""
        return False

    @property
    def words(self) -> str:
        """The target in words."""
        return f"current through {self.part}{_at(self.at)}{_row(self.step)}"


def _at(part: str | None) -> str:
    return f" at {part}" if part else ""


def _row(step: int | None) -> str:
    return f" in row {step + 1}" if step is not None else ""


Target = PartAlone | TouchedLeads | Across | Through
