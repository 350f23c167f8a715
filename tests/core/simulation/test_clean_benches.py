"""Clean benches: a meter that keeps its specification accuses nobody, and a reading that is off is found."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from unittest import TestCase

import numpy as np

from recensor.core.circuit import Judge, JudgedBy, PartAlone, Sheet, TouchedLeads
from recensor.core.judgement import AccountVerdict, Assessment, Outcome, assess
from recensor.core.meters import ORDINARY_HANDHELD, SHIPPED
from recensor.core.quantity import RESISTANCE, parse
from recensor.core.record import Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_sheet, draw_values
from tests.samples import samples

BY_UNCERTAINTY = Judge(by=JudgedBy.UNCERTAINTY)
METERS = [None, *(profile for profile in SHIPPED.values() if profile.ranges)]


def bench(seed: int, *, most: int = 8) -> tuple[SimulatedBench, Sheet, np.random.Generator]:
    """A bench drawn at random, with one of the meters; every fifth has one that nobody described."""
    draw = np.random.default_rng(seed)
    sheet = replace(draw_sheet(draw, most=most), judge=BY_UNCERTAINTY)
    profile = METERS[seed % len(METERS)] or ORDINARY_HANDHELD
    return SimulatedBench(sheet, draw_values(sheet, draw), SimulatedMeter(profile, draw)), sheet, draw


def described(run: Run, seed: int) -> Run:
    """The run with its meter's profile, where it has one."""
    profile = METERS[seed % len(METERS)]
    return replace(run, meters={"bench": profile}) if profile else run


def accusations(assessed: Assessment) -> Iterator[str]:
    """Everything that says that something is wrong."""
    for target in assessed.targets.values():
        if target.judged.verdict.outcome is Outcome.OUTSIDE:
            yield "reading"
    yield from ("account" for account in assessed.laws if account.verdict is AccountVerdict.OUT)
    yield from ("sanity" for check in assessed.sanity if not check.holds)


class CleanBenches(TestCase):
    def test_clean_ones_are_left_alone(self) -> None:
        """Half with every part read and half with none, half with the range written down."""
        accused: Counter[str] = Counter()
        just_beyond = judged = 0
        count = samples(150, 1000)
        for seed in range(count):
            made, sheet, _ = bench(seed)
            parts = [t for t in sheet.asked if isinstance(t, PartAlone) and t.measurand is RESISTANCE]
            targets = sheet.asked if seed % 2 else [t for t in sheet.asked if t not in parts]
            assessed = assess(described(made.run(targets, named=bool(seed % 4 // 2)), seed))
            kinds = set(accusations(assessed))
            accused.update(kinds)
            accused["any"] += bool(kinds)
            judged += len(assessed.targets)
            just_beyond += sum("just beyond" in target.judged.reason for target in assessed.targets.values())
        self.assertLessEqual(accused["any"], 0.03 * count, accused)
        self.assertLessEqual(just_beyond, 0.06 * judged)

    def test_a_reading_put_off_by_a_twentieth_is_found_where_the_meter_can_tell(self) -> None:
        found = tried = 0
        for seed in range(samples(50, 300)):
            made, sheet, draw = bench(seed)
            live = [t for t in sheet.asked if not isinstance(t, PartAlone)]
            target = live[int(draw.integers(len(live)))]
            factor = 1.05 if seed % 2 else 0.95
            readings = [made.read(one, factor=factor if one is target else 1.0) for one in sheet.asked]
            one = assess(described(Run(sheet, tuple(readings)), seed)).of(target).judged
            error, percent = one.normalised_error["measured"], one.percent_error["measured"]
            if percent is None or not error or abs(percent / error) > 2.5:
                continue  # U of the difference is more than 2.5 % of the value
            tried += 1
            found += one.verdict.outcome is Outcome.OUTSIDE
        self.assertGreater(tried, 20)
        self.assertGreaterEqual(found, 0.9 * tried)

    def test_the_leads_of_the_meter_are_taken_off_every_resistance(self) -> None:
        """Low ohms with half an ohm of leads: right once they are read, and off where they are forgotten."""
        wrong = clean = 0
        for seed in range(0, 200, 5):
            draw = np.random.default_rng(seed)
            low = draw_sheet(draw, tolerance="1%")
            parts = {
                name: part if part.kind.is_source else replace(part, nominal=parse(str(2 + k)))
                for k, (name, part) in enumerate(low.parts.items())
            }
            low = replace(low, parts=parts, judge=BY_UNCERTAINTY)
            made = SimulatedBench(low, draw_values(low, draw), SimulatedMeter(ORDINARY_HANDHELD, draw), leads=0.5)
            ohms = [target for target in low.asked if target.measurand is RESISTANCE]
            clean += not any(accusations(assess(made.run([TouchedLeads(), *ohms]))))
            wrong += "reading" in set(accusations(assess(made.run(ohms))))
        self.assertGreaterEqual(clean, 38)
        self.assertGreater(wrong, 20)
