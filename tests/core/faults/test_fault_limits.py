"""Every limit of what is told of causes: on it, one step inside, one outside."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np

from recensor.core.circuit import Across, PartAlone, asking_everything, one_line
from recensor.core.faults import Coincidences, coincidences
from recensor.core.faults.next_measurement import are_told_apart, information
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from tests.core.faults.benches import drawn, explained, read


class Limits(TestCase):
    def test_two_standard_deviations_tell_two_predictions_apart(self) -> None:
        apart = 2.0 * math.hypot(0.3, 0.4)
        self.assertTrue(are_told_apart((1.0, 0.3), (1.0 + apart * 1.001, 0.4)))
        self.assertFalse(are_told_apart((1.0, 0.3), (1.0 + apart * 0.999, 0.4)))
        self.assertTrue(are_told_apart(None, (1.0, 0.3)))
        self.assertFalse(are_told_apart(None, None))

    def test_what_a_reading_is_worth_lies_between_nothing_and_one_bit(self) -> None:
        """Two even hypotheses: the entropy of a mixture of two normals less one normal's, by quadrature of our own."""
        even, ones, shown = np.array([0.5, 0.5]), np.ones(2), np.zeros(2, bool)
        at = np.linspace(-30, 40, 70_001)
        for apart in (0.2, 0.65, 1.0, 3.0):
            normals = [np.exp(-0.5 * (at - m) ** 2) / math.sqrt(2 * math.pi) for m in (0.0, apart)]
            mixed = 0.5 * (normals[0] + normals[1])
            entropy = -float((np.where(mixed > 0, mixed * np.log(np.maximum(mixed, 1e-300)), 0)).sum()) * (
                at[1] - at[0]
            )
            expected = entropy - 0.5 * math.log(2 * math.pi * math.e)
            self.assertAlmostEqual(information(even, np.array([0.0, apart]), ones, shown), expected, 4)

    def test_trials_that_are_the_same_digit_for_digit_are_told_below_one_chance_in_a_thousand(self) -> None:
        """A manual meter shows whole ohms, ± 2 of them: of a rectangle as wide, the same tenth is met in about 3.5 %.

        By Fisher's method three such pairs are met once in 400 benches, four once in 1 300.
        """
        for parts, told in ((1, False), (3, False), (4, True)):
            self.assertEqual(self.written("998.4", parts) is not None, told, parts)
        # As the meter shows them they are no finding: its digits say the same by themselves.
        self.assertIsNone(self.written("998", 8, trials=5))

    def test_a_voltage_is_read_before_a_current_that_says_nearly_twice_as_much(self) -> None:
        """Two touches of the probes against a loop that is opened; and half a nat is still worth them."""
        run = read(drawn(), {"R3": 1e9})
        kept = tuple(r for r in run.readings if not isinstance(r.target, PartAlone))[:3]
        found = explained(replace(run, readings=kept)).next
        if found is None:
            self.fail("a reading tells an open part from an open connection")
        self.assertEqual(found.target, Across(VOLTAGE, ("C", "gnd"), "main"))
        self.assertTrue(0.4 < found.gain < 0.6, found.gain)

    @staticmethod
    def written(text: str, parts: int, trials: int = 2) -> Coincidences | None:
        """What is told of a bench of parts, each written so often as `text`."""
        sheet = asking_everything(one_line.read(f"9V: {' + '.join(['1k'] * 8)}; 5%"))
        names = [f"R{k}" for k in range(1, parts + 1) for _ in range(trials)]
        readings = tuple(
            Reading(PartAlone(name, RESISTANCE), parse(text, "Ω"), range=parse("2k", "Ω")) for name in names
        )
        return coincidences(assess(Run(sheet, readings, meters={"m": SHIPPED["3½-digit manual"]})))
