"""What circuits in a line are expected to read, against exact fractions and against ngspice.

Thevenin's theorem is the outside reference of the load that is taken off and put back.
"""

import random
from fractions import Fraction
from unittest import TestCase

from recensor.core.circuit import (
    RESISTOR,
    USUAL_WISHES,
    VOLTAGE_SOURCE,
    Across,
    Sheet,
    Wish,
    asking_everything,
    one_line,
)
from recensor.core.editing import Preset, presets
from recensor.core.judgement import assess
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.record import Run
from recensor.core.solving import Element
from recensor.runs.services.build_circuits import circuits_made
from tests.outside.test_exact import Exact
from tests.outside.test_ngspice import operating_point
from tests.samples import samples


def in_hand(draw: random.Random, least: int) -> Sheet:
    ohms = [draw.randint(10, 10**6) for _ in range(draw.randint(least, 7))]
    return asking_everything(one_line.read("9V: " + " + ".join(map(str, ohms))))


def line_of(draw: random.Random, names: list[str], side_by_side: bool) -> str:
    if len(names) == 1:
        return names[0]
    cut = draw.randint(1, len(names) - 1)
    halves = [line_of(draw, part, not side_by_side) for part in (names[:cut], names[cut:])]
    return (" | " if side_by_side else " + ").join(f"({half})" if " " in half else half for half in halves)


class CircuitsInALine(TestCase):
    def test_volts_and_amps_of_any_line_are_those_of_ngspice(self) -> None:
        draw = random.Random(303)
        for _ in range(samples(16, 200)):
            sheet = in_hand(draw, 2)
            names = draw.sample(list(sheet.parts)[1:], draw.randint(2, len(sheet.parts) - 1))
            line = line_of(draw, names, draw.random() < 0.5)
            sheet, (made,) = circuits_made(sheet, "main", line, frozenset({Wish.VOLTS, Wish.AMPS}))
            setup, assessment = sheet.setups[made.setup], assess(Run(sheet))
            elements = [
                Element(name, VOLTAGE_SOURCE if name == "V1" else RESISTOR,
                        *("g" if node == setup.reference else f"p{node.lower()}" for node in leads),
                        float(sheet.parts[name].nominal))
                for name, leads in setup.connections.items()
            ]  # fmt: skip
            theirs = operating_point(elements)

            def volts(node: str, setup=setup, theirs=theirs) -> float:
                return 0.0 if node == setup.reference else theirs[f"v(p{node.lower()})"]

            asked = [t for t in sheet.asked if t.setup == made.setup and t.in_circuit and t.measurand is not RESISTANCE]
            self.assertGreater(len(asked), 2, line)
            for target in asked:
                first, second = target.nodes if target.is_across else setup.connections[target.part]
                there = volts(first) - volts(second)
                if target.is_through and target.part == "V1":
                    there = -theirs[f"i(v{list(setup.connections).index('V1')})"]
                elif target.is_through:
                    there /= float(sheet.parts[target.part].nominal)
                self.assertAlmostEqual(assessment.expected(target).value / there, 1.0, places=5, msg=f"{line} {target}")

    def test_a_load_taken_off_and_put_back_reads_as_thevenin_says(self) -> None:
        draw = random.Random(304)
        for _ in range(samples(60, 2000)):
            sheet = in_hand(draw, 3)
            line = line_of(draw, list(sheet.parts)[1:], draw.random() < 0.5)
            sheet, (made,) = circuits_made(sheet, "main", line, USUAL_WISHES)
            whole = sheet.setups[made.setup]
            offered = dict(presets(sheet, whole, 30))[Preset.THEVENIN]
            load = offered.split()[0]
            leads = whole.connections[load]
            sheet, (open_, dead) = circuits_made(sheet, whole.name, offered, USUAL_WISHES)
            loads = [draw.randint(10, 10**6) for _ in range(3)]
            text = ", ".join(f"load {load} {ohms}" for ohms in loads)
            sheet, loaded = circuits_made(sheet, whole.name, text, frozenset({Wish.VOLTS}))
            asked = {name: [t for t in sheet.asked if t.setup == name] for name in sheet.setups}
            assessment = assess(Run(sheet))
            (volts,), (ohms,) = asked[open_.setup], asked[dead.setup]
            self.assertEqual((volts.key, ohms.measurand), (Across(VOLTAGE, leads, open_.setup).key, RESISTANCE))
            exact = Exact(sheet, sheet.setups[open_.setup]).value(volts)
            self.assert_close(assessment.expected(volts).value, exact, line)
            inside = self.behind(sheet, whole.name, load, exact)
            self.assert_close(assessment.expected(ohms).value, inside, line)
            for number, one in zip(loads, loaded, strict=True):
                (across,) = [target for target in asked[one.setup] if target.key.nodes == volts.key.nodes]
                sign = -1 if across.nodes != volts.nodes else 1
                self.assert_close(assessment.expected(across).value, sign * exact * number / (inside + number), line)

    def behind(self, sheet: Sheet, setup: str, load: str, open_volts: Fraction) -> Fraction:
        """The resistance behind a load: what is missing of the open voltage, over the current that flows."""
        exact = Exact(sheet, sheet.setups[setup])
        across = exact.value(Across(VOLTAGE, sheet.setups[setup].connections[load], setup))
        return (abs(open_volts) - abs(across)) / (abs(across) / exact.ohms[load])

    def assert_close(self, value: float, exact: Fraction, line: str) -> None:
        self.assertLessEqual(abs(value - exact), abs(exact) / 10**6 + Fraction(1, 10**6), line)
