"""The law of each kind of part: how its voltage and current hang together, and what that puts into the equations.

Every element lies between two nodes, a and b. In the linear system (see `network`) it may conduct, push a current
out of a and into b, or have a branch: a current of its own, delivered out of a, and an equation for it. What an element
puts into the matrix is symmetric (two-terminal parts are reciprocal), so one factorisation serves the solution
and every adjoint. A part whose current is no straight line over its voltage is in the system as the tangent at its
operating point (see `newton`). All in ohms, volts and amperes.
"""

import math
from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from recensor.core.circuit import (
    CURRENT_SOURCE,
    DIODE,
    KINDS,
    LAMP,
    LED,
    RESISTOR,
    SWITCH,
    VOLTAGE_SOURCE,
    WIRE,
    Kind,
)
from recensor.core.errors import Refused
from recensor.core.sentences import say
from recensor.core.uncertainty import Array

Column = float | Array


class NetworkError(Refused):
    """The circuit has no single solution. `parts` and `nodes` name what is concerned."""


class ResistanceError(NetworkError):
    """A resistance is zero or negative."""


class Rated(NamedTuple):
    """What is known of a lamp or diode beside its voltage: the current there in amperes, its cold resistance in ohms.

    `cold` is 0 where none is stated. Of several parts of one law each is a column.
    """

    amperes: Column
    cold: Column = 0.0


class Element(NamedTuple):
    """One element with its value in ohms, volts or amperes.

    `internal` is a source's own resistance in ohms: in series with a voltage source, across a
    current source; 0 means none. `rated` is what a lamp or a diode is stated by beside its voltage; without it nobody
    knows its law, and a resistance stands in for it.
    """

    name: str
    kind: Kind
    first: str
    second: str
    value: float
    internal: float = 0.0
    rated: Rated | None = None


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
    # Whether its current is no straight line over its voltage.
    is_nonlinear = False

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
    def measures(self, weight: float) -> tuple[float, float]:
        """How its current follows each volt of V(a) − V(b) and each ampere of its branch, by its weight."""

    @abstractmethod
    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        """Derivative of an answer by each value, out of the adjoint across it and at its branch, and its own drop."""

    def own_slope(self, element: Element, value: float, drop: float) -> float:
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
            raise ResistanceError(say("solving.resistance_not_above_zero", element=element.name), [element.name])
        return 1.0 / value

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return drop / value

    def measures(self, weight: float) -> tuple[float, float]:
        return weight, 0.0

    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return across * drop / value**2

    def own_slope(self, element: Element, value: float, drop: float) -> float:
        return -drop / value**2


class IdealVoltageSource(Law):
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

    def measures(self, weight: float) -> tuple[float, float]:
        return 0.0, 1.0

    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return -branch


class IdealCurrentSource(Law):
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

    def measures(self, weight: float) -> tuple[float, float]:
        return -weight, 0.0

    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return across

    def own_slope(self, element: Element, value: float, drop: float) -> float:
        return 1.0


class Wire(IdealVoltageSource):
    """A wire: nothing lies across it, whatever flows; its current is positive from a to b."""

    def drive(self, value: Column, at: Places) -> Sequence[tuple[int, Column]]:
        return ()

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return -branch

    def measures(self, weight: float) -> tuple[float, float]:
        return 0.0, -1.0

    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        return np.zeros_like(across)


class Tangent(NamedTuple):
    """A nonlinear part at one drop: the current there, how it follows small changes of the drop and of the value."""

    amperes: Column
    siemens: Column
    by_value: Column


class NonlinearLaw(Law):
    """A part whose current is no straight line over its voltage. Its value is the voltage that it is stated by.

    A part of which nobody knows more is a resistance of its value in ohms (see `law_of`).
    """

    is_nonlinear = True

    @abstractmethod
    def at(self, rated: Rated, value: Column, drop: Column) -> Tangent:
        """The part at a drop; or several parts, as columns."""

    @staticmethod
    def _rated(element: Element) -> Rated:
        if element.rated is None:
            raise ValueError(f"{element.name} has no law")
        return element.rated

    def begin(self, value: Column, standing: Column) -> Column:
        """Where the search for its drop begins, with a plain conductance standing in its place."""
        return standing

    def within(self, value: Column, wanted: Column, now: Column) -> Column:
        """How far towards a wanted drop one step may go, so that the next tangent still says something."""
        return wanted

    def resistance(self, element: Element) -> float:
        return float(element.value / self._rated(element).amperes)

    def entries(self, element: Element, at: Places) -> Sequence[tuple[int, int, float]]:
        return _conducting(at)

    def current(self, element: Element, value: Column, drop: Column, branch: Column) -> Column:
        return self.at(self._rated(element), value, drop).amperes

    def measures(self, weight: float) -> tuple[float, float]:
        return weight, 0.0

    def slope(self, elements: Sequence[Element], value: Array, across: Array, drop: Array, branch: Array) -> Array:
        columns = [
            -across[..., k] * self.at(self._rated(element), float(value[k]), drop[..., k]).by_value
            for k, element in enumerate(elements)
        ]
        return np.stack(columns, axis=-1)

    def own_slope(self, element: Element, value: float, drop: float) -> float:
        return float(self.at(self._rated(element), value, drop).by_value)


