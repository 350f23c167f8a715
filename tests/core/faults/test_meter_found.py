"""A meter that is otherwise than its profile says: found by what was read, and judged as it is in one press."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase

from recensor.core.faults import FaultKind, MeterFound, explain
from recensor.core.judgement import Outcome, assess
from recensor.core.meters import SHIPPED, Profile
from recensor.core.quantity import CURRENT, VOLTAGE, Measurand
from recensor.core.record import Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter
from recensor.formats.documents import run_document
from tests.core.faults.benches import drawn, true_values

KIND = SHIPPED["4000-count automatic"]
HIGH_OHMS = "9V: 220k + (470k | 330k) + 150k + 100k; 5%"
LOW_OHMS = "6V: 100 + (220 | 330) + 150 + 68; 5%"


def read_with(line: str, profile: Profile, shows: Callable[[Measurand, float], float] = lambda _, value: value) -> Run:
    """A bench read by a meter of this profile that shows something else, in the books of its kind."""
    sheet = drawn(line)
    meter = SimulatedMeter(profile, np.random.default_rng(5))
    bench = SimulatedBench(sheet, true_values(sheet), meter, disturbed=True)
    readings = []
    for target in sheet.asked:
        if line == HIGH_OHMS and target.is_through:
            continue  # microamperes are too small for this meter
        reading = bench.read(target)
        if reading.value.value is not None:
            shown = shows(target.measurand, float(reading.value))
            quantity, _ = meter.show(shown, target.measurand)
            reading = replace(reading, value=quantity, range=None)
        readings.append(reading)
    return Run(sheet, tuple(readings), meters={"bench": KIND})


def with_ranges(measurand: Measurand, **changes: float) -> Profile:
    """The kind of meter with something else in all ranges of a function."""
    ranges = tuple(replace(one, **changes) for one in KIND.ranges[measurand])
    return replace(KIND, ranges={**KIND.ranges, measurand: ranges})


def outside(run: Run) -> int:
    """How many targets are outside."""
    return sum(one.judged.outcome is Outcome.OUTSIDE for one in assess(run).targets.values())


class MetersFound(SimpleTestCase):
    """Each is told first, and with its correction nothing is outside, whichever way the run is kept."""

    def check(self, run: Run, kind: FaultKind) -> Run:
        """Correct the first cause, which is of a kind."""
        self.assertGreater(outside(run), 0)
        cause = explain(assess(run)).causes[0]
        self.assertEqual(cause.kind, kind)
        assert isinstance(cause.correction, MeterFound)
        corrected = cause.correction.applied(run)
        self.assertEqual(outside(corrected), 0)
        self.assertEqual(explain(assess(corrected)).told, ())
        again = run_document.read(run_document.write(corrected))
        self.assertEqual(outside(again), 0)
        (name, found), *_ = again.meters.items()
        self.assertEqual(found.found, corrected.meters[name].found)
        return corrected

    def test_an_ammeter_with_much_inside(self) -> None:
        run = read_with(LOW_OHMS, with_ranges(CURRENT, burden=50.0))
        corrected = self.check(run, FaultKind.AMMETER_RESISTANCE)
        found = corrected.meters["bench"].found
        self.assertAlmostEqual(found.in_amperes(0.04) or 0, 50.0, delta=8.0)

    def test_a_voltmeter_that_loads(self) -> None:
        run = read_with(HIGH_OHMS, with_ranges(VOLTAGE, input_resistance=1e6))
        corrected = self.check(run, FaultKind.VOLTMETER_LOADING)
        self.assertAlmostEqual((corrected.meters["bench"].found.input_resistance or 0) / 1e6, 1.0, delta=0.1)

    def test_a_function_that_shows_too_much(self) -> None:
        run = read_with(LOW_OHMS, KIND, lambda measurand, value: value * (1.09 if measurand is VOLTAGE else 1.0))
        corrected = self.check(run, FaultKind.METER_GAIN)
        self.assertAlmostEqual(corrected.meters["bench"].found.gains[VOLTAGE], 1.09, delta=0.02)

    def test_a_function_that_does_not_begin_at_zero(self) -> None:
        run = read_with(LOW_OHMS, KIND, lambda measurand, value: value + (0.2 if measurand is VOLTAGE else 0.0))
        corrected = self.check(run, FaultKind.ZERO_OFFSET)
        self.assertAlmostEqual(corrected.meters["bench"].found.offsets[VOLTAGE], 0.2, delta=0.02)

    def test_one_that_nobody_described(self) -> None:
        run = replace(read_with(LOW_OHMS, with_ranges(CURRENT, burden=50.0)), meters={})
        self.check(run, FaultKind.AMMETER_RESISTANCE)
