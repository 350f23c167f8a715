"""What is kept of a setup is what would be worked out anew, whatever happens to the run in between."""

import random
from dataclasses import replace
from unittest import TestCase
from unittest.mock import patch

from recensor.core.circuit import USUAL_WISHES, asking_everything, node_list, parts_line
from recensor.core.editing import circuits
from recensor.core.judgement import Assessment, assess, by_setup, sanity
from recensor.core.kept import Kept
from recensor.core.meters import EXACT, ORDINARY_HANDHELD
from recensor.core.quantity import parse, parse_percent
from recensor.core.record import Reading, Run, Strike
from tests.samples import samples

TWO_SOURCES = """
V1 a g 9V
R1 a b 1k 5%
R2 b g 2k2 5%
R3 b g 3k3 5%
R4 c b 1k 5%
V2 c g 3V
reference g
"""


class KeptIsAsAnew(TestCase):
    def setUp(self) -> None:
        self.chance = random.Random(30)
        sheet = asking_everything(node_list.read(TWO_SOURCES))
        first = sheet.setup()
        for name, off in (("V1 alone", "V2"), ("V2 alone", "V1")):
            alone = replace(first, name=name, sources_off=frozenset({off}))
            sheet = replace(sheet, setups={**sheet.setups, name: alone})
            asked = (replace(target, setup=name) for target in sheet.asked if target.setup == first.name)
            sheet = replace(sheet, asked=(*sheet.asked, *asked))
        for line in ("V1: R1 + R2", "V1: R1 | R2", "V1: R1 | R2 | R3"):
            sheet, _ = circuits.with_circuit(sheet, "main", parts_line.read(line, sheet), USUAL_WISHES)
        self.run_ = Run(sheet)
        self.points = sheet.asked

    def append(self) -> None:
        target = self.chance.choice(self.points)
        text = self.chance.choice(["1.00", "0.99", "2.10", "OL", "-1.5"])
        self.run_ = replace(self.run_, readings=(*self.run_.readings, Reading(target, parse(text, target.unit))))

    def change_one(self) -> None:
        if self.run_.readings:
            k = self.chance.randrange(len(self.run_.readings))
            one = self.run_.readings[k]
            changed = self.chance.choice(
                [replace(one, struck=Strike("slip")), replace(one, counted=False), replace(one, later=True)]
            )
            self.run_ = replace(self.run_, readings=(*self.run_.readings[:k], changed, *self.run_.readings[k + 1 :]))

    def describe_the_meter(self) -> None:
        self.run_ = replace(self.run_, meters={"meter": self.chance.choice([EXACT, ORDINARY_HANDHELD])})

    def widen_a_tolerance(self) -> None:
        """The setups stay the same mapping, and their parts do not."""
        sheet = self.run_.sheet
        wider = replace(sheet.parts["R1"], tolerance=parse_percent(self.chance.choice(["1%", "20%"])))
        self.run_ = replace(self.run_, sheet=replace(sheet, parts={**sheet.parts, "R1": wider}))

    def judge_otherwise(self) -> None:
        judge = replace(self.run_.sheet.judge, limit=parse_percent(self.chance.choice(["1%", "10%"])))
        self.run_ = replace(self.run_, sheet=replace(self.run_.sheet, judge=judge))

    def anew(self) -> Assessment:
        with patch.object(by_setup, "_kept", Kept(100)), patch.object(sanity, "_held_against", Kept(1)):
            return assess(self.run_)

    def test_after_every_change(self) -> None:
        acts = [self.append] * 12 + [self.change_one] * 3
        acts += [self.describe_the_meter, self.widen_a_tolerance, self.judge_otherwise]
        found = 0
        for _ in range(samples(80, 2000)):
            act = self.chance.choice(acts)
            act()
            kept, anew = assess(self.run_), self.anew()
            self.assertEqual(kept, anew, act.__name__)
            self.assertEqual(kept.readings, anew.readings, act.__name__)
            found += len(kept.sanity)
        self.assertGreater(found, 20)

    def test_what_did_not_change_is_not_worked_out_again(self) -> None:
        self.append()
        assess(self.run_)
        (reading,) = self.run_.readings
        there = next(point for point in self.points if point.setup and point.setup != reading.target.setup)
        self.run_ = replace(self.run_, readings=(reading, Reading(there, parse("1.00", there.unit))))
        worked: list[str] = []
        keep = by_setup._kept.keep

        def note(key: tuple, *what: object) -> None:
            worked.append(key[1])
            keep(key, *what)

        with patch.object(by_setup._kept, "keep", note):
            assess(self.run_)
        self.assertEqual(set(worked), {there.setup})
