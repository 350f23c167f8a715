"""What a zero, or an open, can be here: what to look at first, and the points to walk through."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, Through, asking_everything, one_line
from recensor.core.entries import ZeroSearch, zero_search
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run

SHEET = asking_everything(one_line.read("9V: 1k + 2k + (3k | 6k); 5%"))
BC, CG = Across(VOLTAGE, ("B", "C"), "main"), Across(VOLTAGE, ("C", "gnd"), "main")
TOTAL, AMPS = Across(RESISTANCE, ("A", "gnd"), "main"), Through("V1", "main")


def searched(*entries: tuple, sheet=SHEET, sealed: bool = False) -> ZeroSearch | None:
    readings = tuple(Reading(target, parse(text, target.unit)) for target, text in entries)
    return zero_search(Run(sheet, readings), readings[-1], sealed=sealed)


class Searched(TestCase):
    def test_black_stays_at_minus_and_red_walks_from_plus_past_every_part(self) -> None:
        found = searched((BC, "0.00"))
        self.assertEqual(found.black, "gnd")
        # By hand: 9 V over 1k + 2k + 2k.
        self.assertEqual([(step.node, step.behind, step.expected) for step in found.walk],
                         [("A", (), "9.000 V"), ("B", ("R1",), "7.200 V"), ("C", ("R2",), "3.600 V")])  # fmt: skip
        self.assertEqual(found.walk[1].target, Across(VOLTAGE, ("B", "gnd"), "main"))
        self.assertIn("output", found.looks[0])
        self.assertNotIn("output", " ".join(searched((CG, "3.61"), (BC, "0.00")).looks))  # something was on

    def test_amperes_ask_for_dial_jack_and_fuse_unless_it_has_just_been_proved(self) -> None:
        looks = " ".join(searched((CG, "3.61"), (AMPS, "0.00m")).looks)
        self.assertRegex(looks, "Dial on A DC.*blown fuse behind the mA jack.*Both probes in one row")
        looks = " ".join(searched((CG, "3.61"), (Through("R3", "main"), "1.2m"), (AMPS, "0.00m")).looks)
        self.assertIn("The fuse is good", looks)
        self.assertNotIn("blown", looks)

    def test_an_open_total_is_walked_through_on_the_ohmmeter(self) -> None:
        found = searched((TOTAL, "OL"))
        self.assertEqual([(step.node, step.expected) for step in found.walk],
                         [("A", "5.000 kΩ"), ("B", "4.000 kΩ"), ("C", "2.000 kΩ")])  # fmt: skip
        self.assertIs(found.walk[0].target.measurand, RESISTANCE)

    def test_where_nothing_is_expected_or_something_shows_there_is_nothing_to_look_for(self) -> None:
        for found in (
            searched((BC, "3.60")), searched((PartAlone("R1", RESISTANCE), "OL")), searched((BC, "OL")),
            searched((Through("V1", "main"), "0.0")),  # below one digit of that range
        ):  # fmt: skip
            self.assertIsNone(found)

    def test_a_sealed_run_is_told_no_number(self) -> None:
        found = searched((BC, "0.00"), sheet=replace(SHEET, sealed=True), sealed=True)
        self.assertEqual({step.expected for step in found.walk}, {""})