class Filament(NonlinearLaw):
    """A lamp: cold it has its cold resistance, and from a glow on its current grows as its voltage to the power 0.55.

    R(V) = cold · (1 + c·(V / rated volts)²)^0.225, c such that it is the rated resistance at the rated volts. The
    power 0.55 is common practice, no source. Where no cold resistance is stated it is a tenth of that at work (common
    practice, no source).
    """

    POWER = 0.225
    COLD_SHARE = 0.1

    def shape(self, rated: Rated, value: Column) -> tuple[Column, Column]:
        """The cold resistance in ohms, and how far it is from a straight line."""
        hot = value / rated.amperes
        cold = np.where(np.asarray(rated.cold) > 0, rated.cold, self.COLD_SHARE * hot)
        return cold, (hot / cold) ** (1.0 / self.POWER) - 1.0

    def at(self, rated: Rated, value: Column, drop: Column) -> Tangent:
        cold, curve = self.shape(rated, value)
        stated = np.asarray(rated.cold) > 0
        share = (drop / value) ** 2
        glow = 1.0 + curve * share
        ohms = cold * glow**self.POWER
        straight = 1.0 - 2.0 * self.POWER * curve * share / glow
        # How the logarithm of the resistance follows the rated volts, the rated current held.
        by_curve = np.where(stated, share / glow * (curve + 1.0) - 1.0 + straight, straight) / value
        return Tangent(drop / ohms, straight / ohms, -drop / ohms * by_curve)


class Junction(NonlinearLaw):
    """A diode by Shockley's law (W. Shockley, Bell System Technical Journal 28, 1949; from memory).

    I = I_s · (exp(V / nV_T) − 1), I_s such that the stated current flows at the stated drop; V_T = 25.85 mV, at 300 K.
    `emission` is n: 1 for the law as it stands, about 2 for light diodes (common practice, no source). A faint leak
    beside it keeps a blocked diode's nodes in the circuit.
    """

    THERMAL = 0.02585
    LEAK = 1e-12
    # Beyond so many times the stated current the law is continued straight: nobody reads anything there.
    MOST = math.log(1e6)

    def __init__(self, emission: float) -> None:
        self.volts = emission * self.THERMAL

    def at(self, rated: Rated, value: Column, drop: Column) -> Tangent:
        above = (drop - value) / self.volts
        grown = np.exp(np.minimum(above, self.MOST))
        blocked = np.exp(-np.asarray(value) / self.volts)
        scale = rated.amperes / (1.0 - blocked)
        beyond = np.maximum(above - self.MOST, 0.0)
        amperes = scale * (grown * (1.0 + beyond) - blocked)
        siemens = scale * grown / self.volts
        by_value = -np.where(beyond > 0.0, siemens, amperes / (self.volts * (1.0 - blocked)))
        return Tangent(amperes + self.LEAK * drop, siemens + self.LEAK, by_value)

    def begin(self, value: Column, standing: Column) -> Column:
        return np.minimum(value, standing)

    def within(self, value: Column, wanted: Column, now: Column) -> Column:
        """Up the exponential by the logarithm of the step, as its current would have it; down it freely."""
        low = np.maximum(now, value - 5.0 * self.volts)
        stepped = low + self.volts * np.log1p(np.maximum(wanted - low, 0.0) / self.volts)
        return np.where(wanted > low, stepped, wanted)


LAWS: dict[Kind, Law] = {
    **{kind: Resistance() for kind in KINDS.values() if kind.ohmic},
    VOLTAGE_SOURCE: IdealVoltageSource(),
    CURRENT_SOURCE: IdealCurrentSource(),
    LAMP: Filament(),
    DIODE: Junction(1.0),
    LED: Junction(2.0),
    SWITCH: Wire(),
    WIRE: Wire(),
}


def law_of(element: Element) -> Law:
    """The law that an element follows: that of its kind; a resistance's for a nonlinear part without a rating."""
    law = LAWS[element.kind]
    return LAWS[RESISTOR] if law.is_nonlinear and element.rated is None else law
