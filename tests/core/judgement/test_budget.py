"""What makes up an uncertainty, the worst that tolerances allow, and what would decide what is undecided."""

import math
from itertools import product
from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, Through, asking_everything, one_line
from recensor.core.judgement import assess, budget, what_decides
from recensor.core.meters import SHIPPED
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.solving import operate
from recensor.core.uncertainty import COVERAGE_FACTOR

SHEET = asking_everything(one_line.read("9V 2%: 1k 5% + 2k2 5%"))
DROP, CURRENT = Across(VOLTAGE, ("B", "gnd"), "main"), Through("R1", "main")
OHMS_OF_R1, OHMS_OF_R2 = PartAlone("R1", RESISTANCE), PartAlone("R2", RESISTANCE)


def run(*readings: tuple[object, str], meter: str = "") -> Run:
    """A run of these readings, with a meter that ships or none."""
    made = tuple(Reading(target, parse(text, target.unit)) for target, text in readings)
    return Run(SHEET, made, meters={"bench": SHIPPED[meter]} if meter else {})


class Budgets(TestCase):
    def test_the_contributions_make_up_the_whole(self) -> None:
        assessed = assess(run((OHMS_OF_R1, "0.998k"), (DROP, "6.19"), (CURRENT, "2.81m")))
        for target in (DROP, CURRENT):
            read, calculated = budget.of_reading(assessed, target), budget.of_calculated(assessed, target)
            found = assessed.of(target)
            if read is None or calculated is None or found is None:
                self.fail(f"{target} was read")
            for one in (read, calculated):
                self.assertAlmostEqual(sum(c.share for c in one.contributions), 1.0, delta=1e-3)
                whole = COVERAGE_FACTOR * math.hypot(*(c.standard for c in one.contributions))
                self.assertAlmostEqual(whole / one.expanded, 1.0, delta=1e-3)
                self.assertEqual(list(one.contributions), sorted(one.contributions, key=lambda c: -c.share))
            self.assertAlmostEqual(read.expanded, found.judged.expanded or 0.0)
            self.assertAlmostEqual(calculated.expanded, 2 * (found.judged.measured.standard or 0.0), places=6)

    def test_what_the_readings_of_an_account_share_has_cancelled_in_it(self) -> None:
        """A loop in one range: the gain of the meter takes no part in what is left, the digits of each reading do."""
        up, middle = Across(VOLTAGE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "B"), "main")
        loop = next(a for a in assess(run((up, "9.02"), (middle, "2.83"), (DROP, "6.19"))).laws if a.law is VOLTAGE)
        made = budget.of_account(loop)
        if made is None:
            self.fail("the loop is closed")
        self.assertAlmostEqual(made.expanded, loop.expanded or 0.0)
        self.assertEqual(made.value, loop.residual)
        self.assertEqual(len(made.contributions), 3)
        self.assertFalse([c.words for c in made.contributions if "gain" in c.words])
        two_ranges = next(
            a for a in assess(run((up, "9.02"), (middle, "2.831"), (DROP, "6.193"))).laws if a.law is VOLTAGE
        )
        made = budget.of_account(two_ranges)
        if made is None:
            self.fail("the loop is closed")
        self.assertAlmostEqual(made.expanded, two_ranges.expanded or 0.0)
        self.assertEqual(len({c.words for c in made.contributions if "digits of" in c.words}), 2)
        self.assertIsNone(budget.of_account(next(a for a in assess(run((up, "9.02"))).laws if a.law is VOLTAGE)))

    def test_what_was_read_of_a_part_says_more_than_its_tolerance(self) -> None:
        unread = budget.of_calculated(assess(run((DROP, "6.19"))), DROP)
        read = budget.of_calculated(
            assess(run((OHMS_OF_R1, "0.998k"), (OHMS_OF_R2, "2.19k"), (DROP, "6.19"))),
            DROP,
        )
        if unread is None or read is None:
            self.fail("the drop is calculated")
        self.assertIn("R1, within its tolerance", [c.words for c in unread.contributions])
        self.assertIn("R1, as it was read", [c.words for c in read.contributions])
        self.assertLess(read.expanded, unread.expanded)

    def test_the_worst_case_is_that_of_all_corners(self) -> None:
        """Against every part at either edge of its tolerance, one circuit after the other."""
        assessed = assess(run((DROP, "6.19"), (CURRENT, "2.81m")))
        for target in (DROP, CURRENT):
            corners = []
            for v, r1, r2 in product((-1, 1), repeat=3):
                values = {"V1": 9 * (1 + 0.02 * v), "R1": 1000 * (1 + 0.05 * r1), "R2": 2200 * (1 + 0.05 * r2)}
                corners.append(float(operate(SHEET, SHEET.setup(), values).solution.answer(target)))
            told = budget.worst_case(assessed, target)
            if told is None:
                self.fail("every tolerance is stated")
            self.assertAlmostEqual(told[0] / min(corners), 1.0, delta=0.01)
            self.assertAlmostEqual(told[1] / max(corners), 1.0, delta=0.01)

    def test_nothing_is_told_of_what_is_not_known(self) -> None:
        unmarked = asking_everything(one_line.read("9V: ? + 2k2 5%"))
        assessed = assess(Run(unmarked, (Reading(DROP, parse("6.19", "V")),)))
        self.assertIsNone(budget.of_calculated(assessed, DROP))
        self.assertIsNone(budget.worst_case(assessed, DROP))
        self.assertIsNone(budget.of_reading(assessed, CURRENT))


class Deciding(TestCase):
    def test_the_range_that_would_decide_is_named(self) -> None:
        """0.3 mA in the 200 mA range of a hand-set meter: the 2 mA range tells."""
        small = asking_everything(one_line.read("3V 2%: 10k 5%"))
        reading = Reading(Through("R1", "main"), parse("0.3m", "A"), range=parse("200m", "A"))
        assessed = assess(Run(small, (reading,), meters={"bench": SHIPPED["3½-digit manual"]}))
        self.assertEqual(what_decides(assessed, reading.target), "Read in the 2 mA range it would be decided.")

    def test_of_a_meter_that_nobody_described_the_digit_is_named(self) -> None:
        assessed = assess(run((DROP, "6")))
        self.assertRegex(what_decides(assessed, DROP), r"Read to 10 mV or finer it would be decided\.")

    def test_the_number_of_trials_where_they_scatter(self) -> None:
        trials = ["6.10", "6.60", "5.90", "6.45", "6.20"]
        assessed = assess(run(*((DROP, text) for text in trials), meter="4000-count automatic"))
        self.assertRegex(what_decides(assessed, DROP), r"^(About \d+ trials would decide it|)")
        self.assertEqual(what_decides(assess(run((DROP, "6.19"))), DROP), "")
        self.assertEqual(what_decides(assessed, CURRENT), "")
