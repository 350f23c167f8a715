"""Node and mesh equations with their numbers put in, and their solution: for circuits that do not simply reduce.

A second method beside `network`: the equations are written as a person writes them, one for each node or
mesh, and solved as they stand. SI units.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np

from recensor.core.circuit import loops
from recensor.core.graph import Groups
from recensor.core.quantity import AMPERE, VOLT
from recensor.core.solving.laws import LAWS, Element


class Sought(Enum):
    """What an unknown is: a node's potential, what a voltage source delivers, a mesh's current, a voltage across."""

    POTENTIAL = "potential"
    DELIVERED = "delivered"
    MESH = "mesh"
    ACROSS = "across"

    @property
    def letter(self) -> str:
        """The letter it is written with."""
        return {"potential": "V", "across": "U"}.get(self.value, "I")

    @property
    def unit(self) -> str:
        """Its SI unit."""
        return VOLT if self in (Sought.POTENTIAL, Sought.ACROSS) else AMPERE


@dataclass(frozen=True)
class Unknown:
    """A node's potential, a voltage source's delivered current, a mesh's current or a current source's voltage.

    `of` is the node's or part's name, or the mesh's number.
    """

    sought: Sought
    of: str


@dataclass(frozen=True)
class Mesh:
    """One mesh by its number, and the parts it goes through, +1 with each part's direction and −1 against."""

    number: int
    parts: tuple[tuple[str, int], ...]

    @property
    def current(self) -> Unknown:
        """The current that goes round it."""
        return Unknown(Sought.MESH, str(self.number))


@dataclass(frozen=True)
class AtNode:
    """An equation that says what meets at a node."""

    node: str


@dataclass(frozen=True)
class OfSource:
    """An equation that says what a source holds."""

    source: str


@dataclass(frozen=True)
class SetToZero:
    """An equation that counts from zero what the circuit leaves open: what hangs on current sources alone."""

    unknown: Unknown

    @property
    def equation(self) -> "Equation":
        """Zero it is."""
        return Equation(self, ((1.0, self.unknown),), 0.0)


@dataclass(frozen=True)
class Equation:
    """``sum of coefficients × unknowns = right``; `terms` keep zeros out."""

    about: AtNode | OfSource | Mesh | SetToZero
    terms: tuple[tuple[float, Unknown], ...]
    right: float


@dataclass(frozen=True)
class System:
    """Equations, and what they give for each unknown, in its unit."""

    equations: tuple[Equation, ...]
    solution: Mapping[Unknown, float]


def node_equations(elements: Sequence[Element], reference: str) -> System:
    """Kirchhoff's current law at every node but the reference, and one equation for each voltage source.

    Unknowns are the nodes' potentials and, for each voltage source, its current, positive when it delivers.
    Where nodes hang on current sources alone, the first of them is counted from zero: its current law follows
    from the others'.

    Examples
    --------
    >>> from recensor.core.circuit import RESISTOR, VOLTAGE_SOURCE
    >>> divider = [Element("V1", VOLTAGE_SOURCE, "a", "g", 5.0), Element("R1", RESISTOR, "a", "b", 2200.0),
    ...            Element("R2", RESISTOR, "b", "g", 1000.0)]
    >>> round(node_equations(divider, "g").solution[Unknown(Sought.POTENTIAL, "b")], 4)
    1.5625
    """
    nodes = [n for n in dict.fromkeys(n for e in elements for n in (e.first, e.second)) if n != reference]
    rows: dict[str, dict[Unknown, float]] = {node: {} for node in nodes}
    right = dict.fromkeys(nodes, 0.0)
    sources: list[Equation] = []
    unknowns = [Unknown(Sought.POTENTIAL, node) for node in nodes]

    def add(node: str, unknown: Unknown, coefficient: float) -> None:
        if node != reference and unknown.of != reference:
            rows[node][unknown] = rows[node].get(unknown, 0.0) + coefficient

    for element in elements:
        a, b, law = element.first, element.second, LAWS[element.kind]
        at_a, at_b = Unknown(Sought.POTENTIAL, a), Unknown(Sought.POTENTIAL, b)
        if law.has_branch:
            own = Unknown(Sought.DELIVERED, element.name)
            unknowns.append(own)
            for node, sign in ((a, -1.0), (b, 1.0)):
                if node != reference:
                    rows[node][own] = rows[node].get(own, 0.0) + sign
            terms = [(1.0, at_a), (-1.0, at_b), (law.resistance(element), own)]
            known = tuple((factor, unknown) for factor, unknown in terms if factor and unknown in unknowns)
            sources.append(Equation(OfSource(element.name), known, element.value))
            continue
        if law.pushes:
            for node, current in ((a, element.value), (b, -element.value)):
                if node != reference:
                    right[node] += current
        if conductance := law.conductance(element):
            for here, there in ((a, at_b), (b, at_a)):
                add(here, Unknown(Sought.POTENTIAL, here), conductance)
                add(here, there, -conductance)
    islands, equations = _islands(elements), []
    counted_from = {islands.top(reference)}
    for node in nodes:
        if islands.top(node) in counted_from:
            equations.append(Equation(AtNode(node), _terms(rows[node]), right[node]))
        else:
            counted_from.add(islands.top(node))
            equations.append(SetToZero(Unknown(Sought.POTENTIAL, node)).equation)
    equations += sources
    return System(tuple(equations), _solved(equations, unknowns))


