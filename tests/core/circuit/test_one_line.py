"""Circuits as text: one line, and a node list."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given

from recensor.core.circuit import (
    CURRENT_SOURCE,
    Across,
    NotationError,
    PartAlone,
    RecordError,
    SourceType,
    asking_everything,
    node_list,
    one_line,
)
from recensor.core.circuit.sheet import check
from recensor.core.judgement import assess
from recensor.core.plan import plan
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.formats.documents import run_document
from tests.strategies import lines, planar_lists


class OneLine(TestCase):
    @given(lines())
    def test_written_back_it_is_the_same_circuit(self, line: str) -> None:
        run = one_line.read(line)
        self.assertEqual(one_line.read(one_line.write(run, run.setups["main"])), run)

    def test_what_binds_and_what_is_named(self) -> None:
        run = one_line.read("Vs=9V 2%: 1k + (2k2 | R7=3k3 1% + 470) + ?; 5 %")
        self.assertEqual(list(run.parts), ["Vs", "R1", "R2", "R7", "R4", "R5"])
        self.assertEqual(
            run.setups["main"].connections,
            {
                "Vs": ("A", "gnd"),
                "R1": ("A", "B"),
                "R2": ("B", "C"),
                "R7": ("B", "D"),
                "R4": ("D", "C"),
                "R5": ("C", "gnd"),
            },
        )
        stated = {name: part.tolerance.text if part.tolerance else None for name, part in run.parts.items()}
        self.assertEqual(stated, {"Vs": "2%", "R1": "5 %", "R2": "5 %", "R7": "1%", "R4": "5 %", "R5": None})
        self.assertIsNone(run.parts["R5"].nominal)
        self.assertIs(one_line.read("10mA: 1k | 2k").parts["I1"].kind, CURRENT_SOURCE)

    def test_errors_stand_at_their_place(self) -> None:
        for line, wrong, said in [
            ("9V: 1k + 2x2", "2x2", "not understood"),
            ("9V: 1k + (2k | 3k", "(", "not closed"),
            ("9V: 1k) + 2k", ")", "no opening one"),
            ("9V: 1k + + 2k", "+", "a resistor is missing"),
            ("9: 1k", "9", "needs its unit"),
            ("9V: -1k", "-1k", "not above zero"),
            ("9V: 1,000", "1,000", "1.000"),
            ("9V: R1=1k + R1=2k", " R1=2k", "two parts named R1"),
            ("9V: 9=1k", " 9=1k", "no name"),
            ("9V: 1k; lots", "lots", "not understood"),
            ("1k + 2k", "1k + 2k", "source before a colon"),
            ("9V: 1k battery", "1k battery", "only a source"),
            ("9V: 1k || 2x2 // 3k", "2x2", "not understood"),
            ("9V: 1k (2k)", "(", "Write + or |"),
        ]:
            with self.assertRaises(NotationError, msg=line) as caught:
                one_line.read(line)
            self.assertIn(said, str(caught.exception))
            self.assertEqual(line[caught.exception.start : caught.exception.end].strip(), wrong.strip(), line)
        for line in ("", ":", "9V:", "9V: ()", "9V: " + "(" * 500, "9V: " + "1k + " * 100 + "1k", "x" * 9999):
            with self.assertRaises(NotationError, msg=line[:20]):
                one_line.read(line)


class Sources(TestCase):
    def test_what_a_source_is_stands_behind_its_value_in_every_notation(self) -> None:
        for line, source, knob in [
            ("9V: 1k", None, False),
            ("9V cells: 1k", SourceType.BATTERY, False),
            ("9V Battery 5%: 1k", SourceType.BATTERY, False),
            ("12V pack: 1k", SourceType.PACK, False),
            ("5V supply: 1k", SourceType.SUPPLY, True),
        ]:
            sheet = one_line.read(line)
            self.assertEqual((sheet.parts["V1"].source, sheet.parts["V1"].has_knob), (source, knob), line)
            self.assertEqual(node_list.read(node_list.write(sheet, sheet.setup())).parts, sheet.parts)
            document = run_document.read(run_document.write(Run(sheet)))
            self.assertEqual(document.sheet.parts, sheet.parts)
        with self.assertRaisesRegex(RecordError, "a battery has no knob"):
            check(replace(sheet, parts={**sheet.parts, "V1": replace(sheet.parts["V1"], source=SourceType.BATTERY,
                                                                     adjustable=True)}))  # fmt: skip

    def test_other_signs_for_parallel_are_the_same_circuit(self) -> None:
        for line in ("9V: 1k || 2k", "9V: 1k//2k", "9V: 1k ∥ 2k", "9V: 1k ohm | 2 kΩ"):
            sheet = one_line.read(line)
            self.assertEqual(sheet.setup(), one_line.read("9V: 1k | 2k").setup(), line)
            self.assertEqual(float(sheet.parts["R1"].nominal), 1000)


class Potentiometers(TestCase):
    def test_one_word_of_a_line_is_both_its_parts_and_its_slider_the_node_between(self) -> None:
        for line in ("9V: pot 10k at 3k", "9V: 1k + P7=pot 10k at 3k + 470", "9V: 1k + (pot 10k at 2k5 | 2k2); 5%"):
            sheet = one_line.read(line)
            self.assertEqual(one_line.write(sheet, sheet.setup()), line)
            self.assertEqual(node_list.read(node_list.write(sheet, sheet.setup())).setup(), sheet.setup(), line)
        sheet = one_line.read("10V: pot 10k at 2k5")
        self.assertEqual(sheet.potentiometers, {"P1": ("P1a", "P1b")})
        # By hand: a quarter of 10 V at the slider; with 2.5 kΩ beside it 1.25k / 8.75k of it.
        self.assertAlmostEqual(
            assess(Run(sheet), (slider := Across(VOLTAGE, ("B", "gnd"), "main"),)).expected(slider).value, 2.5
        )
        loaded = node_list.read("V1 A gnd 10V\nP1 A B gnd pot 10k at 2k5\nR1 B gnd 2k5")
        self.assertAlmostEqual(assess(Run(loaded), (slider,)).expected(slider).value, 10 * 1.25 / 8.75)
        self.assertIsNone(one_line.write(loaded, loaded.setup()))  # its slider is joined to something else
        self.assertIn("P1 A B gnd pot 10k at 2k5", node_list.write(loaded, loaded.setup()))
        self.assertEqual([t.part for t in asking_everything(sheet).asked if t.is_part_alone], ["P1b", "V1"])

    def test_at_the_bench_it_is_one_part_whose_halves_have_no_name_of_their_own(self) -> None:
        sheet = asking_everything(one_line.read("10V: 1k + pot 10k at 2k5"))
        words = [step.words for step in plan(Run(sheet)).steps]
        self.assertIn("Red at P1.2; black at P1.3; read lower part of P1 by itself.", words)
        self.assertIn("Red at C; black at gnd; read voltage across lower part of P1.", words)
        self.assertEqual([said for said in words if "P1a" in said or "P1b" in said], [])

    def test_both_its_parts_follow_one_reading(self) -> None:
        sheet = asking_everything(one_line.read("10V: pot 10k at 2k5"))
        reading = Reading(PartAlone("P1b", RESISTANCE), parse("2.60k", "Ω"))
        slider = Across(VOLTAGE, ("B", "gnd"), "main")
        self.assertAlmostEqual(assess(Run(sheet, (reading,)), (slider,)).expected(slider).value, 2.6)

    def test_what_is_wrong_is_said(self) -> None:
        for line in ("9V: pot 10k at 12k", "9V: pot 10k at 0", "9V: pot 10k at", "9V: P1=pot 1k at 1 + P1=pot 1k at 1"):
            with self.assertRaises(NotationError, msg=line):
                one_line.read(line)
        for text in (
            "P1 A A gnd pot 10k at 3k",
            "P1 A W gnd pot 10k at 30k",
            "P1 A W gnd pot 1k at 1\nP1a A W 1k resistor",
        ):
            with self.assertRaises(node_list.NodeListError, msg=text):
                node_list.read(text)


class Written(TestCase):
    def test_names_that_no_line_can_say_leave_the_circuit_without_one(self) -> None:
        sheet = node_list.read('V1 A gnd 9V\n"Load 1" A gnd 470 resistor')
        self.assertIsNone(one_line.write(sheet, sheet.setup()))


class NodeList(TestCase):
    @given(planar_lists())
    def test_written_back_it_is_the_same_circuit(self, text: str) -> None:
        run = node_list.read(text)
        self.assertEqual(node_list.read(node_list.write(run, run.setups["main"])), run)

    def test_what_a_line_may_say(self) -> None:
        run = node_list.read(
            "# a remark\nV1 A gnd 9V 2% internal 0.4 # the battery\n\nR1 A b 4k7 5% 0.5W\nR2 b gnd ?\n"
        )
        battery, first, second = run.parts.values()
        self.assertEqual((battery.internal.text, battery.tolerance.text), ("0.4", "2%"))
        self.assertEqual((first.nominal.text, first.rating.text, second.nominal), ("4k7", "0.5W", None))

    def test_errors_name_their_line(self) -> None:
        for text, said in [
            ("R1 A B", "Line 1: A part needs"),
            ("V1 A gnd 9V\nR1 A A 1k", "Line 2: Both leads"),
            ("V1 A gnd 9V\nR1 A gnd 1kV", "Line 2: "),
            ("V1 A gnd 9V\nV1 A gnd 9V", "Line 2: There are two parts"),
            ("C1 A gnd 1n", "Line 1: “C1” does not say what it is"),
            ('"C1 A gnd 1k', "Line 1: A quoted name does not end"),
            ("V1 A gnd 9V\nreference x", "Line 2: No part is at"),
            ("R1 A gnd 1k internal 5", "Line 1: R1 is a resistor and has not an internal"),
            ("V1 A gnd ?", "Line 1: "),
            ("", "Line 1: Write a part"),
            ("# \n" * 500, "at most 200 lines"),
        ]:
            with self.assertRaises(node_list.NodeListError, msg=text) as caught:
                node_list.read(text)
            self.assertIn(said, str(caught.exception))
