"""The network solver: Kirchhoff's and Tellegen's laws as properties, named errors, open circuits."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings

from recensor.core.circuit import CURRENT_SOURCE, RESISTOR, VOLTAGE_SOURCE, Across, Through
from recensor.core.quantity import VOLTAGE
from recensor.core.solving import (
    CurrentSourceOpenError,
    Element,
    Network,
    NetworkError,
    NotJoinedError,
    ReferenceNodeError,
    ResistanceError,
    SourceLoopError,
    UnknownNodeError,
    resistance_between,
    solve,
)
from tests.strategies import grounded_networks

R, V, I = RESISTOR, VOLTAGE_SOURCE, CURRENT_SOURCE  # noqa: E741


def seen(passive: list[Element], first: str, second: str) -> float | None:
    """What an ohmmeter shows; None across an open."""
    (found,) = resistance_between(passive, [(first, second)])
    return found and found[0]


class Laws(TestCase):
    @given(grounded_networks())
    def test_currents_balance_at_every_node_and_powers_balance_in_all(self, elements: list[Element]) -> None:
        solution = solve(elements, "n0")
        into = dict.fromkeys(solution.network.node_index, 0.0)
        largest = 1e-15
        for e in elements:
            current = float(solution.current(e.name)) * (-1 if e.kind is R else 1)
            into[e.first] += current
            into[e.second] -= current
            largest = max(largest, abs(current))
        for node, total in into.items():
            self.assertLess(abs(total), 1e-8 * largest, f"node {node}")
        taken = sum(float(solution.power(e.name)) for e in elements if e.kind is R)
        given_out = sum(float(solution.power(e.name)) for e in elements if e.kind is not R)
        self.assertLess(abs(taken - given_out), 1e-7 * max(1e-12, abs(taken)))

    @settings(max_examples=40)
    @given(grounded_networks())
    def test_adjoint_sensitivities_are_the_slopes_of_the_answers(self, elements: list[Element]) -> None:
        network = Network(elements, "n0")
        values = np.array([e.value for e in elements])
        asked = [Across(VOLTAGE, ("n1", "n0"), ""), *(Through(e.name, "") for e in elements)]
        solution = network.solve(asked=asked)
        step = 1e-5 * np.maximum(np.abs(values), 1e-3)
        for one in asked:
            slopes = solution.sensitivities(one)
            up, down = network.solve(values + np.diag(step)), network.solve(values - np.diag(step))
            numeric = (up.answer(one) - down.answer(one)) / (2 * step)
            exact = np.array([slopes[e.name] for e in elements])
            scale = np.abs(exact * step).max() + 1e-11 * max(1.0, np.abs(solution._unknowns).max())
            np.testing.assert_allclose(numeric * step, exact * step, atol=1e-4 * scale)

    @given(grounded_networks())
    def test_each_source_alone_adds_up_to_all_of_them(self, elements: list[Element]) -> None:
        """Superposition: a source that is off is a wire, or nothing for a current source (here: 0 V and 0 A)."""
        together = solve(elements, "n0")
        sources = [e.name for e in elements if e.kind is not R]
        alone = [
            solve([e._replace(value=e.value if e.kind is R or e.name == name else 0.0) for e in elements], "n0")
            for name in sources
        ]
        scale = max(abs(float(one.current(e.name))) for one in [*alone, together] for e in elements) or 1.0
        for e in elements:
            parts = [float(one.current(e.name)) for one in alone]
            self.assertAlmostEqual(sum(parts) / scale, float(together.current(e.name)) / scale, places=6)

    @given(grounded_networks())
    def test_resistance_seen_from_outside_is_reciprocal(self, elements: list[Element]) -> None:
        """A transfer resistance is the same both ways, and no resistance between two nodes exceeds a path's own."""
        passive = [e for e in elements if e.kind is R]
        there, back = seen(passive, "n1", "n0"), seen(passive, "n0", "n1")
        self.assertAlmostEqual(there / back, 1.0, places=9)
        joining = [e.value for e in passive if {e.first, e.second} == {"n0", "n1"}]
        self.assertLessEqual(there, min(joining) * (1 + 1e-9))
        more = [*passive, Element("Rmore", R, "n0", "n1", 1e3)]
        self.assertAlmostEqual(1 / seen(more, "n1", "n0"), 1 / there + 1e-3, places=9)

    @given(grounded_networks())
    def test_many_value_sets_at_once_are_the_single_solutions(self, elements: list[Element]) -> None:
        values = np.array([[e.value * factor for e in elements] for factor in (1.0, 1.1, 0.7)])
        many = Network(elements, "n0").solve(values)
        for k, row in enumerate(values):
            one = Network(elements, "n0").solve(row)
            self.assertTrue(np.allclose(many.voltage("n1", "n0")[k], one.voltage("n1", "n0"), rtol=1e-9))
            self.assertTrue(np.allclose(many.current("V1")[k], one.current("V1"), rtol=1e-6, atol=1e-12))


