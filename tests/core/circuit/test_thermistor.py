"""A thermistor: what it is at the temperature of its setup, in every notation, and held against what is read."""

import math
from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import (
    Across,
    NodeListError,
    NotationError,
    PartAlone,
    Sheet,
    asking_everything,
    node_list,
    one_line,
)
from recensor.core.editing import edits
from recensor.core.errors import Refused
from recensor.core.judgement import PartVerdict, Verdict, assess
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.formats import spice
from recensor.formats.documents import run_document

LINE = "5V: 10k 1% + thermistor 10k b 3950 5%; 21 °C"


def ohms(celsius: float, b: float = 3950.0, at_25: float = 10_000.0) -> float:
    return at_25 * math.exp(b / (celsius + 273.15) - b / 298.15)


def two_temperatures() -> Sheet:
    """The divider in the room and in a hand."""
    drawn = one_line.read(LINE)
    warm = edits.warm(edits.add_setup(drawn, "in the hand", "main"), "in the hand", parse("33"))
    return asking_everything(warm)


class Thermistor(TestCase):
    def test_it_is_what_its_temperature_makes_it(self) -> None:
        drawn = one_line.read(LINE)
        part = drawn.parts["TH1"]
        for celsius in (21, -10, 25, 80):
            setup = edits.warm(drawn, "main", parse(f"{celsius}")).setup()
            self.assertAlmostEqual(float(setup.stated(part) or 0) / ohms(celsius), 1.0, 12)
        self.assertEqual(float(edits.warm(drawn, "main", None).setup().stated(part) or 0), 10_000)
        self.assertIs(edits.warm(drawn, "main", parse("80")).setup().stated(replace(part, b=None)), part.nominal)

    def test_it_goes_through_every_notation(self) -> None:
        drawn = one_line.read(LINE)
        setup = drawn.setup()
        for again in (
            one_line.read(one_line.write(drawn, setup) or ""),
            node_list.read(node_list.write(drawn, setup), drawn.title),
            spice.read(spice.write(drawn, setup)).sheet,
            run_document.read(run_document.write(Run(drawn))).sheet,
        ):
            self.assertEqual(again.parts, drawn.parts)
            self.assertEqual(float(again.setup().temperature or 0), 21.0)
        netlist = spice.write(drawn, setup).splitlines()
        (there,) = (line for line in netlist if "TH1" in line and not line.startswith("*"))
        self.assertRegex(there, r"^R")
        self.assertAlmostEqual(float(there.split()[-1]), ohms(21), delta=1e-6)

    def test_what_is_read_is_held_against_its_temperature(self) -> None:
        run = Run(two_temperatures())
        keys = {target.key for target in run.sheet.asked}
        room, hand = (PartAlone("TH1", RESISTANCE, name) for name in run.sheet.setups)
        self.assertTrue({room.key, hand.key} <= keys, "it is read by itself at each temperature")
        drop = Across(VOLTAGE, run.sheet.setup().connections["TH1"], "in the hand")
        read = (Reading(room, parse("12.1k")), Reading(hand, parse("7.0k")), Reading(drop, parse("2.06")))
        assessed = assess(replace(run, readings=read))
        for target, celsius in ((room, 21), (hand, 33)):
            self.assertAlmostEqual(assessed.alone[target].nominal or 0, ohms(celsius), delta=1e-6)
        self.assertIs(assessed.alone[room].verdict, PartVerdict.WITHIN)
        # By what it was read to be in the hand: 5 V · 7.0 / (10 + 7.0); by what it is marked: 5 V · 7.01 / 17.01.
        judged = assessed.targets[drop.key].judged
        self.assertAlmostEqual(judged.measured.value or 0, 5 * 7.0 / 17.0, 9)
        self.assertAlmostEqual(judged.nominal.value or 0, 5 * ohms(33) / (10_000 + ohms(33)), 9)
        self.assertIs(judged.verdict, Verdict.AGREES)

    def test_what_it_cannot_be_is_refused_at_its_place(self) -> None:
        for line in (f"{LINE}; 22 °C", LINE.replace("21 °C", "-280 °C"), LINE.replace("b 3950", "b 0"),
                     LINE.replace("b 3950", "cold 3"), "5V: 1k b 3950"):  # fmt: skip
            with self.subTest(line), self.assertRaises(NotationError):
                one_line.read(line)
        with self.assertRaises(NodeListError):
            node_list.read("temperature hot\nV1 A gnd 9V\nR1 A gnd 1k")
        document = run_document.write(Run(one_line.read(LINE)))
        for was, now, place in (('"21 °C"', '"900"', "setups.main.temperature"), ('"3950"', '"1M"', "parts.TH1.b")):
            with self.assertRaisesRegex(Refused, place):
                run_document.read(document.replace(was, now))
