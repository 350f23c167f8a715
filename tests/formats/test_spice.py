"""SPICE netlists in and out."""

from unittest import TestCase

from hypothesis import given

from recensor.core.circuit import Sheet, node_list, one_line
from recensor.core.solving import operate
from recensor.formats import spice
from tests.strategies import hostile, planar_lists


class Netlists(TestCase):
    @given(hostile())
    def test_hostile_names_come_back_as_the_same_circuit(self, sheet: Sheet) -> None:
        """With the remarks the very sheet, without them a circuit in which every part does the same."""
        setup = sheet.setups["main"]
        written = spice.write(sheet, setup)
        again, listed = spice.read(written).sheet, node_list.read(node_list.write(sheet, setup), sheet.title)
        for found in (again, listed):
            self.assertEqual((found.setups["main"], list(found.parts)), (setup, list(sheet.parts)))
            for name, part in sheet.parts.items():
                self.assertEqual((found.parts[name].kind, float(found.parts[name].nominal)),
                                 (part.kind, float(part.nominal)))  # fmt: skip
        bare = spice.read("\n".join(line for line in written.splitlines() if not line.startswith("*"))).sheet
        ours, theirs = operate(sheet, setup), operate(bare, bare.setups["main"])
        if ours.problem:
            self.assertTrue(theirs.problem)
            return
        self.assertEqual(len(bare.parts), len({name.lower() for name in bare.parts}))
        written_names = iter(bare.parts)
        scale = max(abs(part.amperes) for part in ours.parts.values())
        for name, part in sheet.parts.items():
            there = next(written_names)
            if part.internal and name not in setup.sources_off:
                next(written_names)
            if not part.kind.is_source:
                self.assertAlmostEqual(
                    ours.parts[name].amperes, theirs.parts[there].amperes, delta=1e-9 * scale + 1e-15
                )

    def test_large_and_small_letters_and_gnd_are_one_on_the_way_in_and_that_is_said(self) -> None:
        imported = spice.read("t\nV1 A 0 5\nR1 a gnd 1k\nR2 A GND 1k\n.end\n")
        setup = imported.sheet.setups["main"]
        self.assertEqual(setup.connections, {"V1": ("A", "0"), "R1": ("A", "0"), "R2": ("A", "0")})
        self.assertEqual(imported.passed_over, ("a is node A", "gnd is node 0", "GND is node 0"))
        with self.assertRaisesRegex(spice.NetlistError, "Line 4: There are two parts named r1"):
            spice.read("t\nV1 A 0 5\nR1 a gnd 1k\nr1 A GND 1k\n.end\n")

    @given(planar_lists())
    def test_what_was_written_is_read_back_digits_and_all(self, text: str) -> None:
        run = node_list.read(text, "Bridge of the sensor")
        self.assertEqual(spice.read(spice.write(run, run.setups["main"])).sheet, run)

    def test_remarks_that_no_longer_fit_are_not_believed(self) -> None:
        run = one_line.read("9V: 1k + 2k2; 5%")
        netlist = spice.write(run, run.setups["main"])
        self.assertIn("*@ R2 B gnd 2k2 5%", netlist)
        changed = spice.read(netlist.replace("R2 B 0 2200.0", "R2 B 0 3300.0")).sheet
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
