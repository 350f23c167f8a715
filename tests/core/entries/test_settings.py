"""What the supply and the meter, as they are set, cannot show is asked about; what they can is not."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from recensor.core.circuit import PartAlone, asking_everything, one_line
from recensor.core.entries import AnswerKind, enter
from recensor.core.meters import ORDINARY_HANDHELD, SHIPPED
from recensor.core.plan import stage_of
from recensor.core.quantity import parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_sheet, draw_values
from tests.samples import samples

SHEET = asking_everything(one_line.read("9V: 1k + 2k2; 5%"))
VOLTS = next(t for t in SHEET.asked if stage_of(t, SHEET).name == "VOLTS" and t.nodes == ("A", "B"))
OPEN = Run(SHEET)
OHMS = next(t for t in SHEET.asked if stage_of(t, SHEET).name == "BUILD")


class Settings(TestCase):
    def asked(self, text: str, range_: str | None = None, *, run: Run = OPEN, target=VOLTS, **more) -> list[str]:
        """The meanings that are offered for an entry; empty where nothing is asked."""
        reading = Reading(target, parse(text, target.unit), parse(range_, target.unit) if range_ else None)
        doubted = enter(run, reading, SHEET.asked, **more).doubted
        return [answer.text or answer.means.value for answer in doubted.answers] if doubted else []

    def test_ohms_under_power_are_asked_about_and_volts_prove_that_it_is_on(self) -> None:
        self.assertEqual(self.asked("2.81", powered=False), [])
        self.assertEqual(self.asked("3.20k", target=OHMS, powered=True), ["switched", "again"])
        self.assertEqual(self.asked("0.998k", target=SHEET.asked[0], powered=True), ["switched", "again"])
        for powered, target, text in [(True, VOLTS, "2.81"), (False, OHMS, "3.20k"), (None, VOLTS, "2.81")]:
            self.assertEqual(self.asked(text, target=target, powered=powered), [])
        self.assertEqual(self.asked("2.81", run=replace(Run(SHEET), simulated=True), powered=False), [])

    def test_more_than_the_range_shows_and_digits_that_it_does_not_have(self) -> None:
        manual = Run(SHEET, meters={"m": SHIPPED["3½-digit manual"]})
        for text, named, offered in [
            ("2.81", "2V", ["20 V", "again", "as typed"]),  # over-range on 2 V
            ("2.812", "20V", ["again", "as typed"]),  # two decimals there
            ("2.81", "20V", []), ("2.8", "200V", []), ("2.81", None, []),
            ("2.8125", None, ["again", "as typed"]),  # in no range of this meter
        ]:  # fmt: skip
            self.assertEqual(self.asked(text, named, run=manual), offered, (text, named))
        # Of a meter that nobody described only the full scale that was named is known.
        self.assertEqual(self.asked("2.81", "2V"), ["again", "as typed"])
        self.assertEqual(self.asked("2.8125", "20V"), [])
        confirmed = enter(manual, Reading(VOLTS, parse("2.8125"), confirmed=True), SHEET.asked)
        self.assertIn(AnswerKind.AS_TYPED, [answer.means for answer in confirmed.doubted.answers])

    def test_nothing_that_a_described_meter_shows_is_asked_about(self) -> None:
        asked = entries = 0
        for seed in range(samples(12, 40)):
            draw = np.random.default_rng(seed)
            sheet = draw_sheet(draw)
            profile = [p for p in SHIPPED.values() if p.ranges][seed % 4] if seed % 5 else ORDINARY_HANDHELD
            bench = SimulatedBench(sheet, draw_values(sheet, draw), SimulatedMeter(profile, draw), disturbed=True)
            run = Run(sheet, meters={"m": profile} if profile.ranges else {})
            for target in sheet.asked:
                powered = stage_of(target, sheet).power == "ON"
                shown = bench.read(target, named=seed % 2 == 0)
                came = enter(run, shown, sheet.asked, powered=powered)
                asked, entries, run = asked + bool(came.doubted), entries + 1, came.run
        self.assertLessEqual(asked, max(entries // 100, 1))
        self.assertGreater(entries, samples(120, 400))

    def test_a_source_by_itself_is_read_with_power(self) -> None:
        alone = next(t for t in SHEET.asked if isinstance(t, PartAlone) and t.part == "V1")
        for powered in (True, False):
            self.assertEqual(self.asked("9.02", target=alone, powered=powered), [])
