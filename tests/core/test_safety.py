"""Power and voltage at worst: corners against brute force, and the edges that a bench meets."""

from dataclasses import replace
from itertools import product
from unittest import TestCase

from hypothesis import assume, given, settings

from recensor.core.circuit import Setup, Sheet, loops, node_list, one_line
from recensor.core.quantity import as_ratio, parse
from recensor.core.safety import Caution, caution, dissipations, largest_voltage, unbounded
from recensor.core.solving import operate
from tests.strategies import planar_lists


def by_brute_force(sheet: Sheet) -> dict[str, float]:
    """The most power of each resistor at every corner of every source and part, closed and with each branch opened."""
    setup, worst = sheet.setup(), {}
    nominal = {name: float(part.nominal) for name, part in sheet.parts.items()}
    loose = [name for name, part in sheet.parts.items() if part.tolerance]
    circuits = [setup]
    for branch in loops.branches(setup.connections):
        left = {name: leads for name, leads in setup.connections.items() if name != branch.passages[0].part}
        circuits.append(Setup("opened", setup.reference, left))
    for circuit in circuits:
        for signs in product((-1, 1), repeat=len(loose)):
            moved = {name: nominal[name] * (1 + sign * as_ratio(sheet.parts[name].tolerance))
                     for name, sign in zip(loose, signs, strict=True)}  # fmt: skip
            here = operate(sheet, circuit, {**nominal, **moved})
            for name, state in here.parts.items():
                if not sheet.parts[name].kind.is_source:
                    worst[name] = max(worst.get(name, 0.0), abs(state.watts))
    return worst


class Corners(TestCase):
    @settings(max_examples=25)
    @given(planar_lists())
    def test_the_worst_is_that_of_every_corner(self, text: str) -> None:
        """With tolerances on the first five parts and all sources."""
        sheet = node_list.read(text.replace("?", "1k"))
        parts = {
            name: replace(part, tolerance=parse("5 %") if part.kind.is_source or k < 5 else None)
            for k, (name, part) in enumerate(sheet.parts.items())
        }
        sheet = replace(sheet, parts=parts)
        assume(not operate(sheet, sheet.setup()).problem)
        expected = by_brute_force(sheet)
        for taken in dissipations(sheet):
            self.assertAlmostEqual(taken.power, expected[taken.part], delta=1e-9 + 1e-6 * expected[taken.part])

    def test_two_sources_against_each_other(self) -> None:
        """A battery and a regulator over one resistor: the difference of 3 V may be 5.1 V."""
        sheet = node_list.read("V1 a gnd 12V 10%\nV2 b gnd 9V 10%\nR1 a b 47")
        (taken,) = dissipations(sheet)
        self.assertAlmostEqual(taken.power, (13.2 - 8.1) ** 2 / 47)
        self.assertTrue(taken.is_over)
        (loose,) = dissipations(node_list.read("V1 a gnd 12V 10%\nV2 b gnd 9V 10%\nR1 a b 47 5%"))
        self.assertAlmostEqual(loose.power, (13.2 - 8.1) ** 2 / (47 * 0.95))

    def test_beyond_twelve_parts_the_slopes_point_to_the_worst(self) -> None:
        """A chain of fourteen: each part takes the most where it is high and the others are low."""
        sheet = one_line.read("20V: " + " + ".join(["100"] * 14) + "; 10%")
        powers = [taken.power for taken in dissipations(sheet)]
        self.assertAlmostEqual(powers[0], (20 / (13 * 90 + 110)) ** 2 * 110)
        self.assertAlmostEqual(min(powers), max(powers))

    def test_a_branch_opened_for_a_current_may_load_the_rest(self) -> None:
        """Without the branch beside it R2 takes the whole source."""
        sheet = node_list.read("V1 a gnd 10V\nR1 a b 100\nR2 b gnd 100\nR3 b gnd 10")
        powers = {taken.part: taken.power for taken in dissipations(sheet)}
        self.assertAlmostEqual(powers["R2"], (10 / 200) ** 2 * 100)


class Known(TestCase):
    def test_beside_unmarked_parts_only_what_lies_straight_across_a_source_is_known(self) -> None:
        sheet = node_list.read("V1 a gnd 9V 10%\nR1 a gnd 100 5%\nR2 a b ?\nR3 b gnd 1k")
        powers = {taken.part: taken for taken in dissipations(sheet)}
        self.assertAlmostEqual(powers["R1"].power, 9.9**2 / 95)
        self.assertTrue(powers["R1"].is_over)
        self.assertEqual((powers["R2"].power, powers["R3"].power, powers["R3"].is_over), (None, None, False))
        self.assertTrue(all(taken.power for taken in dissipations(sheet, {"R2": 1000.0})))

    def test_a_current_source_is_bounded_by_what_is_stated(self) -> None:
        plain = "I1 a gnd 10mA internal 1M\nR1 a gnd 1k"
        sheet = node_list.read(plain)
        self.assertEqual((unbounded(sheet), caution(sheet)), (["I1"], Caution.PAPER_ONLY))
        stated = node_list.read(plain.replace("internal 1M", "internal 1M compliance 24V"))
        self.assertEqual((unbounded(stated), caution(stated)), ([], Caution.NONE))
        self.assertAlmostEqual(largest_voltage(stated), 24.0)
        self.assertEqual(caution(node_list.read(plain.replace("internal 1M", "compliance 48V"))), Caution.WARNING)

    def test_what_stands_across_an_opened_branch_counts(self) -> None:
        """Two sources that oppose each other by one end: opened between them, they add to 40 V against each other."""
        sheet = node_list.read("V1 a gnd 20V\nV2 gnd b 20V\nR1 a c 1k\nR2 c b 1k")
        self.assertAlmostEqual(largest_voltage(sheet), 40.0)
        self.assertEqual(caution(sheet), Caution.WARNING)
