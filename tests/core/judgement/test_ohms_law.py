"""R = V/I, P = V·I and I = V/R from readings, with what voltage and current have in common."""

import math
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import Across, PartAlone, Through, asking_everything, one_line
from recensor.core.judgement import assess, by_ohms_law
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run


def read(target: object, text: str) -> Reading:
    return Reading(target, parse(text, target.unit))


class ByOhmsLaw(TestCase):
    def test_a_part_and_the_whole_beside_bands_and_ohmmeter(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + (2k2 | 3k3); 5%"))
        run = Run(sheet, (
            read(PartAlone("R1", RESISTANCE), "0.998k"), read(Across(RESISTANCE, ("A", "gnd"), "main"), "2.31k"),
            read(Across(VOLTAGE, ("A", "gnd"), "main"), "9.00"), read(Across(VOLTAGE, ("A", "B"), "main"), "3.88"),
            read(Across(VOLTAGE, ("gnd", "B"), "main", "R2"), "-5.12"), read(Through("V1", "main"), "3.89m"),
            read(Through("R2", "main"), "2.33m"),
        ))  # fmt: skip
        found = {row.part: row for row in by_ohms_law(sheet, assess(run))}
        self.assertAlmostEqual(found["R1"].resistance.value, 3.88 / 0.00389)
        self.assertAlmostEqual(found["R1"].power.value, 3.88 * 0.00389)
        self.assertEqual(
            (found["R1"].ohmmeter, found["R1"].nominal, found["R1"].outcome.value), (998.0, 1000.0, "agrees")
        )
        self.assertAlmostEqual(found["R2"].resistance.value, 5.12 / 0.00233)
        self.assertAlmostEqual(found[None].resistance.value, 9.0 / 0.00389)
        self.assertEqual((found[None].ohmmeter, found[None].outcome.value), (2310.0, "agrees"))
        self.assertNotIn("R3", found)  # its current was not read, and it was not read by itself

    def test_a_current_where_only_voltage_and_resistance_were_read(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + ?; 5%"))
        run = Run(
            sheet, (read(PartAlone("R2", RESISTANCE), "2.00k"), read(Across(VOLTAGE, ("B", "gnd"), "main"), "6.00"))
        )
        (row,) = by_ohms_law(sheet, assess(run))
        self.assertEqual((row.part, row.resistance, row.nominal), ("R2", None, None))
        self.assertAlmostEqual(row.current.value, 0.003)

    @given(st.floats(0.5, 20.0), st.floats(1e-4, 0.05))
    def test_relative_uncertainties_add_as_squares(self, volts: float, amps: float) -> None:
        """Volts and amperes of different ranges share nothing (JCGM 100, 5.1.6)."""
        sheet = asking_everything(one_line.read("9V: 470"))
        run = Run(
            sheet,
            (read(Across(VOLTAGE, ("A", "gnd"), "main"), f"{volts:.3f}"), read(Through("R1", "main"), f"{amps:.6f}")),
        )
        judged = assess(run)
        row = next(row for row in by_ohms_law(sheet, judged) if row.part == "R1")
        v, i = (judged.of(reading.target).measurement for reading in run.readings)
        expected = row.resistance.value * math.hypot(v.standard / v.mean, i.standard / i.mean)
        self.assertAlmostEqual(row.resistance.spread.standard / expected, 1.0, places=9)
