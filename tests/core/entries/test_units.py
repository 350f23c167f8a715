"""The unit of a bare number: one that the dial on the card shows; in a sealed run none that gives a value away."""

from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, Through
from recensor.core.entries import bare_units
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse_beside_chooser
from recensor.core.record import Reading

R1 = PartAlone("R1", RESISTANCE)
TOTAL, VOLTS = Across(RESISTANCE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "B"), "main")
AMPS = Through("R1", "main")


class BareUnits(TestCase):
    def test_it_follows_what_is_expected_among_what_the_dial_shows(self) -> None:
        for target, dial, expected, unit in [
            (R1, "Ω", 470.0, "Ω"), (R1, "Ω", 4700.0, "kΩ"), (TOTAL, "Ω", 2.2e6, "MΩ"), (VOLTS, "V DC", 0.12, "mV"),
            (VOLTS, "V DC", -9.0, "V"), (AMPS, "mA DC", 0.0019, "mA"), (AMPS, "mA DC", 2e-5, "µA"),
            (AMPS, "A DC", 0.4, "A"), (AMPS, "mA DC", 0.4, "mA"),
        ]:  # fmt: skip
            with self.subTest(dial=dial, expected=expected):
                found, shown = bare_units(target, dial, expected, (), sealed=False)
                self.assertEqual(found, unit)
                self.assertIn(found, shown)  # box, dial and jack never contradict each other

    def test_in_a_sealed_run_it_is_the_dials_or_the_one_last_written(self) -> None:
        written = (Reading(AMPS, parse_beside_chooser("19", "A", "µA")),)
        for target, dial, expected in [(VOLTS, "V DC", 0.12), (AMPS, "mA DC", 2e-5), (TOTAL, "Ω", 2.2e6)]:
            first = bare_units(target, dial, expected, (), sealed=True)
            self.assertEqual(first, bare_units(target, dial, None, (), sealed=True))
        self.assertEqual(bare_units(AMPS, "mA DC", None, written, sealed=True)[0], "µA")
        self.assertEqual(bare_units(R1, "Ω", 4700.0, (), sealed=True)[0], "kΩ")  # what stands on a part is known
