"""What a solved network says: voltages, currents and powers, and how each answer follows from every value."""

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from recensor.core.circuit import Across, Through
from recensor.core.sentences import say
from recensor.core.solving.laws import Column, Law, NetworkError
from recensor.core.uncertainty import Array

if TYPE_CHECKING:
    from recensor.core.solving.network import Network

# What is asked of a network: a voltage between two nodes, or a current through an element. The setup does not matter.
Asked = Across | Through

_ROWS_AT_ONCE = 128


class NotJoinedError(NetworkError):
    """A voltage was asked for between two nodes that nothing joins."""


class Solution:
    """Voltages, currents and powers of a solved network; arrays where many value sets were solved."""

    def __init__(
        self, network: "Network", values: Array, matrix: Array, unknowns: Array, asked: Sequence[Asked], adjoints: Array
    ) -> None:
        self.network = network
        self.values = values
        self.matrix = matrix
        self._unknowns = unknowns
        self._asked = asked
        self._adjoints = adjoints

    @property
    def potentials(self) -> Array:
        """Every node's potential in volts, in the network's order, against its island's first node; one value set."""
        return self._unknowns[: len(self.network.node_index)]

    def voltage(self, first: str, second: str) -> Column:
        """V(first) − V(second) in volts. Raises `NotJoinedError` when nothing joins the two nodes."""
        if not self.network.joined(first, second):
            raise NotJoinedError(say("solving.nothing_joins_and", red=first, black=second), nodes=(first, second))
        index = self.network.node_index
        return self._between(index[first], index[second])

    def drop(self, name: str) -> Column:
        """The voltage in volts from a part's first lead to its second, also within an island of its own."""
        at = self.network.places[self.network.position_of(name)]
        return self._between(at.a, at.b)

    def current(self, name: str) -> Column:
        """Current in amperes: through a resistor from first to second, from a source when delivered."""
        k = self.network.position_of(name)
        at = self.network.places[k]
        branch: Column = self._unknowns[..., at.branch] if at.branch >= 0 else 0.0
        value: Column = self.values[..., k]
        return self.network.laws[k].current(self.network.elements[k], value, self._between(at.a, at.b), branch)

    def power(self, name: str) -> Column:
        """Power in watts: taken up by a resistor, delivered by a source at its terminals."""
        return self.drop(name) * self.current(name)

    def _between(self, a: int, b: int) -> Column:
        between: Column = self._unknowns[..., a] - self._unknowns[..., b]
        return between

    @cached_property
    def driving_voltage(self) -> float:
        """What drives the circuit, in volts: the scale on which a voltage is zero. 0 where nothing drives.

        The largest EMF, or the largest source current times the largest resistance: never of the solution, which may
        itself be round-off.
        """
        emf, pushed, resistances = self._drives
        return max(emf, pushed * max(resistances, default=0.0))

    @cached_property
    def driving_current(self) -> float:
        """What drives the circuit, in amperes: the scale on which a current is zero. 0 where nothing drives."""
        emf, pushed, resistances = self._drives
        return max(pushed, emf / min(resistances) if resistances else 0.0)

    @cached_property
    def _drives(self) -> tuple[float, float, list[float]]:
        """The largest EMF, the largest source current, and every resistance above zero."""
        emf = pushed = 0.0
        resistances = []
        for element, law, value in zip(self.network.elements, self.network.laws, self.values.tolist(), strict=True):
            emf = max(emf, abs(value)) if law.has_branch else emf
            pushed = max(pushed, abs(value)) if law.pushes else pushed
            resistance = law.resistance(element._replace(value=value))
            resistances += [resistance] if resistance > 0 else []
        return emf, pushed, resistances

    @cached_property
    def largest_voltage(self) -> float:
        """The largest voltage in volts between two joined nodes."""
        islands: dict[int, list[float]] = {}
        for k in self.network.node_index.values():
            islands.setdefault(self.network.islands.top(k), []).append(float(self._unknowns[k]))
        return max(max(group) - min(group) for group in islands.values())

    def answer(self, asked: Asked) -> Column:
        """What was asked: a voltage or a current."""
        return self.voltage(*asked.nodes) if asked.is_across else self.current(asked.part)

    @cached_property
    def slopes(self) -> Array:
        """Derivative of each answer that was asked for by each element's value, shape (asked, elements)."""
        network = self.network
        if not self._asked:
            return np.zeros((0, len(network.elements)))
        first, second, _ = np.array(network.places).T
        drops = self._unknowns[first] - self._unknowns[second]
        found = self._slopes(drops)
        for k, asked in enumerate(self._asked):
            if asked.is_through:
                own = network.position_of(asked.part)
                element, value = network.elements[own], float(self.values[own])
                found[k, own] += network.laws[own].own_slope(element, value, float(drops[own]))
        return found

    def sensitivities(self, asked: Asked) -> dict[str, float]:
        """Derivative of one answer that was asked for by every part's value."""
        row = self.slopes[list(self._asked).index(asked)]
        return {e.name: float(slope) for e, slope in zip(self.network.elements, row, strict=True)}

    def adjoint_across(self, k: int, first: str, second: str) -> float:
        """The k-th adjoint between two nodes."""
        index = self.network.node_index
        return float(self._adjoints[k, index[first]] - self._adjoints[k, index[second]])

    @property
    def resistance_slopes(self) -> Array:
        """Derivative of each resistance by every value; the adjoint of a resistance is its own solution."""
        return self._slopes(None)

    def _slopes(self, drops: Array | None) -> Array:
        """The slopes by the laws' adjoint rule; without `drops` each answer's own are taken."""
        first, second, branch = np.array(self.network.places).T
        found = np.empty((len(self._adjoints), len(first)))
        by_law = list(self._by_law())
        for block in blocks(len(found)):
            adjoints, slopes = self._adjoints[block], found[block]
            across = adjoints[:, first] - adjoints[:, second]
            for law, at in by_law:
                own = across[:, at] if drops is None else drops[at]
                elements = [self.network.elements[k] for k in at]
                slopes[:, at] = law.slope(elements, self.values[at], across[:, at], own, adjoints[:, branch[at]])
        return found

    def _by_law(self) -> Iterator[tuple[Law, list[int]]]:
        """The positions of the elements that follow each law."""
        groups: dict[Law, list[int]] = {}
        for k, law in enumerate(self.network.laws):
            groups.setdefault(law, []).append(k)
        yield from groups.items()


def blocks(count: int) -> Iterator[slice]:
    """So many rows in blocks that fit into a processor's own memory."""
    for start in range(0, count, _ROWS_AT_ONCE):
        yield slice(start, start + _ROWS_AT_ONCE)
