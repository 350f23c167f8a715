"""Worked calculations against the network solver, and against sympy from the raw equations."""

from unittest import TestCase

import sympy
from hypothesis import given

from recensor.core.circuit import VOLTAGE_SOURCE, Sheet, node_list, one_line, tree_of_source
from recensor.core.solving import AtNode, Element, NetworkError, OfSource, Sought, Unknown, equations, reduce, solve
from recensor.core.solving import elements_of as elements_with
from tests.strategies import grounded_networks, lines, planar_lists


def elements_of(sheet: Sheet) -> list[Element]:
    values = {name: float(part.nominal) if part.nominal else 1000.0 for name, part in sheet.parts.items()}
    return elements_with(sheet.setup(), sheet.parts, values)


class Reduced(TestCase):
    @given(lines())
    def test_in_and_back_out_gives_what_the_network_solver_gives(self, line: str) -> None:
        run = one_line.read(line)
        _, whole = tree_of_source(run.setups["main"], run.parts)
        elements = elements_of(run)
        done = reduce(whole, {e.name: e.value for e in elements if not e.kind.is_source}, voltage=9.0)
        solution = solve(elements, "gnd")
        self.assertAlmostEqual(done.current, float(solution.current("V1")))
        shares = {share.name: share for split in done.splits for share in split.shares}
        for element in elements:
            if element.name in shares:
                share = shares[element.name]
                self.assertAlmostEqual(share.voltage, float(solution.voltage(element.first, element.second)))
                self.assertAlmostEqual(share.current, float(solution.current(element.name)))
        for split in done.splits:
            for share in split.shares:
                own = share.voltage if split.kind == "series" else share.current
                self.assertAlmostEqual(share.by_divider, own)
        self.assertEqual(len({merge.result for merge in done.merges} & set(run.parts)), 0)

    def test_names_carry_the_numbers_of_what_was_merged(self) -> None:
        run = one_line.read("9V: 1k + (2k2 | 3k3)")
        _, whole = tree_of_source(run.setups["main"], run.parts)
        done = reduce(whole, {"R1": 1000.0, "R2": 2200.0, "R3": 3300.0}, voltage=9.0)
        self.assertEqual([merge.result for merge in done.merges], ["R23", "R123"])
        self.assertEqual([round(merge.value, 6) for merge in done.merges], [1320.0, 2320.0])


