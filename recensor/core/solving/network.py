"""Modified nodal analysis of a resistive network, with adjoint sensitivities.

One linear system per circuit: Kirchhoff's current law at every node, and one branch equation for
every voltage source (Ho, Ruehli and Brennan, 1975, "The modified nodal approach to network
analysis"). Sensitivities come from one solution of the adjoint system for each answer (Director and
Rohrer, 1969, "The generalized adjoint network"); the network is reciprocal and its matrix symmetric, so that they are
further right-hand sides of the same factorisation. Both sources from memory.

All values are in ohms, volts and amperes. A resistor's current is positive from its first node to
its second; a source's current is positive when it leaves the first (+) node, that is, when it delivers.
"""

from collections.abc import Iterable, Iterator, Sequence
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from recensor.core import graph
from recensor.core.circuit import Across, Leads
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say
from recensor.core.solving import nonlinear
from recensor.core.solving.laws import LAWS, Element, Law, NetworkError, NonlinearLaw, Places, law_of
from recensor.core.solving.solution import Asked, NotJoinedError, Solution, blocks
from recensor.core.uncertainty import Array

# Up to this many unknowns the matrix is put together entry by entry, beyond that all at once.
_SMALL_SYSTEM = 40


class _Measures(NamedTuple):
    """An answer as `per_volt` times the potential of row a less that of row b, and `per_ampere` times a branch."""

    a: int
    b: int
    per_volt: float
    branch: int = -1
    per_ampere: float = 0.0


class SourceLoopError(NetworkError):
    """Ideal voltage sources or wires form a loop: the current in it is not determined."""


class CurrentSourceOpenError(NetworkError):
    """A current source drives into an open circuit."""


