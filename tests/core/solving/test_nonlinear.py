"""Lamps and diodes in a circuit: the operating point, its slopes, and the ways a person finds it."""

import random
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import (
    CURRENT_SOURCE,
    DIODE,
    LAMP,
    LED,
    RESISTOR,
    SWITCH,
    VOLTAGE_SOURCE,
    WIRE,
    Across,
    Through,
    one_line,
)
from recensor.core.quantity import VOLTAGE
from recensor.core.solving import (
    LAWS,
    CurrentSourceOpenError,
    Element,
    Filament,
    Network,
    NetworkError,
    NothingLimitsError,
    NotSettledError,
    Rated,
    Solution,
    SourceLoopError,
    dead,
    guesses,
    load_line,
    operate,
    solve,
)
from recensor.core.solving.laws import NonlinearLaw
from tests.samples import samples

RATED = {
    LAMP: ((2.5, Rated(0.3)), (6.0, Rated(0.05, 12.0)), (12.0, Rated(0.02))),
    DIODE: ((0.3, Rated(1e-3)), (0.7, Rated(0.01)), (0.6, Rated(1.0))),
    LED: ((1.9, Rated(0.01)), (3.2, Rated(0.02))),
}


def drawn(draw: random.Random) -> list[Element]:
    """A joined circuit of two to six nodes with up to six lamps and diodes, each either way round."""
    nodes = draw.randint(2, 6)
    pairs = [(f"n{k}", f"n{draw.randint(0, k - 1)}") for k in range(1, nodes)]
    pairs += [tuple(f"n{k}" for k in draw.sample(range(nodes), 2)) for _ in range(draw.randint(0, 4))]
    found, curved = [], 0
    for k, (a, b) in enumerate(pairs):
        if curved < 6 and draw.random() < 0.5:
            curved += 1
            kind = draw.choice([LAMP, DIODE, LED])
            volts, rated = draw.choice(RATED[kind])
            found.append(Element(f"X{k}", kind, *draw.sample([a, b], 2), volts, 0.0, rated))
        else:
            found.append(Element(f"X{k}", RESISTOR, a, b, 10 ** draw.uniform(0.5, 5.5)))
    found.append(Element("V1", VOLTAGE_SOURCE, "n1", "n0", draw.uniform(-24, 24), draw.choice([0.0, 0.4, 1.0])))
    if draw.random() < 0.3:
        found.append(Element("I1", CURRENT_SOURCE, f"n{nodes - 1}", "n0", draw.uniform(-0.05, 0.05), 1e4))
    return found


def left_at_nodes(elements: list[Element], solution: Solution) -> float:
    """The largest sum of currents at any node, as a share of the largest current."""
    sums: dict[str, float] = {}
    largest = 1e-6  # below a microampere nobody reads anything
    for element in elements:
        current = float(solution.current(element.name)) * (-1.0 if element.kind.is_source else 1.0)
        largest = max(largest, abs(current))
        sums[element.first] = sums.get(element.first, 0.0) - current
        sums[element.second] = sums.get(element.second, 0.0) + current
    return max(map(abs, sums.values())) / largest


class OperatingPoints(TestCase):
    def test_any_circuits_come_to_rest(self) -> None:
        """Every one has an operating point at which currents add up, or is refused with the parts named."""
        draw, settled = random.Random(1949), 0
        for trial in range(samples(300, 1200)):
            elements = drawn(draw)
            try:
                solution = solve(elements, "n0")
            except (NothingLimitsError, CurrentSourceOpenError) as error:
                self.assertTrue(error.parts)
                continue
            settled += 1
            with self.subTest(trial=trial):
                self.assertLess(left_at_nodes(elements, solution), 1e-7)
        self.assertGreaterEqual(settled, samples(250, 1000))

    def test_slopes_are_finite_differences(self) -> None:
        """The adjoints hold at the operating point: against the central difference of two solutions."""
        draw, checked = random.Random(7), 0
        for _ in range(samples(20, 60)):
            elements = drawn(draw)
            asked = [Across(VOLTAGE, ("n1", "n0"), ""), *(Through(e.name, "") for e in elements[:3])]
            try:
                solution = Network(elements, "n0").solve(asked=asked)
                for k, element in enumerate(elements):
                    step = 1e-5 * (abs(element.value) or 1.0)
                    ends = []
                    for sign in (1.0, -1.0):
                        moved = [e._replace(value=e.value + sign * step) if e is element else e for e in elements]
                        ends.append([float(solve(moved, "n0").answer(one)) for one in asked])
                    for row, (high, low) in enumerate(zip(*ends, strict=True)):
                        found = (high - low) / (2.0 * step)
                        noise = 1e-11 * (abs(high) + abs(low) + 1e-3) / step
                        self.assertLess(abs(solution.slopes[row, k] - found), 2e-3 * abs(found) + noise)
                        checked += 1
            except NetworkError:
                continue
        self.assertGreater(checked, samples(150, 500))

    def test_many_value_sets_at_once_are_each_alone(self) -> None:
        draw = random.Random(11)
        for _ in range(20):
            elements = drawn(draw)
            network = Network(elements, "n0")
            factors = np.random.default_rng(3).uniform(0.9, 1.1, (5, len(elements)))
            values = np.array([e.value for e in elements]) * factors
            try:
                together = np.asarray(network.solve(values).voltage("n1", "n0"))
                alone = [float(network.solve(row).voltage("n1", "n0")) for row in values]
            except NetworkError:
                continue
            np.testing.assert_allclose(together, alone, rtol=1e-9, atol=1e-12)


