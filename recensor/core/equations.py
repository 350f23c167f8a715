"""Node and mesh equations with their numbers put in, and their solution: for circuits that do not simply reduce.

A second method beside `network`: the equations are written as a person writes them, one for each node or
mesh, and solved as they stand. SI units.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from recensor.core import loops
from recensor.core.circuit import Kind
from recensor.core.network import Element


@dataclass(frozen=True)
class Equation:
    """``sum of coefficients × unknowns = right``. `about` names its node, mesh or source; `terms` keep zeros out."""

    about: str
    terms: tuple[tuple[float, str], ...]
    right: float


@dataclass(frozen=True)
class System:
    """Equations, and what they give for each unknown."""

    equations: tuple[Equation, ...]
    solution: Mapping[str, float]
    units: Mapping[str, str]


@dataclass(frozen=True)
class Mesh:
    """One mesh: its unknown current, and the parts it goes through, +1 with each part's direction and −1 against."""

    current: str
    parts: tuple[tuple[str, int], ...]


def node_equations(elements: Sequence[Element], reference: str) -> System:
    """Kirchhoff's current law at every node but the reference, and one equation for each voltage source.

    Unknowns are ``V(node)`` and, for each voltage source, ``I(name)``, positive when it delivers.

    Examples
    --------
    >>> divider = [Element("V1", Kind.VOLTAGE_SOURCE, "a", "g", 5.0), Element("R1", Kind.RESISTOR, "a", "b", 2200.0),
    ...            Element("R2", Kind.RESISTOR, "b", "g", 1000.0)]
    >>> round(node_equations(divider, "g").solution["V(b)"], 4)
    1.5625
    """
    nodes = [n for n in dict.fromkeys(n for e in elements for n in (e.first, e.second)) if n != reference]
    rows: dict[str, dict[str, float]] = {node: {} for node in nodes}
    right = dict.fromkeys(nodes, 0.0)
    sources: list[Equation] = []

    def add(node: str, unknown: str, coefficient: float) -> None:
        if node != reference:
            rows[node][unknown] = rows[node].get(unknown, 0.0) + coefficient

    for element in elements:
        a, b = element.first, element.second
        if element.kind is Kind.VOLTAGE_SOURCE:
            own = f"I({element.name})"
            add(a, own, -1.0)
            add(b, own, 1.0)
            terms = [(1.0, f"V({a})"), (-1.0, f"V({b})"), (element.internal, own)]
            known = tuple((factor, name) for factor, name in terms if factor and name != f"V({reference})")
            sources.append(Equation(element.name, known, element.value))
            continue
        conductance = 1.0 / element.value if element.kind is Kind.RESISTOR else _conductance(element)
        if element.kind is Kind.CURRENT_SOURCE:
            for node, current in ((a, element.value), (b, -element.value)):
                if node != reference:
                    right[node] += current
        if conductance:
            for one, other in ((a, b), (b, a)):
                add(one, f"V({one})", conductance)
                if other != reference:
                    add(one, f"V({other})", -conductance)
    equations = [Equation(node, _terms(rows[node]), right[node]) for node in nodes] + sources
    unknowns = [f"V({node})" for node in nodes] + [f"I({one.about})" for one in sources]
    return System(tuple(equations), _solved(equations, unknowns), {name: name[0] for name in unknowns})


def meshes(elements: Sequence[Element]) -> list[Mesh]:
    """An independent set of meshes, each with a current of its own."""
    connections = {e.name: (e.first, e.second) for e in elements}
    sources = frozenset(e.name for e in elements if e.kind.is_source)
    return [
        Mesh(f"I{k}", tuple((step.part, 1 if step.forward else -1) for step in loop))
        for k, loop in enumerate(loops.independent_loops(connections, sources), 1)
    ]


def mesh_equations(elements: Sequence[Element]) -> System:
    """Kirchhoff's voltage law round every mesh, and one equation for each current source.

    Unknowns are the mesh currents ``I1``, ``I2``, … and, for each current source, its voltage ``U(name)``.
    """
    around = meshes(elements)
    by_name = {e.name: e for e in elements}
    passing = {
        name: [(mesh.current, sign) for mesh in around for part, sign in mesh.parts if part == name] for name in by_name
    }
    equations = []
    for mesh in around:
        row: dict[str, float] = {}
        right = 0.0
        for name, sign in mesh.parts:
            element = by_name[name]
            resistance = element.value if element.kind is Kind.RESISTOR else element.internal
            if element.kind is Kind.CURRENT_SOURCE:
                row[f"U({name})"] = row.get(f"U({name})", 0.0) + sign
                continue
            if element.kind is Kind.VOLTAGE_SOURCE:
                right -= sign * element.value
            for current, other in passing[name]:
                row[current] = row.get(current, 0.0) + sign * other * resistance
        equations.append(Equation(mesh.current, _terms(row), right))
    pushed = [e for e in elements if e.kind is Kind.CURRENT_SOURCE]
    for element in pushed:
        row = {current: -float(sign) for current, sign in passing[element.name]}
        if element.internal:
            row[f"U({element.name})"] = 1.0 / element.internal
        equations.append(Equation(element.name, _terms(row), element.value))
    unknowns = [mesh.current for mesh in around] + [f"U({e.name})" for e in pushed]
    units = {name: "V" if name[0] == "U" else "I" for name in unknowns}
    return System(tuple(equations), _solved(equations, unknowns), units)


def current_from_meshes(name: str, around: Sequence[Mesh], system: System) -> float:
    """A part's current, from its first lead to its second, out of the currents of the meshes that pass it."""
    return sum(sign * system.solution[mesh.current] for mesh in around for part, sign in mesh.parts if part == name)


def _conductance(element: Element) -> float:
    return 1.0 / element.internal if element.internal else 0.0


def _terms(row: Mapping[str, float]) -> tuple[tuple[float, str], ...]:
    return tuple((coefficient, unknown) for unknown, coefficient in row.items() if coefficient)


def _solved(equations: Sequence[Equation], unknowns: Sequence[str]) -> dict[str, float]:
    index = {name: k for k, name in enumerate(unknowns)}
    matrix = np.zeros((len(equations), len(unknowns)))
    for row, equation in enumerate(equations):
        for coefficient, unknown in equation.terms:
            matrix[row, index[unknown]] += coefficient
    return dict(zip(unknowns, np.linalg.solve(matrix, [e.right for e in equations]).tolist(), strict=True))