class ReferenceNodeError(NetworkError):
    """The reference node is not in the circuit."""


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
            raise ReferenceNodeError(say("solving.reference_node_not_in", reference=reference), nodes=[reference])
        self.node_index = index
        self.position = {element.name: k for k, element in enumerate(self.elements)}
        self.laws: list[Law] = [law_of(element) for element in self.elements]
        self.islands = graph.Groups(range(len(index)))
        held = graph.Groups(range(len(index)))
        self.places: list[Places] = []
        self.size = len(index)
        for element, law in zip(self.elements, self.laws, strict=True):
            a, b = index[element.first], index[element.second]
            if law.joins(element):
                self.islands.join(a, b)
            if law.holds_voltage(element) and not held.join(a, b):
                raise self._source_loop(element)
            self.places.append(Places(a, b, self.size) if law.has_branch else Places(a, b))
            self.size += law.has_branch
        grounds = {self.islands.top(index[reference]): index[reference]}
        for node in range(len(index)):
            grounds.setdefault(self.islands.top(node), node)
        self._grounds = list(grounds.values())
        self._nonlinear = [k for k, law in enumerate(self.laws) if law.is_nonlinear]
        self._stamps = list(self._matrix_stamps())

    def _matrix_stamps(self) -> Iterator[tuple[int, int, float]]:
        """Every entry of the matrix as (place in the flat matrix, position of the element, factor).

        The potential of a ground is zero: its row says so, and its column says nothing.
        """
        size, grounds = self.size, set(self._grounds)
        for ground in grounds:
            yield ground * size + ground, len(self.elements), 1.0
        for k, (element, law, at) in enumerate(zip(self.elements, self.laws, self.places, strict=True)):
            for row, column, factor in law.entries(element, at):
                if row not in grounds and column not in grounds:
                    yield row * size + column, k, factor

    def _source_loop(self, closing: Element) -> SourceLoopError:
        """Name the loop that `closing` closes over ideal voltage sources and wires."""
        held = {
            e.name: (e.first, e.second) for e in self.elements if e is not closing and LAWS[e.kind].holds_voltage(e)
        }
        parts = sorted([closing.name, *(graph.way(closing.second, closing.first, held) or ())])
        nodes = {closing.first, closing.second}.union(*(held[name] for name in parts if name in held))
        kind = "solving.shorted_by_its_own_leads" if len(parts) == 1 else "solving.loop_of_ideal_voltage_sources"
        return SourceLoopError(say(kind, parts=" and ".join(parts)), parts, sorted(nodes))

    @property
    def is_nonlinear(self) -> bool:
        """Whether a part of it is no straight line, so that what sources make does not add up."""
        return bool(self._nonlinear)

    def joined(self, first: str, second: str) -> bool:
        """Whether the two nodes are joined by anything but ideal current sources."""
        return self.islands.together(self._node(first), self._node(second))

    def island_of(self, node: str) -> int:
        """The number that all nodes share which are joined to this one by anything but ideal current sources."""
        return self.islands.top(self._node(node))

    def has_joined(self, first: str, second: str) -> bool:
        """Whether the circuit has both nodes, and they are joined."""
        return first in self.node_index and second in self.node_index and self.joined(first, second)

    def _node(self, name: str) -> int:
        try:
            return self.node_index[name]
        except KeyError:
            raise UnknownNodeError(say("solving.node_not_in_circuit", name=name), nodes=[name]) from None

    def position_of(self, name: str) -> int:
        """The place of an element among all. Raises `UnknownNodeError`."""
        try:
            return self.position[name]
        except KeyError:
            raise UnknownNodeError(say("solving.part_not_in_circuit", name=name), parts=[name]) from None

    def element(self, name: str) -> Element:
        """The element of that name. Raises `UnknownNodeError`."""
        return self.elements[self.position_of(name)]

    def solve(self, values: Array | None = None, asked: Sequence[Asked] = ()) -> "Solution":
        """Solve for one value set, shape (parts,), or many at once, shape (sets, parts).

        With `asked`, for one value set, the adjoint of each answer is solved along with it.

        Raises
        ------
        ResistanceError, CurrentSourceOpenError, NotJoinedError : see there.
        """
        given = np.array([e.value for e in self.elements], float) if values is None else np.asarray(values, float)
        # One column for each element: a float, or an array over the value sets. The arithmetic below serves both.
        columns: list[Any] = given.tolist() if given.ndim == 1 else list(given.T)
        weights = [
            law.weight(element, value) for law, element, value in zip(self.laws, self.elements, columns, strict=True)
        ]
        weights.append(1.0)
        driven: list[Any] = [0.0] * self.size
        for law, value, at in zip(self.laws, columns, self.places, strict=True):
            for row, amount in law.drive(value, at):
                driven[row] = driven[row] + amount
        if len(self._grounds) > 1:
            self._check_islands(driven)
        if self._nonlinear:
            self._bend(columns, weights, driven, given.shape[:-1])
        for ground in self._grounds:
            driven[ground] = 0.0
        matrix = self._matrix(weights, given.shape[:-1])
        drive = _stacked(driven, given.shape[:-1])
        if not asked:
            unknowns = self._solved(matrix, drive[..., None])[..., 0]
            return Solution(self, given, matrix, unknowns, (), np.zeros((0, self.size)))
        measures = [self._measures(target, weights) for target in asked]
        if len(asked) > self.size:
            # So many answers that the inverse is cheaper: each adjoint is a sum of a few of its rows.
            solved = self._solved(matrix, np.column_stack([drive, np.eye(self.size)]))
            return Solution(self, given, matrix, solved[:, 0], asked, self._combined(solved[:, 1:], measures))
        right = np.zeros((self.size, 1 + len(asked)))
        right[:, 0] = drive
        for k, (a, b, per_volt, branch, per_ampere) in enumerate(measures, 1):
            right[a, k] += per_volt
            right[b, k] -= per_volt
            if branch >= 0:
                right[branch, k] += per_ampere
        right[self._grounds, 1:] = 0.0
        solved = self._solved(matrix, right)
        return Solution(self, given, matrix, solved[:, 0], asked, solved[:, 1:].T)

    def _bend(self, columns: list[Any], weights: list[Any], driven: list[Any], shape: tuple[int, ...]) -> None:
        """Put every nonlinear part in as the tangent at its operating point: a conductance, and a current beside it."""
        elements = [self.elements[k] for k in self._nonlinear]
        values = _stacked([columns[k] for k in self._nonlinear], shape)
        # Plain conductances in their places keep the rest solvable; the iteration takes them off again.
        beside = [1.0 / self.laws[k].resistance(self.elements[k]) for k in self._nonlinear]
        for k, conductance in zip(self._nonlinear, beside, strict=True):
            weights[k] = conductance
        right = np.zeros((*shape, self.size, 1 + len(elements)))
        right[..., 0] = _stacked(driven, shape)
        places = [self.places[k] for k in self._nonlinear]
        for j, at in enumerate(places, 1):
            right[..., at.a, j] += 1.0
            right[..., at.b, j] -= 1.0
        right[..., self._grounds, :] = 0.0
        solved = self._solved(self._matrix(weights, shape), right)
        ports = np.stack([solved[..., at.a, :] - solved[..., at.b, :] for at in places], axis=-2)
        siemens, amperes = nonlinear.settle(self._nonlinear_alike, values, ports, np.array(beside))
        for j, (k, at) in enumerate(zip(self._nonlinear, places, strict=True)):
            weights[k] = siemens[..., j]
            driven[at.a] = driven[at.a] - amperes[..., j]
            driven[at.b] = driven[at.b] + amperes[..., j]

    @cached_property
    def _nonlinear_alike(self) -> list[nonlinear.Alike]:
        """The nonlinear elements by their laws."""
        groups: dict[Law, list[int]] = {}
        for j, k in enumerate(self._nonlinear):
            groups.setdefault(self.laws[k], []).append(j)
        curved = [self.elements[k] for k in self._nonlinear]
        return [
            nonlinear.Alike.of(law, members, [curved[j] for j in members])
            for law, members in groups.items()
            if isinstance(law, NonlinearLaw)
        ]

    def _matrix(self, weights: Sequence[Any], shape: tuple[int, ...]) -> Array:
        """The matrix of one value set, or of many of that shape."""
        if not shape and self.size > _SMALL_SYSTEM:
            places, which, factors = self._stamp_arrays
            matrix = np.zeros(self.size**2)
            np.add.at(matrix, places, factors * np.array(weights)[which])
            return matrix.reshape(self.size, self.size)
        entries: list[Any] = [0.0] * self.size**2
        for place, k, factor in self._stamps:
            entries[place] = entries[place] + factor * weights[k]
        return _stacked(entries, shape).reshape(*shape, self.size, self.size)

    @cached_property
    def _stamp_arrays(self) -> tuple[NDArray[np.int64], NDArray[np.int64], Array]:
        places, which, factors = zip(*self._stamps, strict=True)
        return np.array(places), np.array(which), np.array(factors)

    def _combined(self, inverse: Array, measures: Sequence[_Measures]) -> Array:
        """The adjoints out of the inverse of the symmetric matrix, shape (asked, size)."""
        inverse = np.ascontiguousarray(inverse.T)
        inverse[self._grounds] = 0.0
        a, b, per_volt, branch, per_ampere = (np.array(column) for column in zip(*measures, strict=True))
        found = np.empty((len(measures), self.size))
        for block in blocks(len(measures)):
            found[block] = (inverse[a[block]] - inverse[b[block]]) * per_volt[block, None]
            found[block] += inverse[branch[block]] * per_ampere[block, None]
        return found

    def _solved(self, matrix: Array, right: Array) -> Array:
        try:
            solved = np.asarray(np.linalg.solve(matrix, right), np.float64)
        except np.linalg.LinAlgError:
            solved = np.full_like(right, np.nan)
        if not np.isfinite(solved).all():
            names = [e.name for e in self.elements]
            raise NetworkError(say("solving.values_too_far_apart"), names, list(self.node_index))
        return solved

    def _measures(self, asked: Asked, weights: Sequence[Any]) -> _Measures:
        """How an answer is made of the unknowns."""
        if asked.is_across:
            if not self.joined(*asked.nodes):
                raise NotJoinedError(
                    say("solving.nothing_joins_and", red=asked.red, black=asked.black), nodes=asked.nodes
                )
            return _Measures(self._node(asked.red), self._node(asked.black), 1.0)
        k = self.position_of(asked.part)
        per_volt, per_ampere = self.laws[k].measures(float(weights[k]))
        at = self.places[k]
        return _Measures(at.a, at.b, per_volt, at.branch, per_ampere)

    def resistances(self, pairs: Sequence[Leads], values: Array | None = None) -> tuple[list[float], Array]:
        """What an ohmmeter shows across each pair of joined nodes, in ohms, and its derivatives by every value.

        The derivatives have shape (pairs, elements).

        For elements that drive nothing: with 1 A in at one node and out at the other the voltage is the resistance,
        and the solution is its own adjoint. Raises the errors of `solve`.
        """
        solution = self.solve(values, [Across(RESISTANCE, pair, "") for pair in pairs])
        ohms = [float(solution.adjoint_across(k, *pair)) for k, pair in enumerate(pairs)]
        return ohms, solution.resistance_slopes

    def _check_islands(self, driven: list[Any]) -> None:
        """Current sources must not drive a net current into any island: it could not come back."""
        for ground in self._grounds:
            inside = [k for k in self.node_index.values() if self.islands.together(k, ground)]
            pushed = [driven[k] for k in inside]
            scale = 1e-12 * sum(np.abs(current) for current in pushed)
            if np.any(np.abs(sum(pushed)) > scale):
                nodes = {node for node, k in self.node_index.items() if k in inside}
                names = [
                    e.name
                    for e, law in zip(self.elements, self.laws, strict=True)
                    if law.pushes and (e.first in nodes) != (e.second in nodes)
                ]
                message = say("solving.drives_current_into_open", names=" and ".join(names))
                raise CurrentSourceOpenError(message, names, sorted(nodes))


def solve(elements: Iterable[Element], reference: str, asked: Sequence[Asked] = ()) -> Solution:
    """Solve one circuit. Raises the errors of `Network` and `Network.solve`.

    Examples
    --------
    >>> from recensor.core.circuit import RESISTOR, VOLTAGE_SOURCE
    >>> divider = [Element("V1", VOLTAGE_SOURCE, "top", "gnd", 5.0),
    ...            Element("R1", RESISTOR, "top", "mid", 2200.0),
    ...            Element("R2", RESISTOR, "mid", "gnd", 1000.0)]
    >>> round(float(solve(divider, "gnd").voltage("mid", "gnd")), 4)
    1.5625
    """
    return Network(elements, reference).solve(asked=asked)


def _stacked(columns: list[Any], shape: tuple[int, ...]) -> Array:
    """Columns side by side along the last axis; a plain number serves every value set."""
    if not shape:
        return np.array(columns)
    stacked = np.empty((*shape, len(columns)))
    for k, column in enumerate(columns):
        stacked[..., k] = column
    return stacked
