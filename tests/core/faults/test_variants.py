"""Many variants of one circuit: each as if it were solved by itself, and every slope against finite differences."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import RESISTOR, VOLTAGE_SOURCE, Across, Through
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.solving import OPEN_OHMS, Element, MovedLead, Variants, resistance_between, solve, with_meter

OHMS = st.floats(10.0, 1e5)


def bridge(ohms: list[float], volts: float, inside: float) -> list[Element]:
    """A bridge with a source that has something inside."""
    joints = [("a", "b"), ("a", "c"), ("b", "g"), ("c", "g"), ("b", "c")]
    resistors = [
        Element(f"R{k}", RESISTOR, *ends, value) for k, (ends, value) in enumerate(zip(joints, ohms, strict=True), 1)
    ]
    return [Element("V1", VOLTAGE_SOURCE, "a", "g", volts, inside), *resistors]


ASKED = [Across(VOLTAGE, ("a", "b"), "s"), Across(VOLTAGE, ("b", "c"), "s"), Through("R5", "s"), Through("V1", "s")]


def columns(elements: list[Element]) -> tuple[np.ndarray, np.ndarray]:
    """Values and what is inside, as one variant."""
    return np.array([[e.value for e in elements]]), np.array([[e.internal for e in elements]])


class EveryVariant(TestCase):
    @given(st.lists(OHMS, min_size=5, max_size=5), st.floats(1.0, 20.0), st.floats(0.1, 100.0))
    @settings(max_examples=30, deadline=None)
    def test_answers_and_slopes_are_those_of_the_circuit_by_itself(
        self, ohms: list[float], volts: float, inside: float
    ) -> None:
        elements = bridge(ohms, volts, inside)
        variants = Variants(elements, "g", ASKED)
        values, inner = columns(elements)
        found, alone = variants.respond(values, inner), solve(elements, "g", ASKED)
        for k, asked in enumerate(ASKED):
            scale = volts if isinstance(asked, Across) else volts / min(ohms)
            self.assertAlmostEqual(float(found.answers[0, k]) / scale, float(alone.answer(asked)) / scale, places=5)
        np.testing.assert_allclose(
            found.by_value[0] / volts, alone.slopes * values[0] / volts, atol=1e-6 * max(1.0, 1.0 / min(ohms))
        )
        step = 1e-5
        more = variants.respond(values, inner * (1 + step))
        np.testing.assert_allclose((more.answers - found.answers)[0] / step, found.by_inner[0, :, 0], atol=1e-4 * volts)

    @given(st.lists(OHMS, min_size=5, max_size=5), st.floats(1.0, 1e4))
    @settings(max_examples=20, deadline=None)
    def test_what_a_meter_meets_is_what_it_does_to_the_circuit(self, ohms: list[float], meter: float) -> None:
        """Thévenin: the voltage falls by R_seen / R_meter, the current by R_meter · G_seen; exactly."""
        elements = bridge(ohms, 9.0, 0.0)
        found = Variants(elements, "g", ASKED).respond(*columns(elements))
        for k, asked in enumerate(ASKED[:3]):
            put_in = meter if isinstance(asked, Through) else 1.0 / (meter * 100.0)
            drawn = with_meter(elements, asked, meter if isinstance(asked, Through) else meter * 100.0)
            exactly = float(solve(drawn, "g").answer(asked))
            told = float(found.answers[0, k]) / (1.0 + put_in * float(found.meets[0, k]))
            self.assertAlmostEqual(told, exactly, delta=1e-6 * 9.0)

    def test_a_lead_in_an_empty_row_opens_the_part_and_one_elsewhere_joins_it_there(self) -> None:
        elements = bridge([100.0, 220.0, 330.0, 470.0, 1000.0], 9.0, 0.0)
        values, inner = columns(elements)
        moved = [MovedLead(0, "R5", 1, None), MovedLead(1, "R5", 1, "g")]
        found = Variants(elements, "g", ASKED).respond(np.repeat(values, 2, 0), np.repeat(inner, 2, 0), moved)
        without = [e for e in elements if e.name != "R5"]
        there = [e._replace(second="g") if e.name == "R5" else e for e in elements]
        for h, circuit in enumerate((without, there)):
            solved = solve(circuit, "g")
            for k, asked in enumerate(ASKED[:2]):
                self.assertAlmostEqual(float(found.answers[h, k]), float(solved.answer(asked)), places=5)
        self.assertAlmostEqual(float(found.answers[0, 2]), 0.0, places=9)

    def test_resistances_and_their_slopes(self) -> None:
        elements = bridge([100.0, 220.0, 330.0, 470.0, 1000.0], 9.0, 0.0)[1:]
        asked = [Across(RESISTANCE, pair, "s") for pair in (("a", "g"), ("b", "c"))]
        values, inner = columns(elements)
        found = Variants(elements, "a", asked).respond(values, inner)
        for k, one in enumerate(resistance_between(elements, [("a", "g"), ("b", "c")])):
            if one is None:
                self.fail("the bridge is closed")
            ohms, slopes = one
            self.assertAlmostEqual(float(found.answers[0, k]), ohms, places=4)
            for j, element in enumerate(elements):
                self.assertAlmostEqual(
                    float(found.by_value[0, k, j]), slopes[element.name] * element.value, delta=1e-4 * ohms
                )

    def test_an_open_is_more_than_any_meter_shows(self) -> None:
        elements = [Element("R1", RESISTOR, "a", "b", 100.0), Element("R2", RESISTOR, "c", "d", 100.0)]
        found = Variants(elements, "a", [Across(RESISTANCE, ("a", "d"), "s")]).respond(*columns(elements))
        self.assertGreater(float(found.answers[0, 0]), OPEN_OHMS)
