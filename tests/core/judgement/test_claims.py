"""What was worked out by hand is held to its own last digit, not to what a meter can tell."""

from unittest import TestCase

from recensor.core.circuit import PartAlone, Through, one_line
from recensor.core.judgement import assess
from recensor.core.quantity import RESISTANCE, parse
from recensor.core.record import Claim, Reading, Run

SHEET = one_line.read("12.96V: 538")
CURRENT = Through("R1", "main")  # 24.089 mA


class OwnDigits(TestCase):
    def test_right_to_half_of_its_last_digit_or_said_how_it_is_not(self) -> None:
        for text, verdict, said in (
            ("0.024", "agrees", "As calculated"),
            ("24.09m", "agrees", "As calculated"),
            ("24.0m", "agrees", "cut off, not rounded"),
            ("24.2m", "outside", "24.1 mA"),
            ("0.023", "outside", "24 mA"),  # within 5 %, and yet a slip
            ("20m", "outside", "24 mA"),
            ("0.02", "agrees", "As calculated"),
            ("0.03", "agrees", "one off"),
        ):
            with self.subTest(text):
                (claim,) = assess(Run(SHEET, claims=(Claim(CURRENT, parse(text, "A")),))).claims
                self.assertEqual(str(claim.judged.verdict), verdict)
                self.assertIn(said, claim.judged.reason)

    def test_by_what_was_measured_it_is_right_too(self) -> None:
        sheet = one_line.read("9V: 1k")
        target = Through("R1", "main")
        read = Reading(PartAlone("R1", RESISTANCE), parse("1.05k"))
        for text, verdict in (("9.00m", "agrees"), ("8.57m", "agrees"), ("8.80m", "outside")):
            with self.subTest(text):
                (claim,) = assess(Run(sheet, (read,), (Claim(target, parse(text, "A")),))).claims
                self.assertEqual(str(claim.judged.verdict), verdict)
