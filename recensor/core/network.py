"""Modified nodal analysis of a resistive network, with adjoint sensitivities.

One linear system per circuit: Kirchhoff's current law at every node, and one branch equation for
every voltage source (Ho, Ruehli and Brennan, 1975, "The modified nodal approach to network
analysis"). Sensitivities come from one solution of the transposed system for each answer
(Director and Rohrer, 1969, "The generalized adjoint network"). Both sources from memory.

All values are in ohms, volts and amperes. A resistor's current is positive from its first node to
its second; a source's current is positive when it leaves the first (+) node, that is, when it delivers.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Kind, Part, Setup

Array = NDArray[np.float64]


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


def wire(name: str, first: str, second: str) -> Element:
    """An ideal wire whose current can be asked for: a voltage source of 0 V."""
    return Element(name, Kind.VOLTAGE_SOURCE, first, second, 0.0)


def elements_of(setup: Setup, parts: Mapping[str, Part], values: Mapping[str, float | None]) -> list[Element]:
    """A setup's parts with these values in ohms, volts or amperes; a part without a value is left out.

    A voltage source that is off becomes a wire, a current source that is off leaves nothing; internal
    resistance goes out with it.
    """
    elements = []
    for name, (first, second) in setup.connections.items():
        part, value = parts[name], values.get(name)
        if name in setup.sources_off:
            if part.kind is Kind.VOLTAGE_SOURCE:
                elements.append(wire(name, first, second))
        elif value is not None:
            elements.append(Element(name, part.kind, first, second, value, part.internal_resistance))
    return elements


class NetworkError(ValueError):
    """The circuit has no single solution. `parts` and `nodes` name what is concerned."""

    def __init__(self, message: str, parts: Sequence[str] = (), nodes: Sequence[str] = ()) -> None:
        super().__init__(message)
        self.parts = tuple(parts)
        self.nodes = tuple(nodes)


class SourceLoopError(NetworkError):
    """Ideal voltage sources or wires form a loop: the current in it is not determined."""


class CurrentSourceOpenError(NetworkError):
    """A current source drives into an open circuit."""


class ReferenceNodeError(NetworkError):
    """The reference node is not in the circuit."""


class ResistanceError(NetworkError):
    """A resistance is zero or negative."""


class UnknownNodeError(NetworkError):
    """A node or part was asked for that the circuit does not have."""


class Network:
    """The topology of a circuit, checked once and solved for any number of value sets.

    Raises
    ------
    ReferenceNodeError, SourceLoopError : see there.
    """

    def __init__(self, elements: Iterable[Element], reference: str) -> None:
        self.elements = tuple(elements)
        self.reference = reference
        index: dict[str, int] = {}
        for element in self.elements:
            index.setdefault(element.first, len(index))
            index.setdefault(element.second, len(index))
        if reference not in index:
            raise ReferenceNodeError(f"the reference node {reference} is not in the circuit", nodes=[reference])
        self.node_index = index
        self.branch_index: dict[str, int] = {}
        self._position = {element.name: k for k, element in enumerate(self.elements)}
        island = list(range(len(index)))
        ideal = list(range(len(index)))
        for element in self.elements:
            a, b = index[element.first], index[element.second]
            if element.kind is Kind.CURRENT_SOURCE:
                if element.internal > 0:
                    _join(island, a, b)
                continue
            if element.kind is Kind.VOLTAGE_SOURCE:
                self.branch_index[element.name] = len(index) + len(self.branch_index)
                if element.internal == 0 and not _join(ideal, a, b):
                    raise self._source_loop(element)
            _join(island, a, b)
        self._island = [_root(island, k) for k in range(len(index))]
        grounds = {self._island[index[reference]]: index[reference]}
        for node, root in enumerate(self._island):
            grounds.setdefault(root, node)
        self._grounds = list(grounds.values())
        self.size = len(index) + len(self.branch_index)
        self._stamps = list(self._matrix_stamps())

    def _matrix_stamps(self) -> Iterator[tuple[int, int, float]]:
        """Every entry of the matrix as (place in the flat matrix, position of the element, factor).

        An element's weight is its conductance, 1 for a voltage source. A ground's row is V = 0.
        """
        size, grounds = self.size, set(self._grounds)
        for ground in grounds:
            yield ground * size + ground, len(self.elements), 1.0
        for k, element in enumerate(self.elements):
            a, b = self.node_index[element.first], self.node_index[element.second]
            if element.kind is Kind.VOLTAGE_SOURCE:
                row = self.branch_index[element.name]
                entries = [(row, a, 1.0), (row, b, -1.0), (row, row, element.internal), (a, row, -1.0), (b, row, 1.0)]
            elif element.kind is Kind.RESISTOR or element.internal > 0:
                entries = [(a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0)]
            else:
                continue
            for row, column, factor in entries:
                if row not in grounds:
                    yield row * size + column, k, factor

    def _source_loop(self, closing: Element) -> SourceLoopError:
        """Name the loop that `closing` closes over ideal voltage sources and wires."""
        trail: dict[str, tuple[str, str]] = {closing.first: ("", "")}
        frontier = [closing.first]
        ideal = [e for e in self.elements if e.kind is Kind.VOLTAGE_SOURCE and e.internal == 0 and e is not closing]
        while frontier and closing.second not in trail:
            node = frontier.pop(0)
            for e in ideal:
                if node in (e.first, e.second):
                    other = e.second if node == e.first else e.first
                    if other not in trail:
                        trail[other] = (node, e.name)
                        frontier.append(other)
        parts, nodes, node = [closing.name], [closing.second], closing.second
        while trail[node][1]:
            node, name = trail[node]
            parts.append(name)
            nodes.append(node)
        loop = " and ".join(sorted(parts))
        reason = "is shorted by its own leads" if len(parts) == 1 else "form a loop of ideal voltage sources"
        return SourceLoopError(
            f"{loop} {reason}: the current in it is not determined", sorted(parts), sorted(set(nodes))
        )

    def same_island(self, first: str, second: str) -> bool:
        """Whether the two nodes are joined by anything but ideal current sources."""
        return self._island[self._node(first)] == self._island[self._node(second)]

    def _node(self, name: str) -> int:
        try:
            return self.node_index[name]
        except KeyError:
            raise UnknownNodeError(f"node {name} is not in the circuit", nodes=[name]) from None

    def element(self, name: str) -> Element:
        """The element of that name. Raises `UnknownNodeError`."""
        try:
            return self.elements[self._position[name]]
        except KeyError:
            raise UnknownNodeError(f"part {name} is not in the circuit", parts=[name]) from None

    def solve(self, values: Array | None = None) -> "Solution":
        """Solve for one value set, shape (parts,), or many at once, shape (sets, parts).

        Raises
        ------
        ResistanceError, CurrentSourceOpenError : see there.
        """
        given = np.array([e.value for e in self.elements], float) if values is None else np.asarray(values, float)
        # One column for each element: a float, or an array over the value sets. The arithmetic below serves both.
        columns: list[Any] = given.tolist() if given.ndim == 1 else list(given.T)
        weights = [self._weight(element, value) for element, value in zip(self.elements, columns, strict=True)]
        weights.append(1.0)
        entries: list[Any] = [0.0] * self.size**2
        for place, k, factor in self._stamps:
            entries[place] = entries[place] + factor * weights[k]
        driven: list[Any] = [0.0] * self.size
        for element, value in zip(self.elements, columns, strict=True):
            if element.kind is Kind.VOLTAGE_SOURCE:
                driven[self.branch_index[element.name]] = value
            elif element.kind is Kind.CURRENT_SOURCE:
                a, b = self.node_index[element.first], self.node_index[element.second]
                driven[a], driven[b] = driven[a] + value, driven[b] - value
        if len(self._grounds) > 1:
            self._check_islands(driven)
        for ground in self._grounds:
            driven[ground] = 0.0
        matrix = _stacked(entries, given.shape[:-1]).reshape(*given.shape[:-1], self.size, self.size)
        drive = _stacked(driven, given.shape[:-1])
        try:
            unknowns = np.asarray(np.linalg.solve(matrix, drive[..., None])[..., 0], np.float64)
        except np.linalg.LinAlgError:
            unknowns = np.full_like(drive, np.nan)
        if not np.isfinite(unknowns).all():
            names = [e.name for e in self.elements]
            raise NetworkError("the values are too far apart to be solved together", names, list(self.node_index))
        return Solution(self, given, matrix, unknowns)

    @staticmethod
    def _weight(element: Element, value: Any) -> Any:
        """What an element's entries of the matrix are multiplied by."""
        if element.kind is Kind.RESISTOR:
            if value <= 0 if isinstance(value, float) else (value <= 0).any():
                raise ResistanceError(f"{element.name} has a resistance that is not above zero", [element.name])
            return 1.0 / value
        return 1.0 / element.internal if element.kind is Kind.CURRENT_SOURCE and element.internal > 0 else 1.0

    def _check_islands(self, driven: list[Any]) -> None:
        """Current sources must not drive a net current into any island: it could not come back."""
        for ground in self._grounds:
            pushed = [driven[k] for k, root in enumerate(self._island) if root == self._island[ground]]
            scale = 1e-12 * sum(np.abs(current) for current in pushed)
            if np.any(np.abs(sum(pushed)) > scale):
                inside = {n for n, k in self.node_index.items() if self._island[k] == self._island[ground]}
                names = [
                    e.name
                    for e in self.elements
                    if e.kind is Kind.CURRENT_SOURCE and (e.first in inside) != (e.second in inside)
                ]
                message = f"{' and '.join(names)} drives its current into an open circuit"
                raise CurrentSourceOpenError(message, names, sorted(inside))


