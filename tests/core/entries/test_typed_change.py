"""Changes of the circuit as they are typed at the bench."""

from unittest import TestCase

from recensor.core.circuit import node_list, one_line
from recensor.core.editing import edits
from recensor.core.entries import PlaceError, place, typed_change
from recensor.core.quantity import VOLTAGE, QuantityError, parse

SHEET = one_line.read("9V battery: 1k + (2k2 | rheostat 1k set 470) + switch")
SETUP = SHEET.setup()


class Typed(TestCase):
    def test_what_each_means(self) -> None:
        for text, kind, part, what in [
            ("R2=500", "exchange", "R2", "500"),
            ("r2 = 1k 1%", "exchange", "R2", "1k 1%"),
            ("R2 open", "out", "R2", ""),
            ("R2 out", "out", "R2", ""),
            ("R2=wire", "short", "R2", ""),
            ("R2 Short", "short", "R2", ""),
            ("S1 open", "open", "S1", ""),
            ("S1 out", "out", "S1", ""),
            ("s1 closed", "close", "S1", ""),
            ("V1=6.2", "set", "V1", "6.2"),
            ("V1 off", "off", "V1", ""),
            ("RV1=300", "set", "RV1", "300"),
            ("R9 1k || R2", "parallel", "R2", "R9=1k"),
            ("R2 // 1k", "parallel", "R2", "1k"),
            ("1k ∥ R1", "parallel", "R1", "1k"),
            ("R9=4k7 5% + R1", "series", "R1", "R9=4k7 5%"),
            ("lamp 6V 50mA | R1", "parallel", "R1", "lamp 6V 50mA"),
        ]:
            with self.subTest(text):
                change = typed_change(text, SHEET, SETUP)
                self.assertEqual((change.kind.value, change.part, change.what), (kind, part, what))
                self.assertIn(part, change.words)

    def test_a_potentiometer_is_set_by_its_lower_part(self) -> None:
        sheet = one_line.read("9V: pot 10k at 3k")
        change = typed_change("p1 = 4k", sheet, sheet.setup())
        self.assertEqual((change.kind.value, change.part, change.what), ("set", "P1b", "4k"))
        for half, other in (("P1b", "P1a"), ("P1a", "P1b")):  # what one is not, the other is
            changed = edits.set_value(sheet, "main", half, parse("4k", "Ω"))
            values = changed.setup().values
            self.assertEqual((float(values[half]), float(values[other])), (4000, 6000))
        with self.assertRaisesRegex(QuantityError, "between nothing and the whole 10k"):
            edits.set_value(sheet, "main", "P1b", parse("11k", "Ω"))

    def test_a_place_is_none_and_what_fits_nothing_is_told(self) -> None:
        for text in ("A", "A B", "A,B", "R1", "R1.2", "R2 banana", "", "banana open"):
            self.assertIsNone(typed_change(text, SHEET, SETUP), text)
        for text, said in [
            ("R7=500", "no part R7"),
            ("R1 | R2", "R2 and R1 are both in the circuit"),
            ("1k | 2k", "Neither 1k nor 2k"),
        ]:
            with self.assertRaisesRegex(PlaceError, said):
                typed_change(text, SHEET, SETUP)

    def test_what_would_be_both_is_neither_until_it_is_written_so_that_it_can_only_be_one(self) -> None:
        sheet = node_list.read("V1 B out 9V\nB B out 1k resistor\nR2 B out 2k")
        with self.assertRaisesRegex(PlaceError, "Write “B, out” for the nodes, “B=out” for the change"):
            typed_change("B out", sheet, sheet.setup())
        self.assertIsNone(typed_change("B, out", sheet, sheet.setup()))
        self.assertEqual(place("B, out", sheet, sheet.setup(), VOLTAGE).nodes, ("B", "out"))
        self.assertEqual(typed_change("B=out", sheet, sheet.setup()).kind.value, "out")