class Equations(TestCase):
    @given(grounded_networks())
    def test_node_equations_give_what_the_network_solver_gives(self, elements: list[Element]) -> None:
        solution = solve(elements, "n0")
        system = equations.node_equations(elements, "n0")
        scale = max(1.0, float(solution.largest_voltage))
        for unknown, value in system.solution.items():
            if unknown.sought is Sought.POTENTIAL:
                self.assertAlmostEqual(value / scale, float(solution.voltage(unknown.of, "n0")) / scale, places=6)

    @given(planar_lists())
    def test_mesh_equations_give_every_current(self, text: str) -> None:
        elements = elements_of(node_list.read(text))
        try:
            solution = solve(elements, "gnd")
        except NetworkError:
            return
        system, around = equations.mesh_equations(elements), equations.meshes(elements)
        for element in elements:
            through = equations.current_from_meshes(element.name, around, system)
            expected = float(solution.current(element.name))
            self.assertAlmostEqual(-through if element.kind.is_source else through, expected)

    def test_a_bridge_by_hand_of_a_computer_algebra(self) -> None:
        """Kirchhoff's laws of a bridge as they are, solved by sympy in exact fractions."""
        run = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 2k2\nR3 B gnd 3k3\nR4 C gnd 4k7\nR5 B C 5k6")
        b, c = sympy.symbols("b c")
        exact = sympy.solve(
            [
                sympy.Rational(1, 1000) * (b - 9) + b / sympy.Integer(3300) + (b - c) / sympy.Integer(5600),
                (c - 9) / sympy.Integer(2200) + c / sympy.Integer(4700) + (c - b) / sympy.Integer(5600),
            ],
            [b, c],
        )
        elements = elements_of(run)
        by_node = equations.node_equations(elements, "gnd").solution
        by_mesh, around = equations.mesh_equations(elements), equations.meshes(elements)
        self.assertAlmostEqual(by_node[Unknown(Sought.POTENTIAL, "B")], float(exact[b]), places=12)
        self.assertAlmostEqual(by_node[Unknown(Sought.POTENTIAL, "C")], float(exact[c]), places=12)
        bridge = float((exact[b] - exact[c]) / 5600)
        self.assertAlmostEqual(equations.current_from_meshes("R5", around, by_mesh), bridge, places=15)

    def test_superposition_and_equivalent_source_by_algebra(self) -> None:
        """Two sources on a junction: both, each alone; then what a load in place of R3 sees."""
        v1, v2, r1, r2, r3 = (sympy.Integer(n) for n in (9, 5, 1000, 2200, 3300))
        j = sympy.Symbol("j")

        def junction(one: object, other: object) -> object:
            return sympy.solve((j - one) / r1 + (j - other) / r2 + j / r3, j)[0]

        self.assertEqual(junction(v1, v2), junction(v1, 0) + junction(0, v2))
        run = node_list.read("V1 A gnd 9V\nR1 A J 1k\nV2 B gnd 5V\nR2 B J 2k2\nR3 J gnd 3k3")
        self.assertAlmostEqual(
            equations.node_equations(elements_of(run), "gnd").solution[Unknown(Sought.POTENTIAL, "J")],
            float(junction(v1, v2)),
            places=12,
        )
        opened = sympy.solve((j - v1) / r1 + (j - v2) / r2, j)[0]
        back = 1 / (1 / r1 + 1 / r2)
        self.assertEqual(sympy.simplify(opened * r3 / (back + r3) - junction(v1, v2)), 0)
        self.assertIs(run.parts["V1"].kind, VOLTAGE_SOURCE)

    def test_a_sources_own_resistance_is_in_its_mesh(self) -> None:
        elements = elements_of(node_list.read("V1 A gnd 9V internal 100\nR1 A B 1k\nR2 B gnd 2k\nR3 B gnd 3k"))
        system, around = equations.mesh_equations(elements), equations.meshes(elements)
        solution = solve(elements, "gnd")
        for name in ("R1", "R2", "R3"):
            through = equations.current_from_meshes(name, around, system)
            self.assertAlmostEqual(through, float(solution.current(name)), places=12)

    def test_what_hangs_on_current_sources_alone_is_counted_from_one_of_its_own_nodes(self) -> None:
        elements = elements_of(
            node_list.read("V1 A gnd 9V\nR1 A gnd 1k\nI1 gnd B 1mA\nR2 B C 2k\nI2 C gnd 3mA\nI3 gnd C 2mA")
        )
        nodes, loops = equations.node_equations(elements, "gnd"), equations.mesh_equations(elements)
        potential = {node: nodes.solution[Unknown(Sought.POTENTIAL, node)] for node in "ABC"}
        self.assertEqual({node: round(volts, 9) for node, volts in potential.items()}, {"A": 9.0, "B": 0.0, "C": 2.0})
        through = equations.current_from_meshes("R2", equations.meshes(elements), loops)
        self.assertAlmostEqual(through, -0.001, places=12)
        self.assertAlmostEqual(potential["B"] - potential["C"], solve(elements, "gnd").drop("R2"), places=9)

    def test_equations_are_told_apart_by_what_they_are_about(self) -> None:
        """A source may bear a mesh's or a node's name; its equation is its own all the same."""
        named_like_a_mesh = elements_of(one_line.read("10mA: 1k + 2k"))
        about = [equation.about for equation in equations.mesh_equations(named_like_a_mesh).equations]
        self.assertEqual(about, [equations.meshes(named_like_a_mesh)[0], OfSource("I1")])
        named_like_a_node = elements_of(node_list.read("VB A gnd 9V\nR1 A VB 1k\nR2 VB gnd 2k"))
        about = [equation.about for equation in equations.node_equations(named_like_a_node, "gnd").equations]
        self.assertEqual(about, [AtNode("A"), AtNode("VB"), OfSource("VB")])
