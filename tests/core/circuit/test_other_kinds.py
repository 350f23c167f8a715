"""Lamps, diodes, rheostats, switches and wires in a line, in a node list, in a document and in a drawing."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings

from recensor.core.boards import LEFT, Likeness, compare, planned
from recensor.core.circuit import (
    KINDS,
    NodeListError,
    NotationError,
    asking_everything,
    node_list,
    one_line,
    read_part,
    sheet,
)
from recensor.core.circuit.kinds import kind_of_name
from recensor.core.editing import EditError, edits
from recensor.core.record import Run
from recensor.core.safety import dissipations
from recensor.drawing.board import board_view
from recensor.drawing.schematic import schematic
from recensor.formats.documents import run_document
from tests.strategies import mixed_lines


class Notation(TestCase):
    @settings(max_examples=120)
    @given(mixed_lines())
    def test_every_notation_gives_the_same_circuit(self, line: str) -> None:
        drawn = one_line.read(line)
        sheet.check(drawn)
        setup = drawn.setup()
        self.assertEqual(one_line.read(one_line.write(drawn, setup) or ""), drawn)
        self.assertEqual(node_list.read(node_list.write(drawn, setup), drawn.title), drawn)
        run = Run(asking_everything(drawn))
        self.assertEqual(run_document.read(run_document.write(run)), run)
        names = {symbol.name for symbol in schematic(drawn, setup).symbols}
        self.assertEqual(names, set(setup.connections))

    def test_names_speak_of_their_kind(self) -> None:
        for name, word in (("LED2", "led"), ("L1", "lamp"), ("lamp", "lamp"), ("RV1", "rheostat"), ("S1", "switch"),
                           ("R1'", "resistor"), ("Vane", "voltage source")):  # fmt: skip
            self.assertEqual(getattr(kind_of_name(name), "word", None), word)
        self.assertIsNone(kind_of_name("Load"))
        self.assertEqual(len({kind.letter for kind in KINDS.values()}), len(KINDS))

    def test_what_is_not_understood(self) -> None:
        for line in ("9V: lamp 6V 50mA 3", "9V: open lamp", "9V: led cold 3", "9V: wire 3", "9V: 1k set 3", "9V: foo"):
            with self.subTest(line), self.assertRaises(NotationError):
                one_line.read(line)
        for line in ("S1 a b 47", "R1 a b 1k set 5", "D1 a b 0.7V 10mA cold 2", "V1 a b 9V open"):
            with self.subTest(line), self.assertRaises(NodeListError):
                node_list.read(f"{line}\nV9 a b 9V")
        with self.assertRaisesRegex(NotationError, "is said of a setup"):
            read_part("rheostat 1k set 470")


class Edited(TestCase):
    def test_a_switch_is_turned_and_a_diode_needs_a_resistor(self) -> None:
        drawn = one_line.read("9V: 1k + (2k2 | switch + 470)")
        opened = edits.turn_switch(drawn, "main", "S1", is_open=True)
        self.assertEqual(opened.setup().open, {"S1"})
        self.assertEqual(edits.turn_switch(opened, "main", "S1", is_open=False).setup().open, frozenset())
        self.assertEqual(edits.replaced(opened, "S1", drawn.parts["S1"]).setup().open, {"S1"})
        with self.assertRaisesRegex(EditError, "no switch"):
            edits.turn_switch(drawn, "main", "R1", is_open=True)
        led = read_part("led 1.9V 10mA")
        lit = one_line.read("9V: 330 + led 1.9V 10mA")
        with self.assertRaisesRegex(EditError, "put a resistor in its way"):
            edits.remove(lit, "main", "R1")
        self.assertEqual(led.kind.word, "led")

    def test_powers_of_what_bends(self) -> None:
        """At a lamp's rated volts its rated power; a light diode with too small a resistor takes too much."""
        (lamp,) = [one for one in dissipations(one_line.read("6V: lamp 6V 50mA")) if one.part == "L1"]
        self.assertAlmostEqual(lamp.power or 0, 0.3)
        self.assertFalse(lamp.is_over)
        for ohms, is_over in (("330", False), ("47", True)):
            found = {one.part: one for one in dissipations(one_line.read(f"5V: {ohms} + led 1.9V 10mA"))}
            self.assertEqual(found["LED1"].is_over, is_over)


class OnABoard(TestCase):
    sheet = one_line.read("5V: 330 + led 1.9V 10mA")

    def test_a_planned_board_is_as_drawn_and_shows_which_lead_is_plus(self) -> None:
        built = planned(self.sheet, self.sheet.setup(), ("R1",))
        self.assertIs(compare(self.sheet, self.sheet.setup(), built).likeness, Likeness.SAME)
        view = board_view(built, self.sheet.parts, {})
        (body,) = [body for body in view.bodies if body.name == "LED1"]
        self.assertEqual((body.look, body.is_polarised), ("led", True))

    def test_the_diode_turned_round_is_said(self) -> None:
        built = planned(self.sheet, self.sheet.setup())
        placed = built.placements["LED1"]
        turned = built.take_out("LED1").put(replace(placed, holes=placed.holes[::-1]), is_rigid=True)
        found = compare(self.sheet, self.sheet.setup(), turned)
        self.assertIs(found.likeness, Likeness.DIFFERS)
        self.assertIn("LED1", found.differences[0].parts)

    def test_no_part_lies_over_another(self) -> None:
        for line in ("9V: 1k + 2k2", "5V: 330 + led 1.9V 10mA", "9V: 1k + 2k2 + 470 + 680"):
            built = planned(one_line.read(line), one_line.read(line).setup())
            rows = [p.holes for p in built.placements.values() if any(h.column in LEFT for h in p.holes)]
            flat = [{h.row for h in holes} for holes in rows if len({h.row for h in holes}) == 1]
            self.assertEqual(len(flat), len({frozenset(one) for one in flat}), line)