class NamedErrors(TestCase):
    def test_each_error_names_the_parts_and_nodes_concerned(self) -> None:
        v1, r1 = Element("V1", V, "a", "g", 5), Element("R1", R, "a", "g", 100)
        wire = Element("W", V, "b", "g", 0.0)
        cases = [
            (SourceLoopError, [v1, r1, Element("V2", V, "a", "g", 5)], "g", {"V1", "V2"}),
            (
                SourceLoopError,
                [v1, Element("V2", V, "b", "a", 1), wire],
                "g",
                {"V1", "V2", "W"},
            ),
            (SourceLoopError, [Element("V1", V, "g", "g", 5)], "g", {"V1"}),
            (CurrentSourceOpenError, [Element("I1", I, "x", "g", 0.1), r1], "g", {"I1"}),
            (ReferenceNodeError, [v1, r1], "elsewhere", set()),
            (ResistanceError, [v1, Element("R1", R, "a", "g", 0.0)], "g", {"R1"}),
            (ResistanceError, [v1, Element("R1", R, "a", "g", -5.0)], "g", {"R1"}),
        ]
        for error, elements, reference, parts in cases:
            with self.subTest(error.__name__), self.assertRaises(error) as caught:
                solve(elements, reference)
            self.assertEqual(set(caught.exception.parts), parts)
            for part in parts:
                self.assertIn(part, str(caught.exception))
        with self.assertRaises(UnknownNodeError):
            solve([v1, r1], "g").voltage("a", "nowhere")
        with self.assertRaises(NetworkError):
            solve([Element("V1", V, "a", "g", float("inf")), r1], "g")

    def test_sources_in_parallel_with_internal_resistance_are_no_loop(self) -> None:
        solution = solve(
            [Element("V1", V, "a", "g", 5, 1.0), Element("V2", V, "a", "g", 5, 1.0), Element("R1", R, "a", "g", 4.5)],
            "g",
        )
        self.assertAlmostEqual(float(solution.current("V1")), 0.5)


class OpenCircuits(TestCase):
    def test_the_voltmeter_finds_the_open(self) -> None:
        """Across the open of an otherwise closed loop the whole source voltage, across its other parts none."""
        loop = [Element("V1", V, "top", "g", 9), Element("R1", R, "top", "a", 1e3), Element("R2", R, "b", "g", 1e3)]
        solution = solve(loop, "g")
        self.assertAlmostEqual(float(solution.voltage("a", "b")), 9.0)
        self.assertAlmostEqual(float(solution.voltage("top", "a")), 0.0)
        self.assertAlmostEqual(float(solution.current("R1")), 0.0)

    def test_islands_have_voltages_within_themselves_only(self) -> None:
        solution = solve(
            [Element("R1", R, "a", "g", 1e3), Element("V2", V, "x", "y", 3), Element("R2", R, "x", "y", 10)], "g"
        )
        with self.assertRaises(NotJoinedError):
            solution.voltage("x", "g")
        self.assertAlmostEqual(float(solution.voltage("x", "y")), 3.0)

    def test_ohmmeter(self) -> None:
        parts = [
            Element("R1", R, "a", "b", 6.79e3),
            Element("R2", R, "a", "b", 11.92e3),
            Element("R3", R, "a", "b", 8.18e3),
        ]
        # Common practice, no source: three resistors in parallel that together read 2.83k on a bench meter.
        self.assertAlmostEqual(seen(parts, "a", "b"), 2.83e3, delta=10)
        self.assertIsNone(seen([*parts, Element("R4", R, "c", "d", 1)], "a", "c"))
