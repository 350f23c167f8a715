"""Every limit of the plan: on it, one digit inside, one outside."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, Sheet, Through, asking_everything, one_line
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED, Profile
from recensor.core.plan import Bench, State, before_power, bench_of, disturbance
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE
from recensor.core.record import Run

MANUAL = SHIPPED["3½-digit manual"]


def sheet(line: str) -> Sheet:
    return asking_everything(one_line.read(line))


class Limits(TestCase):
    def test_a_label_may_be_a_tenth_too_low_when_a_range_is_chosen(self) -> None:
        """Of a part: 1.1 × 1.81 kΩ is below 2 kΩ, 1.1 × 1.82 kΩ is not. Of all sources together the same."""
        for ohms, full in (("1.81k", 2e3), ("1.82k", 2e4)):
            bench = Bench(sheet(f"9V: {ohms} + 1k; 5%"), {RESISTANCE: MANUAL})
            self.assertEqual(bench.setting(PartAlone("R1", RESISTANCE)).taken.full, full, ohms)
        for volts, full in (("18.1V", 20.0), ("18.2V", 200.0)):
            bench = Bench(sheet(f"{volts}: 1k + 1k; 5%"), {VOLTAGE: MANUAL})
            self.assertEqual(bench.setting(Across(VOLTAGE, ("A", "gnd"), "main")).taken.full, full, volts)

    def test_from_a_tenth_of_a_watt_a_part_is_called_hot(self) -> None:
        """V²/R where the part is 5 % low: 100 mW at 10 V and 1.0526 kΩ."""
        for ohms, hot in (("1.06k", False), ("1.05k", True)):
            run = Run(sheet(f"10V: {ohms}; 5%"))
            text = " ".join(check.text for check in before_power(run, run.sheet.setup(), *self.judged(run)))
            self.assertEqual("R1 gets hot" in text, hot, text)

    @staticmethod
    def judged(run: Run):
        assessment = assess(run)
        return assessment, bench_of(run, assessment)

    def test_a_meter_that_changes_a_thousandth_is_worth_a_word(self) -> None:
        """R/(R + 100 Ω) of an ammeter: a thousandth at 99.9 kΩ."""
        for ohms, worth in (("99.8k", True), ("100k", False)):
            run = Run(sheet(f"1.5V: {ohms}"))
            said = disturbance(run.sheet, Through("R1", "main"), assess(run), self.burdened(MANUAL))
            self.assertEqual(said is not None, worth, ohms)

    @staticmethod
    def burdened(profile: Profile) -> Profile:
        """A meter of 100 Ω in each of its current ranges."""
        with_burden = tuple(replace(r, burden=100.0) for r in profile.ranges[CURRENT])
        return replace(profile, ranges={**profile.ranges, CURRENT: with_burden})

    def test_at_the_end_the_red_lead_leaves_the_current_jack_whether_or_not_a_link_is_open(self) -> None:
        bench = Bench(sheet("9V: 1k + 2k; 5%"), {CURRENT: MANUAL, VOLTAGE: MANUAL})
        amps = bench.during(Through("R1", "main"), State())
        for before in (amps, amps._replace(opened=None), amps._replace(measurand=VOLTAGE, dial="V DC", jack="V/Ω")):
            last = bench.put_back(before)[-1].state
            self.assertEqual((last.jack, last.opened, last.powered), ("V/Ω", None, False))

    def test_for_another_jack_power_goes_off_though_nothing_else_changes(self) -> None:
        bench = Bench(sheet("9V: 1k + 2k; 5%"), {CURRENT: MANUAL})
        amps = Through("R1", "main")
        live = bench.during(amps, State(proved=True))
        self.assertEqual([step.state.powered for step in bench.steps(live, amps)], [True])
        first, *_ = bench.steps(live._replace(jack="10 A"), amps)
        self.assertFalse(first.state.powered)