def meshes(elements: Sequence[Element]) -> list[Mesh]:
    """An independent set of meshes, each with a current of its own."""
    connections = {e.name: (e.first, e.second) for e in elements}
    sources = frozenset(e.name for e in elements if e.kind.is_source)
    return [
        Mesh(k, tuple((passage.part, 1 if passage.forward else -1) for passage in loop))
        for k, loop in enumerate(loops.independent_loops(connections, sources), 1)
    ]


def mesh_equations(elements: Sequence[Element]) -> System:
    """Kirchhoff's voltage law round every mesh, and one equation for each current source.

    Unknowns are the mesh currents and, for each current source, the voltage across it. Where parts hang on
    current sources alone, one source's voltage is counted from zero: its current follows from the others'.
    """
    around = meshes(elements)
    by_name = {e.name: e for e in elements}
    passing = {
        name: [(mesh.current, sign) for mesh in around for part, sign in mesh.parts if part == name] for name in by_name
    }
    equations = []
    for mesh in around:
        row: dict[Unknown, float] = {}
        right = 0.0
        for name, sign in mesh.parts:
            element = by_name[name]
            law = LAWS[element.kind]
            if law.pushes:
                across = Unknown(Sought.ACROSS, name)
                row[across] = row.get(across, 0.0) + sign
                continue
            if law.has_branch:
                right -= sign * element.value
            for current, other in passing[name]:
                row[current] = row.get(current, 0.0) + sign * other * law.resistance(element)
        equations.append(Equation(mesh, _terms(row), right))
    pushed = [e for e in elements if LAWS[e.kind].pushes]
    islands = _islands(elements)
    for element in pushed:
        if islands.join(element.first, element.second):
            equations.append(SetToZero(Unknown(Sought.ACROSS, element.name)).equation)
            continue
        row = {current: -float(sign) for current, sign in passing[element.name]}
        row[Unknown(Sought.ACROSS, element.name)] = LAWS[element.kind].conductance(element)
        equations.append(Equation(OfSource(element.name), _terms(row), element.value))
    unknowns = [mesh.current for mesh in around] + [Unknown(Sought.ACROSS, e.name) for e in pushed]
    return System(tuple(equations), _solved(equations, unknowns))


def current_from_meshes(name: str, around: Sequence[Mesh], system: System) -> float:
    """A part's current, from its first lead to its second, out of the currents of the meshes that pass it."""
    return sum(sign * system.solution[mesh.current] for mesh in around for part, sign in mesh.parts if part == name)


def _islands(elements: Sequence[Element]) -> Groups[str]:
    """The nodes that parts join otherwise than by an ideal current source."""
    islands = Groups([node for e in elements for node in (e.first, e.second)])
    for element in elements:
        law = LAWS[element.kind]
        if law.has_branch or law.conductance(element):
            islands.join(element.first, element.second)
    return islands


def _terms(row: Mapping[Unknown, float]) -> tuple[tuple[float, Unknown], ...]:
    return tuple((coefficient, unknown) for unknown, coefficient in row.items() if coefficient)


def _solved(equations: Sequence[Equation], unknowns: Sequence[Unknown]) -> dict[Unknown, float]:
    index = {unknown: k for k, unknown in enumerate(unknowns)}
    matrix = np.zeros((len(equations), len(unknowns)))
    for row, equation in enumerate(equations):
        for coefficient, unknown in equation.terms:
            matrix[row, index[unknown]] += coefficient
    return dict(zip(unknowns, np.linalg.solve(matrix, [e.right for e in equations]).tolist(), strict=True))
