"""Corrections of a recorded reading: what each makes of the run, and what is never lost by one."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import Across, asking_everything, one_line
from recensor.core.entries import CorrectionKind, corrections, enter, words
from recensor.core.judgement import assess, gather
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.standing import Standing

SHEET = asking_everything(one_line.read("9V: 1k + 2k2 + 3k3; 5%"))
TEXTS = ("0.998k", "2.19k", "3.31k", "9.02", "6.49k", "1.385", "3.04", "4.59", "9.01", "1.389m")


def honest(*texts: str) -> Run:
    """A run in which each point, in the sheet's order, was typed once."""
    run = Run(SHEET)
    for target, text in zip(SHEET.asked, texts, strict=False):
        run = enter(run, Reading(target, parse(text, target.unit)), SHEET.asked).run
    return run


def by_name(run: Run, index: int) -> dict[str, Run]:
    return {correction.name: correction.run for correction in corrections(run, SHEET.asked, index)}


class Corrected(TestCase):
    @given(st.integers(0, len(TEXTS) - 1))
    def test_a_correction_changes_readings_and_adds_or_loses_none(self, index: int) -> None:
        run = honest(*TEXTS)
        for correction in corrections(run, SHEET.asked, index):
            self.assertEqual(len(correction.run.readings), len(run.readings), correction.name)
            changed = {k for k, (a, b) in enumerate(zip(run.readings, correction.run.readings, strict=True)) if a != b}
            self.assertEqual(changed, set(correction.moved), correction.name)
            self.assertTrue(words(correction, run.readings[index], "there"))
            assess(correction.run)

    def test_a_turned_sign_and_a_forgotten_prefix_are_put_right(self) -> None:
        run = honest(*TEXTS[:5], "-1.385", "3.04")
        self.assertEqual(by_name(run, 5)["sign"].readings[5].value.text, "1.385")
        twice = by_name(by_name(run, 5)["sign"], 5)["sign"]
        self.assertEqual(float(twice.readings[5].value), -1.385)
        for name, value in (("thousand", 3040.0), ("thousandth", 0.00304)):
            self.assertAlmostEqual(float(by_name(run, 6)[name].readings[6].value), value)
            self.assertEqual(by_name(run, 6)[name].readings[6].value.resolution, parse("0.01").resolution
                             * (1000 if name == "thousand" else parse("1m").value))  # fmt: skip

    def test_all_since_here_goes_back_by_one_and_on_again(self) -> None:
        run = honest(*TEXTS[:5])
        late = Run(
            SHEET,
            (*run.readings, *(Reading(SHEET.asked[k], parse(TEXTS[k - 1], SHEET.asked[k].unit)) for k in (6, 7, 8))),
        )
        back = by_name(late, 5)["shift back"]
        self.assertEqual([r.target for r in back.readings[5:]], list(SHEET.asked[5:8]))
        self.assertEqual(by_name(back, 5)["shift on"].readings, late.readings)
        agreed = [found.judged.verdict.value for key, found in assess(back).targets.items() if isinstance(key, Across)]
        self.assertEqual(set(agreed), {"agrees"})
        self.assertNotIn("shift back", by_name(late, 0))  # nothing stands before the first point
        self.assertNotIn("shift on", by_name(honest(*TEXTS), 9))

    def test_trial_and_instead_are_swapped_both_ways(self) -> None:
        run = enter(honest(*TEXTS[:6]), Reading(SHEET.asked[5], parse("1.45", "V")), SHEET.asked).run
        self.assertEqual(gather(run).standings[5:], [Standing.REPLACED, Standing.COUNTED])
        both = by_name(run, 6)[CorrectionKind.TRIAL]
        self.assertEqual(assess(both).of(SHEET.asked[5]).measurement.count, 2)
        again = by_name(both, 6)[CorrectionKind.INSTEAD]
        self.assertEqual(gather(again).standings[5:], [Standing.REPLACED, Standing.COUNTED])
        look = by_name(run, 6)[CorrectionKind.LOOK]
        self.assertEqual(by_name(look, 6)[CorrectionKind.COUNT].readings[6].counted, True)


class ReadAtMany(TestCase):
    def test_the_same_by_size_whichever_way_round_the_leads_were(self) -> None:
        turned = honest(*TEXTS[:5], "-1.385", "-3.04", "4.59", "9.01")
        signed = Run(turned.sheet, turned.readings)
        by_size = Run(turned.sheet, turned.readings, by_size=True)
        self.assertEqual({a.verdict.value for a in assess(signed).laws if a.law is VOLTAGE}, {"out"})
        self.assertEqual({a.verdict.value for a in assess(by_size).laws if a.law is VOLTAGE} & {"balances", "close"},
                         {a.verdict.value for a in assess(by_size).laws if a.law is VOLTAGE})  # fmt: skip
        self.assertEqual(by_size.readings[5].value.text, "-1.385")