class Solution:
    """Voltages, currents and powers of a solved network; arrays where many value sets were solved."""

    def __init__(self, network: Network, values: Array, matrix: Array, unknowns: Array) -> None:
        self.network = network
        self.values = values
        self._matrix = matrix
        self._unknowns = unknowns

    def voltage(self, first: str, second: str) -> Any:
        """V(first) − V(second) in volts; None when nothing joins the two nodes."""
        a, b = self.network._node(first), self.network._node(second)
        if self.network._island[a] != self.network._island[b]:
            return None
        return self._unknowns[..., a] - self._unknowns[..., b]

    def current(self, name: str) -> Any:
        """Current in amperes: through a resistor from first to second, from a source when delivered."""
        element = self.network.element(name)
        if element.kind is Kind.VOLTAGE_SOURCE:
            return self._unknowns[..., self.network.branch_index[name]]
        value = self.values[..., self.network._position[name]]
        drop = self._drop(element)
        if element.kind is Kind.RESISTOR:
            return drop / value
        return value - drop / element.internal if element.internal > 0 else value

    def power(self, name: str) -> Any:
        """Power in watts: taken up by a resistor, delivered by a source at its terminals."""
        element = self.network.element(name)
        return self._drop(element) * self.current(name)

    def _drop(self, element: Element) -> Any:
        index = self.network.node_index
        return self._unknowns[..., index[element.first]] - self._unknowns[..., index[element.second]]

    @cached_property
    def largest_voltage(self) -> float:
        """The largest voltage in volts between two joined nodes: the scale on which a voltage is zero."""
        volts = self._unknowns[: len(self.network.node_index)]
        islands: dict[int, list[float]] = {}
        for root, value in zip(self.network._island, volts, strict=True):
            islands.setdefault(root, []).append(value)
        return max(max(group) - min(group) for group in islands.values())

    @cached_property
    def largest_current(self) -> float:
        """The largest current in amperes in any part: the scale on which a current is zero."""
        return max(abs(float(self.current(e.name))) for e in self.network.elements)

    def voltage_sensitivities(self, first: str, second: str) -> dict[str, float]:
        """Derivative of V(first) − V(second) by every part's value, from one adjoint solution."""
        answer = np.zeros(self.network.size)
        answer[self.network._node(first)] += 1.0
        answer[self.network._node(second)] -= 1.0
        return self._adjoint(answer)

    def current_sensitivities(self, name: str) -> dict[str, float]:
        """Derivative of the part's current by every part's value, from one adjoint solution."""
        element = self.network.element(name)
        answer = np.zeros(self.network.size)
        direct = 0.0
        if element.kind is Kind.VOLTAGE_SOURCE:
            answer[self.network.branch_index[name]] = 1.0
        else:
            value = float(self.values[self.network._position[name]])
            is_resistor = element.kind is Kind.RESISTOR
            if is_resistor:
                conductance, direct = 1.0 / value, -float(self._drop(element)) / value**2
            else:
                conductance, direct = (-1.0 / element.internal if element.internal > 0 else 0.0), 1.0
            answer[self.network.node_index[element.first]] += conductance
            answer[self.network.node_index[element.second]] -= conductance
        sensitivities = self._adjoint(answer)
        sensitivities[name] += direct
        return sensitivities

    def _adjoint(self, answer: Array) -> dict[str, float]:
        adjoint = np.linalg.solve(self._matrix.T, answer)
        # A grounded node's row is V = 0, not Kirchhoff's law: it carries no part of any element.
        adjoint[self.network._grounds] = 0.0
        weights, unknowns = adjoint.tolist(), self._unknowns.tolist()
        index = self.network.node_index
        sensitivities = {}
        for element, value in zip(self.network.elements, self.values.tolist(), strict=True):
            a, b = index[element.first], index[element.second]
            across = weights[a] - weights[b]
            if element.kind is Kind.RESISTOR:
                sensitivities[element.name] = across * (unknowns[a] - unknowns[b]) / value**2
            elif element.kind is Kind.VOLTAGE_SOURCE:
                sensitivities[element.name] = weights[self.network.branch_index[element.name]]
            else:
                sensitivities[element.name] = across
        return sensitivities


