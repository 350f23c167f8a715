"""What-if bands: worst case against brute force in between, scatter against linear propagation."""

import itertools
from unittest import TestCase

import numpy as np

from recensor.core import uncertainty
from recensor.core.circuit import Across, node_list
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.solving import elements_of, solve, stated, vary

SHEET = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 2k2\nR3 B gnd 3k3\nR4 C gnd 4k7\nR5 B C 5k6")
ELEMENTS = elements_of(SHEET.setup(), SHEET.parts, stated(SHEET, SHEET.setup()).known)
TOLERANCES = {f"R{k}": 0.05 for k in range(1, 6)}


class Bands(TestCase):
    def test_no_point_inside_the_tolerances_goes_beyond_the_worst_case(self) -> None:
        found = {(q.measurand, q.part): q for q in vary(ELEMENTS, "gnd", {}, TOLERANCES)}
        limits = found[VOLTAGE, "R5"].worst
        seen = []
        for shares in itertools.product((-1.0, -0.3, 0.6, 1.0), repeat=5):
            values = [9.0, *(e.value * (1 + 0.05 * s) for e, s in zip(ELEMENTS[1:], shares, strict=True))]
            elements = [e._replace(value=v) for e, v in zip(ELEMENTS, values, strict=True)]
            seen.append(float(solve(elements, "gnd").voltage("B", "C")))
        self.assertAlmostEqual(limits[0], min(seen))
        self.assertAlmostEqual(limits[1], max(seen))

    def test_scatter_is_what_slopes_and_rectangular_tolerances_give(self) -> None:
        """To first order; the samples carry the rest."""
        across = Across(VOLTAGE, ("B", "gnd"), "main")
        solution = solve(ELEMENTS, "gnd", [across])
        slopes = solution.sensitivities(across)
        parts = {e.name: uncertainty.tolerance_uncertainty(e.value, 0.05) for e in ELEMENTS[1:]}
        expected = float(np.hypot.reduce([slopes[name] * parts[name] for name in parts]))
        drop = next(q for q in vary(ELEMENTS, "gnd", {}, TOLERANCES) if (q.measurand, q.part) == (VOLTAGE, "R3"))
        self.assertLess(abs(drop.deviation / expected - 1), 0.03)

    def test_a_changed_value_moves_what_it_should_and_nothing_else_is_touched(self) -> None:
        changed = {e.name: e.value * 2 for e in ELEMENTS if e.name == "V1"}
        for quantity in vary(ELEMENTS, "gnd", changed, {}):
            factor = 1 if quantity.measurand == RESISTANCE else 2
            self.assertAlmostEqual(quantity.then, factor * quantity.now)
            self.assertEqual((quantity.deviation, quantity.worst), (0.0, (quantity.now, quantity.now)))
        many = [*ELEMENTS, *(ELEMENTS[1]._replace(name=f"Rx{k}") for k in range(12))]
        loose = {e.name: 0.05 for e in many}
        self.assertTrue(all(quantity.worst is None for quantity in vary(many, "gnd", {}, loose)))
