"""How a reading stands beside the others of its measurement, in the order of the rules; and what two cannot both be."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, one_line
from recensor.core.editing.edits import asking_everything
from recensor.core.entries import Repeat, enter
from recensor.core.judgement import AccountVerdict, Verdict, assess, gather
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import DisagreementAnswer, DisagreementReason, Reading, Run, Strike
from recensor.formats.documents import run_document

SHEET = asking_everything(one_line.read("9V: 1k + 2k; 5%"))
R1, R2, V1 = (Across(VOLTAGE, leads, "main") for leads in (("A", "B"), ("B", "gnd"), ("A", "gnd")))
OHMS = PartAlone("R1", RESISTANCE)


def typed(*entries: tuple, meter: str | None = None) -> Run:
    run = Run(SHEET)
    for target, text, *named in entries:
        reading = Reading(target, parse(text, target.unit), meter=named[0] if named else meter)
        run = enter(run, reading, SHEET.asked).run
    return run


def standings(run: Run) -> list[str]:
    return [str(standing) for standing in gather(run).standings]


class Standings(TestCase):
    def test_what_is_typed_beside_what_stands_in_the_order_of_the_rules(self) -> None:
        between = (R2, "6.00")
        for entries, expected, mean in (
            # A zero or an over-range beside a number says nothing; a first zero is one.
            (((R1, "3.00"), between, (R1, "OL")), ["counted", "counted", "look"], 3.0),
            (((R1, "3.00"), between, (R1, "0.00")), ["counted", "counted", "look"], 3.0),
            (((R1, "0.00"),), ["counted"], 0.0),
            # Another meter's number is beside, at once or later.
            (((R1, "3.00"), (R1, "3.07", "second")), ["counted", "beside"], 3.0),
            # A turned sign is the same number put right.
            (((R1, "-3.00"), between, (R1, "3.00")), ["replaced", "counted", "counted"], 3.0),
            # A coarser number that what stands lies within only confirms it.
            (((R1, "3.02"), between, (R1, "3.0")), ["counted", "counted", "confirms"], 3.02),
            (((R1, "3.02"), (R1, "3.0")), ["counted", "confirms"], 3.02),
            (((R1, "3.02"), between, (R1, "3.2")), ["earlier", "counted", "later"], 3.2),
            # At once and alike: another trial, on the limit of three digits; beyond it replaces.
            (((R1, "3.00"), (R1, "3.03")), ["counted", "counted"], 3.015),
            (((R1, "3.00"), (R1, "3.04")), ["replaced", "counted"], 3.04),
            # After others the newest stands, and what follows it at once joins it.
            (((R1, "3.00"), between, (R1, "3.60")), ["earlier", "counted", "later"], 3.6),
            (((R1, "3.00"), between, (R1, "3.60"), (R1, "3.62")), ["earlier", "counted", "later", "later"], 3.61),
            (((R1, "3.00"), between, (R1, "3.60"), (V1, "9.00"), (R1, "3.01")),
             ["earlier", "counted", "earlier", "counted", "later"], 3.01),
        ):  # fmt: skip
            with self.subTest([text for _, text, *_ in entries]):
                run = typed(*entries)
                self.assertEqual(standings(run), expected)
                self.assertAlmostEqual(assess(run).of(R1).measurement.mean, mean)
                again = run_document.read(run_document.write(run))
                self.assertEqual(standings(again), expected)

    def test_the_number_just_typed_is_judged_and_it_stands(self) -> None:
        run = typed((R1, "3.000"), (R2, "6.000"), (R1, "3.600"))
        assessed = assess(run)
        self.assertIs(assessed.of(R1).judged.verdict, Verdict.OUTSIDE)
        self.assertAlmostEqual(assessed.of(R1).judged.value, 3.6)
        self.assertEqual((assessed.of(R1).measurement.indexes, assessed.of(R1).measurement.earlier), ((2,), (0,)))
        by_itself = {one.index: one.judged.verdict for one in assessed.readings}
        self.assertIs(by_itself[0], Verdict.AGREES)

    def test_read_again_with_the_leads_the_other_way_each_is_judged_as_it_was_held(self) -> None:
        run = typed((R1, "3.000"), (R2, "6.000"), (R1, "3.100"))
        turned = replace(run.readings[2], target=Across(VOLTAGE, ("B", "A"), "main"), value=parse("-3.100", "V"))
        assessed = assess(replace(run, readings=(*run.readings[:2], turned)))
        (last,) = (one.judged for one in assessed.readings if one.index == 2)
        self.assertEqual((last.value, round(last.measured.value, 9)), (-3.1, -3.0))
        self.assertAlmostEqual(assessed.of(R1).judged.value, 3.1)

    def test_one_later_look_does_not_break_a_sum_that_closed(self) -> None:
        run = typed((V1, "9.00"), (R1, "3.00"), (R2, "6.00"), (OHMS, "1.00k"), (R2, "5.00"))
        assessed = assess(run)
        self.assertIs(assessed.of(R2).judged.verdict, Verdict.OUTSIDE)
        (loop,) = (account for account in assessed.laws if account.around)
        self.assertIs(loop.verdict, AccountVerdict.BALANCES)
        self.assertEqual(loop.residual, 0.0)


class Disagreements(TestCase):
    def found(self, run: Run) -> list[tuple[int, int, bool]]:
        return [(one.index, one.earlier, one.is_open) for one in assess(run).disagreements]

    def test_what_cannot_both_be_right_is_asked_about_until_it_is_said_why(self) -> None:
        run = typed((R1, "3.000"), (R2, "6.000"), (R1, "3.600"))
        self.assertEqual(self.found(run), [(2, 0, True)])
        (warned,) = (w.text for w in assess(run).warnings if w.at == "readings[2].value")
        self.assertEqual(warned, "3.600 V now, 3.000 V before: they do not agree")
        told = replace(run.readings[2], contradicts=DisagreementAnswer(0, DisagreementReason.CONTACT))
        closed = replace(run, readings=(*run.readings[:2], told))
        self.assertEqual(self.found(run_document.read(run_document.write(closed))), [(2, 0, False)])

    def test_replaced_at_once_it_is_asked_about_as_well(self) -> None:
        self.assertEqual(self.found(typed((R1, "3.60"), (R1, "3.00"))), [(1, 0, True)])

    def test_what_somebody_struck_has_its_reason_already(self) -> None:
        run = typed((R1, "3.60"), (R1, "3.00"))
        struck = replace(run.readings[0], struck=Strike("decimal point"))
        self.assertEqual(self.found(replace(run, readings=(struck, run.readings[1]))), [])

    def test_nothing_is_asked_where_both_may_be_right(self) -> None:
        for entries in (
            ((R1, "3.00"), (R2, "6.00"), (R1, "3.03")),  # three digits apart
            ((R1, "3.00"), (R2, "6.00"), (R1, "-3.00")),  # the leads were turned
            ((R1, "3.00"), (R2, "6.00"), (R1, "3.6", "second")),  # by another meter
            ((R1, "3.00"), (V1, "9.00"), (R1, "2.93"), (V1, "8.80")),  # the source went down between
            ((V1, "9.00"), (R2, "6.00"), (V1, "8.50")),  # the source itself: that is its drift
        ):  # fmt: skip
            with self.subTest([text for _, text, *_ in entries]):
                self.assertEqual(self.found(typed(*entries)), [])

    def test_what_it_names_must_be_an_earlier_reading_of_the_same(self) -> None:
        run = typed((R1, "3.000"), (R2, "6.000"), (R1, "3.600"))
        slip = replace(run.readings[2], contradicts=DisagreementAnswer(0, DisagreementReason.SLIP))
        text = run_document.write(replace(run, readings=(*run.readings[:2], slip)))
        for wrong in ('"with": 1', '"with": 2', '"with": 7'):
            with self.assertRaisesRegex(ValueError, r"readings\[2\]\.contradicts"):
                run_document.read(text.replace('"with": 0', wrong))


class Declared(TestCase):
    def test_what_somebody_says_goes_before_the_rules(self) -> None:
        run = typed((R1, "3.00"), (R2, "6.00"))
        for said, expected in ((Repeat.TRIAL, ["counted", "counted", "counted"]),
                               (Repeat.INSTEAD, ["replaced", "counted", "counted"])):  # fmt: skip
            came = enter(run, Reading(R1, parse("3.60", "V")), SHEET.asked, declared_as=said)
            self.assertEqual(standings(came.run), expected)