TEST_CURRENT = "\0ohmmeter"


def solve(elements: Iterable[Element], reference: str) -> Solution:
    """Solve one circuit. Raises the errors of `Network` and `Network.solve`.

    Examples
    --------
    >>> divider = [Element("V1", Kind.VOLTAGE_SOURCE, "top", "gnd", 5.0),
    ...            Element("R1", Kind.RESISTOR, "top", "mid", 2200.0),
    ...            Element("R2", Kind.RESISTOR, "mid", "gnd", 1000.0)]
    >>> round(float(solve(divider, "gnd").voltage("mid", "gnd")), 4)
    1.5625
    """
    return Network(elements, reference).solve()


def solve_many(elements: Iterable[Element], reference: str, values: Array) -> Solution:
    """Solve for N value sets, shape (N, parts) in the elements' order, in one batched call."""
    return Network(elements, reference).solve(values)


def ohmmeter(passive: Iterable[Element], first: str, second: str) -> Solution | None:
    """The circuit as an ohmmeter meets it: 1 A driven in at `first` and out at `second`.

    `passive` holds resistors, and a `wire` for every voltage source that is off; sources that are
    only removed are left out. The voltage between the two nodes is then the resistance in ohms.
    None when the circuit is open between them.
    """
    network = Network([*passive, Element(TEST_CURRENT, Kind.CURRENT_SOURCE, first, second, 1.0)], second)
    return network.solve() if network.same_island(first, second) else None


def _stacked(columns: list[Any], shape: tuple[int, ...]) -> Array:
    """Columns side by side along the last axis; a plain number serves every value set."""
    if not shape:
        return np.array(columns)
    stacked = np.empty((*shape, len(columns)))
    for k, column in enumerate(columns):
        stacked[..., k] = column
    return stacked


def _root(parent: list[int], k: int) -> int:
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


def _join(parent: list[int], a: int, b: int) -> bool:
    """Unite two groups; False when they were one already."""
    a, b = _root(parent, a), _root(parent, b)
    parent[a] = b
    return a != b
