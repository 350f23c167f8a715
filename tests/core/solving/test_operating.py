"""A setup with values, solved: islands, stand-ins, and what is zero beside what drives."""

from unittest import TestCase

from hypothesis import given

from recensor.core.circuit import node_list, one_line
from recensor.core.solving import UnmarkedError, dead, operate, resistance_between, stated
from tests.strategies import planar_lists

# R1 is fed by the voltage source; I1 and I2 drive R2 on an island of their own.
ISLAND = "V1 A gnd 9V\nR1 A gnd 1k\nI1 B C 1mA\nR2 C B 2k"


class Operated(TestCase):
    def test_a_part_on_an_island_of_current_sources_has_a_drop_of_its_own(self) -> None:
        sheet = node_list.read(ISLAND)
        parts = operate(sheet, sheet.setup()).parts
        self.assertAlmostEqual(parts["R2"].volts, -2.0)
        self.assertAlmostEqual(parts["R1"].amperes, 9e-3)
        hung = node_list.read("V1 A gnd 9V\nR1 A gnd 1k\nI1 B gnd 1mA\nI2 gnd B 1mA")
        self.assertEqual(set(operate(hung, hung.setup()).parts), {"V1", "R1", "I1", "I2"})

    def test_why_there_is_no_solution(self) -> None:
        sheet = one_line.read("9V: ? + 1k + ?")
        problem = operate(sheet, sheet.setup()).problem
        self.assertIsInstance(problem, UnmarkedError)
        self.assertEqual(problem.parts, ("R1", "R3"))

    def test_no_two_unknown_values_stand_in_alike(self) -> None:
        """Equal ones would balance a bridge by accident."""
        sheet = one_line.read("9V: ? + ? + ? + ? + 1k")
        filled = stated(sheet, sheet.setup()).filled()
        self.assertEqual(len(set(filled.values())), len(filled))

    def test_a_balanced_bridge_and_a_dangling_source_carry_nothing(self) -> None:
        bridge = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 2k\nR3 B gnd 1k\nR4 C gnd 2k\nR5 B C 5k6")
        operating = operate(bridge, bridge.setup())
        self.assertEqual([name for name in operating.parts if not operating.carries(name)], ["R5"])
        dangling = node_list.read("R0 gnd n10 1k\nR1 gnd n01 1k\nR2 n10 n11 1k\nR3 n01 n11 1k\nV0 n11 n12 9V")
        operating = operate(dangling, dangling.setup())
        self.assertFalse(any(operating.carries(name) for name in operating.parts))

    @given(planar_lists())
    def test_all_resistances_at_once_are_the_single_ones(self, text: str) -> None:
        sheet = node_list.read(text)
        setup = sheet.setup()
        passive = dead(setup, sheet.parts, stated(sheet, setup).known)
        pairs = list(setup.connections.values())
        together = resistance_between(passive, pairs)
        for pair, found in zip(pairs, together, strict=True):
            (alone,) = resistance_between(passive, [pair])
            self.assertEqual(found is None, alone is None)
            if found and alone:
                self.assertAlmostEqual(found[0] / alone[0], 1.0, places=9)
                self.assertEqual(found[1].keys(), alone[1].keys())