class Laws(TestCase):
    @given(st.sampled_from([LAMP, DIODE, LED]), st.floats(-5.0, 5.0))
    def test_a_tangent_is_the_slope_of_its_law(self, kind, share: float) -> None:
        law, (value, rated) = LAWS[kind], RATED[kind][1]
        assert isinstance(law, NonlinearLaw)
        drop, step = share * value / 5.0, 1e-6 * value
        here = law.at(rated, value, drop)
        for by, ends in (
            (here.siemens, [law.at(rated, value, drop + s * step).amperes for s in (1, -1)]),
            (here.by_value, [law.at(rated, value + s * step, drop).amperes for s in (1, -1)]),
        ):
            found = (float(ends[0]) - float(ends[1])) / (2 * step)
            self.assertAlmostEqual(float(by), found, delta=1e-4 * abs(found) + 1e-9)
        self.assertGreater(float(here.siemens), 0.0)

    def test_each_is_what_it_is_stated_to_be(self) -> None:
        """At its stated voltage it carries its stated current; a lamp's first millivolts meet its cold resistance."""
        for kind, stated in RATED.items():
            for volts, rated in stated:
                law = LAWS[kind]
                assert isinstance(law, NonlinearLaw)
                self.assertAlmostEqual(float(law.at(rated, volts, volts).amperes) / rated.amperes, 1.0, 9)
        lamp = LAWS[LAMP]
        assert isinstance(lamp, Filament)
        self.assertAlmostEqual(1e-4 / float(lamp.at(Rated(0.05, 12.0), 6.0, 1e-4).amperes), 12.0, 3)
        # From a glow on as the voltage to the power 0.55 (common practice, no source).
        half = float(lamp.at(Rated(0.05), 6.0, 3.0).amperes) / 0.05
        self.assertAlmostEqual(half, 0.5**0.55, 3)

    def test_a_part_that_nobody_described_resists(self) -> None:
        unknown = [Element("V1", VOLTAGE_SOURCE, "a", "g", 6.0), Element("L1", LAMP, "a", "g", 300.0)]
        self.assertAlmostEqual(float(solve(unknown, "g").current("L1")), 0.02)

    def test_wires_and_switches(self) -> None:
        """Nothing lies across a wire, and its current is positive from its first lead to its second."""
        elements = [
            Element("V1", VOLTAGE_SOURCE, "a", "g", 9.0),
            Element("S1", SWITCH, "a", "b", 0.0),
            Element("R1", RESISTOR, "b", "g", 900.0),
        ]
        solution = Network(elements, "g").solve(asked=[Through("S1", "")])
        self.assertAlmostEqual(float(solution.current("S1")), 0.01)
        self.assertEqual(float(solution.drop("S1")), 0.0)
        self.assertAlmostEqual(solution.sensitivities(Through("S1", ""))["V1"], 1 / 900.0)
        with self.assertRaises(SourceLoopError):
            solve([*elements, Element("W1", WIRE, "a", "b", 0.0)], "g")


class Refusals(TestCase):
    def test_a_diode_with_nothing_beside_it(self) -> None:
        sheet = one_line.read("9V: led 1.9V 10mA")
        problem = operate(sheet, sheet.setup()).problem
        self.assertIsInstance(problem, NothingLimitsError)
        self.assertEqual(problem and problem.parts, ("LED1",))
        self.assertIn("put a resistor in its way", str(problem))

    def test_a_current_against_a_diode(self) -> None:
        elements = [
            Element("I1", CURRENT_SOURCE, "a", "g", 0.01),
            Element("D1", DIODE, "g", "a", 0.7, 0.0, Rated(0.01)),
        ]
        with self.assertRaisesRegex(NotSettledError, "D1 blocks"):
            solve(elements, "g")


class ByHand(TestCase):
    def test_both_ways_meet_at_the_operating_point(self) -> None:
        """Where the load line meets the curve, and what guessing again and again comes to, is what the network says."""
        for line in ("5V: 330 + led 1.9V 10mA", "9V: 47 + lamp 6V 50mA", "12V: 1k + (2k2 | 100 + diode 0.7V 10mA)"):
            sheet = one_line.read(line)
            elements = operate(sheet, sheet.setup()).elements
            drawn_line = load_line(elements, "gnd")
            assert drawn_line is not None
            with self.subTest(line=line):
                on_line = (drawn_line.volts - drawn_line.at_volts) / drawn_line.ohms
                self.assertAlmostEqual(on_line / drawn_line.at_amperes, 1.0, 6)
                *_, (last,) = guesses(elements, "gnd")
                self.assertAlmostEqual(last.amperes / drawn_line.at_amperes, 1.0, 2)
                self.assertTrue(all(abs(i) <= 1.16 * drawn_line.shorted for _, i in drawn_line.curve))

    def test_a_blocked_diode_is_found_by_guessing(self) -> None:
        sheet = one_line.read("5V: 330 + led 1.9V 10mA")
        elements = [
            e._replace(first=e.second, second=e.first) if e.name == "LED1" else e
            for e in operate(sheet, sheet.setup()).elements
        ]
        *_, (last,) = guesses(elements, "gnd")
        self.assertAlmostEqual(last.amperes, 0.0, 6)

    def test_an_ohmmeter_meets_a_lamp_cold(self) -> None:
        sheet = one_line.read("6V: 10 + lamp 6V 50mA cold 12")
        lamp = next(e for e in dead(sheet.setup(), sheet.parts, {"R1": 10.0, "L1": 6.0}) if e.name == "L1")
        self.assertEqual((lamp.kind, lamp.value), (RESISTOR, 12.0))
