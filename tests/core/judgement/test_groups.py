"""Parts that nobody can tell apart: what they make together is as uncertain as which of them is which."""

import itertools
import math
import random
from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import MEASURED, Across, PartAlone, Sheet, asking_everything, one_line
from recensor.core.editing import EditError, alike, edits
from recensor.core.faults import FaultKind, explain
from recensor.core.judgement import Verdict, assess
from recensor.core.meters import EXACT
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse, parse_percent
from recensor.core.record import Reading, Run
from recensor.formats.documents import run_document
from tests.samples import samples


def sheet() -> Sheet:
    return asking_everything(one_line.read("9V: 1k + 1k | 1k + 2k2; 5%"))


def read(name: str, ohms: float) -> Reading:
    return Reading(PartAlone(name, RESISTANCE), parse(f"{ohms:.3f}"))


class Groups(TestCase):
    def test_every_order_that_the_parts_may_stand_in_is_within_what_is_calculated(self) -> None:
        chance = random.Random(301)
        names = ("R1", "R2", "R3")
        together = alike.as_group(sheet(), names)
        for _ in range(samples(20, 300)):
            ohms = [chance.uniform(940, 1060) for _ in names]
            readings = (*(read(name, one) for name, one in zip(names, ohms, strict=True)), read("R4", 2200.0))
            total = Across(RESISTANCE, ("A", "gnd"), "main")
            calculated = assess(Run(together, readings, meters={"exact": EXACT})).calculations.of(total, MEASURED)
            off = [
                1.0 / (1.0 / (one + second) + 1.0 / (third + 2200.0)) - calculated.value
                for one, second, third in itertools.permutations(ohms)
            ]
            apart = math.sqrt(sum(one * one for one in off) / len(off))
            # Which part is which is one choice for all, so that each by itself may be off is more than enough.
            self.assertLess(apart, 1.02 * calculated.standard)
            self.assertGreater(apart, 0.2 * calculated.standard)
            told = assess(Run(sheet(), readings, meters={"exact": EXACT})).calculations.of(total, MEASURED)
            self.assertLess(told.standard, 0.1 * calculated.standard)

    def test_two_that_changed_places_are_no_fault_of_anything(self) -> None:
        plain = asking_everything(one_line.read("9V: 1k + 1k + 2k2; 5%"))
        plain = replace(plain, judge=replace(plain.judge, limit=parse_percent("3%")))
        volts = {("A", "B"): "2.229", ("B", "C"): "2.057", ("C", "gnd"): "4.714", ("A", "gnd"): "9.000"}
        across = [target for target in plain.asked if target.is_across and target.measurand is VOLTAGE]
        readings = (
            *(read(name, ohms) for name, ohms in (("R1", 960.0), ("R2", 1040.0), ("R3", 2200.0))),
            *(Reading(target, parse(volts[target.nodes])) for target in across),
        )
        told, grouped = (assess(Run(one, readings)) for one in (plain, alike.as_group(plain, ("R1", "R2"))))
        self.assertEqual([cause.kind for cause in explain(told).causes], [FaultKind.SWAPPED_READINGS])
        self.assertEqual(list(explain(grouped).causes), [])
        for assessment, verdict in ((told, Verdict.OUTSIDE), (grouped, Verdict.UNDECIDED)):
            self.assertIs(assessment.of(across[0]).judged.verdict, verdict)

    def test_a_group_follows_its_parts_and_its_document(self) -> None:
        first = sheet()
        self.assertEqual(alike.marked_alike(first), [("R1", "R2", "R3")])
        for names in ((), ("R1",), ("R1", "R4"), ("R1", "R9")):
            with self.assertRaises(EditError):
                alike.as_group(first, names)
        together = alike.as_group(first, ("R1", "R2", "R3"))
        document = run_document.write(Run(together))
        self.assertEqual(run_document.read(document).sheet.groups, together.groups)
        renamed = edits.replaced(together, "R2", replace(together.parts["R2"], name="R20"))
        self.assertEqual(renamed.groups, (("R1", "R20", "R3"),))
        otherwise = edits.replaced(renamed, "R3", replace(renamed.parts["R3"], nominal=parse("4k7")))
        self.assertEqual(otherwise.groups, (("R1", "R20"),))
        self.assertEqual(alike.told_apart(otherwise, ("R1", "R20")).groups, ())
        for groups, said in (
            ([["R1", "R9"]], "there is no part"),
            ([["R1"]], "at least two"),
            ([["R1", "R2"], ["R2", "R3"]], "another group"),
            ([["R1", "R4"]], "marked alike"),
            ([["R1", "V1"]], "only those"),
        ):
            tree = {**run_document.sheet_to_tree(first), "groups": groups}
            with self.assertRaisesRegex(run_document.DocumentError, said):
                run_document.from_tree(tree)
