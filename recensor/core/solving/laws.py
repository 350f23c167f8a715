"""The law of each kind of part: how its voltage and current hang together, and what that puts into the equations.

Every element lies between two nodes, a and b. In the linear system (see `network`) it may conduct, push a current
out of a and into b, or have a branch: a current of its own, delivered out of a, and an equation for it. What an element
puts into the matrix is symmetric (two-terminal parts are reciprocal), so one factorisation serves the solution
and every adjoint. All in ohms, volts and amperes.
"""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import NamedTuple

from recensor.core.circuit import CURRENT_SOURCE, RESISTOR, VOLTAGE_SOURCE, Kind
from recensor.core.errors import Refused
from recensor.core.uncertainty import Array

Column = float | Array


class NetworkError(Refused):
    """The circuit has no single solution. `parts` and `nodes` name what is concerned."""


class ResistanceError(NetworkError):
    """A resistance is zero or negative."""


class Element(NamedTuple):
    """One element with its value in ohms, volts or amperes.

    `internal` is a source's own resistance in ohms: in series with a voltage source, across a
    current source; 0 means none.
    """

    name: str
    kind: Kind
    first: str
    second: str
    value: float
    internal: float = 0.0


class Places(NamedTuple):
    """Where an element stands in the system: rows of its two nodes and of its branch, −1 where it has none."""

    a: int
    b: int
    branch: int = -1


class Law(ABC):
    """How one kind of part behaves. A value is a number, or a column of them where many value sets are solved."""

    # Whether its current is an unknown of its own.
    has_branch = False
    # Whether it pushes a current that does not depend on the voltage.
    pushes = False

    def holds_voltage(self, element: Element) -> bool:
        """Whether it fixes the voltage between its nodes whatever the current: a loop of such has no solution."""
        return False

    def joins(self, element: Element) -> bool:
        """Whether it ties its two nodes' potentials together."""
        return True

    def conductance(self, element: Element) -> float:
        """What it conducts beside its other doings, in siemens."""
        return 0.0

    def resistance(self, element: Element) -> float:
        """What it resists beside its other doings, in ohms."""
        return 0.0

    @abstractmethod
    def entries(self, element: Element, at: Places) -> Sequence[tuple[int, int, float]]:
        """Its entries of the matrix as (row, column, factor); each factor is multiplied by `weight`."""

    def weight(self, element: Element, value: Column) -> Column:
        """What its entries are multiplied by. Raises `ResistanceError`."""
        return 1.0

    def drive(self, value: Column, at: Places) -> Sequence[tuple[int, Column]]:
        """What it adds to the right-hand side, as (row, amount)."""
        return ()

    @abstractmethod
    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        """Its current from V(a) − V(b) and from its branch's own current."""

    @abstractmethod
    def measures(self, element: Element, value: float) -> tuple[float, float]:
        """Its current as so much for each volt of V(a) − V(b), and so much for each ampere of its branch."""

    @abstractmethod
    def slope(self, value: Array, across: Array, drop: Array, branch: Array) -> Array:
        """Derivative of an answer by the value, out of the adjoint across it and at its branch, and its own drop."""

    def own_slope(self, value: float, drop: float) -> float:
        """Derivative of its current by its own value, the voltage held."""
        return 0.0


def _conducting(at: Places) -> Sequence[tuple[int, int, float]]:
    a, b, _ = at
    return ((a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0))


class Resistance(Law):
    """Ohm's law: the current is the voltage over the value, positive from a to b."""

    def conductance(self, element: Element) -> float:
        return 1.0 / element.value

    def resistance(self, element: Element) -> float:
        return element.value

    def entries(self, element: Element, at: Places) -> Sequence[tuple[int, int, float]]:
        return _conducting(at)

    def weight(self, element: Element, value: Column) -> Column:
        if value <= 0 if isinstance(value, float) else (value <= 0).any():
            raise ResistanceError(f"{element.name} has a resistance that is not above zero", [element.name])
        return 1.0 / value

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return drop / value

    def measures(self, element: Element, value: float) -> tuple[float, float]:
        return 1.0 / value, 0.0

    def slope(self, value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return across * drop / value**2

    def own_slope(self, value: float, drop: float) -> float:
        return -drop / value**2


class HeldVoltage(Law):
    """V(a) − V(b) is the value less what its own resistance drops of the current that it delivers."""

    has_branch = True

    def holds_voltage(self, element: Element) -> bool:
        return element.internal == 0

    def resistance(self, element: Element) -> float:
        return element.internal

    def entries(self, element: Element, at: Places) -> Sequence[tuple[int, int, float]]:
        a, b, row = at
        return ((row, a, -1.0), (row, b, 1.0), (row, row, -element.internal), (a, row, -1.0), (b, row, 1.0))

    def drive(self, value: Column, at: Places) -> Sequence[tuple[int, Column]]:
        return ((at.branch, -value),)

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return branch

    def measures(self, element: Element, value: float) -> tuple[float, float]:
        return 0.0, 1.0

    def slope(self, value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return -branch


class PushedCurrent(Law):
    """The value flows out of a, less what its own resistance beside it takes."""

    pushes = True

    def joins(self, element: Element) -> bool:
        return element.internal > 0

    def conductance(self, element: Element) -> float:
        return 1.0 / element.internal if element.internal > 0 else 0.0

    def resistance(self, element: Element) -> float:
        return element.internal

    def entries(self, element: Element, at: Places) -> Sequence[tuple[int, int, float]]:
        return _conducting(at) if element.internal > 0 else ()

    def weight(self, element: Element, value: Column) -> Column:
        return self.conductance(element)

    def drive(self, value: Column, at: Places) -> Sequence[tuple[int, Column]]:
        return ((at.a, value), (at.b, -value))

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return value - drop * self.conductance(element)

    def measures(self, element: Element, value: float) -> tuple[float, float]:
        return -self.conductance(element), 0.0

    def slope(self, value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return across

    def own_slope(self, value: float, drop: float) -> float:
        return 1.0


LAWS: dict[Kind, Law] = {
    RESISTOR: Resistance(),
    VOLTAGE_SOURCE: HeldVoltage(),
    CURRENT_SOURCE: PushedCurrent(),
}
