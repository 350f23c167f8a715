"""Readings too exact to be chance: said of what was worked out, and of no honest bench."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from recensor.core.circuit import PartAlone, TouchedLeads
from recensor.core.faults import coincidences
from recensor.core.figures import as_read
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED
from recensor.core.quantity import Quantity, parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_sheet, draw_values
from tests.core.faults.benches import drawn, read
from tests.samples import samples


def worked_out() -> Run:
    """A run whose readings are the nominal calculation, rounded as a meter would show it."""
    run = read(drawn())
    assessed = assess(run)
    readings = []
    for reading in run.readings:
        found = assessed.of(reading.target)
        value = found.judged.nominal.value if found else None
        digit = reading.value.resolution
        if value is None or digit is None or isinstance(reading.target, TouchedLeads):
            readings.append(reading)
            continue
        exact = Quantity(
            "", parse(f"{round(value / float(digit)) * float(digit):.12f}").value, digit, reading.target.unit
        )
        readings.append(Reading(reading.target, parse(as_read(exact, reading.target.unit), reading.target.unit)))
    return replace(run, readings=tuple(readings))


class Coincidences(TestCase):
    def test_what_was_worked_out_is_told_neutrally_with_its_chance(self) -> None:
        found = coincidences(assess(worked_out()))
        if found is None:
            self.fail("a dozen readings are just what is calculated")
        self.assertLess(found.chance, 1e-3)
        self.assertTrue(any("just what is calculated" in one.text for one in found.found))
        self.assertFalse([one.text for one in found.found if "cheat" in one.text or "invent" in one.text])

    def test_one_coincidence_says_nothing(self) -> None:
        """A total that equals the sum of its parts is met at a third of honest benches."""
        run = read(drawn())
        self.assertIsNone(coincidences(assess(run)))

    def test_honest_benches_are_left_alone(self) -> None:
        spoken = 0
        for seed in range(samples(40, 150)):
            draw = np.random.default_rng([77, seed])
            sheet = draw_sheet(draw)
            meter = SimulatedMeter(SHIPPED["3½-digit manual"], draw)
            run = SimulatedBench(sheet, draw_values(sheet, draw), meter).run()
            trials = tuple(r for r in run.readings if isinstance(r.target, PartAlone))[:2]
            run = replace(run, readings=run.readings + trials, meters={"m": SHIPPED["3½-digit manual"]})
            spoken += coincidences(assess(run)) is not None
        self.assertLessEqual(spoken, 1)
