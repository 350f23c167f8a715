"""SPICE netlists in and out."""

from unittest import TestCase

from hypothesis import given

from recensor.core.circuit import node_list, one_line
from recensor.formats import spice
from tests.strategies import planar_lists


class Netlists(TestCase):
    @given(planar_lists())
    def test_what_was_written_is_read_back_digits_and_all(self, text: str) -> None:
        run = node_list.read(text, "Bridge of the sensor")
        self.assertEqual(spice.read(spice.write(run, run.setups["main"])).sheet, run)

    def test_remarks_that_no_longer_fit_are_not_believed(self) -> None:
        run = one_line.read("9V: 1k + 2k2; 5%")
        netlist = spice.write(run, run.setups["main"])
        self.assertIn("*@ R2 B gnd 2k2 5%", netlist)
        changed = spice.read(netlist.replace("R2 n2 0 2200.0", "R2 n2 0 3300.0")).sheet
        self.assertEqual(float(changed.parts["R2"].nominal), 3300)
        self.assertIsNone(changed.parts["R2"].tolerance)
        with self.assertRaisesRegex(ValueError, "R1 has no value"):
            unmarked = one_line.read("9V: ? + 1k")
            spice.write(unmarked, unmarked.setups["main"])

    def test_what_other_programs_write(self) -> None:
        netlist = """Bridge, drawn elsewhere
* a remark
V1 top 0 DC 9 ; the battery
R1 top left 1k
R2 top right 2.2K
R3 left 0
+ 4.7MEG
R4 right 0 470ohm $ trimmed
I1 0 left 1m
R5 left right 1e3
.op
.end
R6 this is not read
"""
        imported = spice.read(netlist)
        run = imported.sheet
        self.assertEqual(run.title, "Bridge, drawn elsewhere")
        self.assertEqual([float(part.nominal) for part in run.parts.values()], [9, 1000, 2200, 4.7e6, 470, 0.001, 1000])
        self.assertEqual(run.setups["main"].connections["I1"], ("left", "0"))  # SPICE's current leaves its second node
        self.assertEqual(imported.passed_over, ("line 11: .op",))

    def test_what_is_not_taken_is_named_with_its_line(self) -> None:
        for line, said in [
            ("C1 a 0 1u", "Line 3: C1 is a capacitor"),
            ("X1 a 0 amp", "a subcircuit"),
            ("V2 a 0 SIN(0 1 50)", "one DC value only"),
            ("V2 a 0 AC 1", "one DC value only"),
            ("R2 a 0 tc=1", "is no value"),
            ("R2 a 0 -5", "not above zero"),
            ("R2 a a 5", "Both leads"),
            ("R1 a 0 5", "two parts named R1"),
            ("R2 a 0", "needs two nodes and a value"),
            ("R2 a 0 1e99", "out of all range"),
            (".include x.lib", ".include is not taken"),
            ("%&!", "is not understood"),
        ]:
            with self.assertRaises(spice.NetlistError, msg=line) as caught:
                spice.read(f"t\nR1 a 0 1k\n{line}\n")
            self.assertIn(said, str(caught.exception))
        for text in ("", "t", "t\n+ 5", "t\nR1 a b 1k", "t\n" + "".join(f"R{k} a 0 1k\n" for k in range(10_000)),
                     "x" * 300_000):  # fmt: skip
            with self.assertRaises(spice.NetlistError):
                spice.read(text)
