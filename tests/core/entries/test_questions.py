"""What is asked about when something is typed: never a plausible entry, one question for what cannot be."""

from dataclasses import replace
from unittest import TestCase

from benchmarks.questions import SLIPS, again, found, questions
from recensor.core.circuit import Across, PartAlone, Setup, Target, Through, asking_everything, one_line
from recensor.core.editing import setup_changes
from recensor.core.entries import AnswerKind, Entered, PlaceError, Repeat, bare_units, enter, place
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from tests.samples import samples

SHEET = asking_everything(one_line.read("9V: 1k + 2k2 + 3k3; 5%"))
R1, R2, R3 = (PartAlone(name, RESISTANCE) for name in ("R1", "R2", "R3"))
V1 = PartAlone("V1", VOLTAGE)
TOTAL, ALL = Across(RESISTANCE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "gnd"), "main")
AB, BC, C = (Across(VOLTAGE, nodes, "main") for nodes in (("A", "B"), ("B", "C"), ("C", "gnd")))
AMPS = Through("V1", "main")


def typed(*entries: tuple[Target, str], sheet=SHEET) -> list[Entered]:
    """What comes of entries typed one after the other."""
    run, came = Run(sheet), []
    for target, text in entries:
        came.append(enter(run, Reading(target, parse(text, target.unit)), sheet.asked))
        run = came[-1].run
    return came


class ReadingAgain(TestCase):
    def test_what_a_new_reading_is_beside_the_one_that_stands(self) -> None:
        for second, kind in [
            ("1.38", Repeat.TRIAL), ("1.41", Repeat.TRIAL), ("1.42", Repeat.INSTEAD), ("1.383", Repeat.INSTEAD),
            ("-1.38", Repeat.INSTEAD), ("OL", Repeat.LOOK), ("1", Repeat.LOOK),
        ]:  # fmt: skip
            with self.subTest(second):
                came = typed((V1, "9.02"), (AB, "1.38"), (AB, second))[-1]
                self.assertEqual(came.repeat, kind)
                standing = [r.value.text for r in came.run.readings if r.target == AB and r.struck is None]
                self.assertEqual(standing, [second] if kind is Repeat.INSTEAD else ["1.38", second])
                self.assertEqual(came.replaced, 1 if kind is Repeat.INSTEAD else None)

    def test_after_others_were_read_the_newest_stands(self) -> None:
        came = typed((V1, "9.02"), (AB, "1.38"), (BC, "3.03"), (AB, "1.29"), (AB, "1.30"))
        self.assertEqual([entered.repeat for entered in came[3:]], [Repeat.LATER, Repeat.TRIAL])
        measured = came[-1].assessment.of(AB).measurement
        self.assertEqual((measured.mean, measured.indexes, measured.earlier), (1.295, (3, 4), (1,)))

    def test_looks_are_kept_and_never_counted(self) -> None:
        came = typed((V1, "9.02"), (AMPS, "OL"), (AMPS, "0.00"), (AMPS, "1.389m"))
        self.assertEqual([entered.repeat for entered in came], [Repeat.FIRST, Repeat.LOOK, Repeat.LOOK, Repeat.FIRST])
        self.assertEqual([entered.stays for entered in came], [False, True, True, False])
        self.assertEqual(came[-1].assessment.of(AMPS).measurement.count, 1)

    def test_over_range_is_a_reading_where_the_circuit_is_open(self) -> None:
        loose = Setup("main", "gnd", {"V1": ("A", "gnd"), "R1": ("A", "B")})
        opened = replace(SHEET, setups={"main": loose}, asked=(TOTAL,))
        self.assertEqual(typed((TOTAL, "OL"), sheet=opened)[0].repeat, Repeat.FIRST)
        self.assertEqual(typed((TOTAL, "OL"))[0].repeat, Repeat.LOOK)


class Doubts(TestCase):
    def ask(self, *entries: tuple[Target, str]) -> list[tuple[AnswerKind, str]]:
        doubted = typed(*entries)[-1].doubted
        if doubted is None:
            return []
        self.assertIn(AnswerKind.AGAIN, [answer.means for answer in doubted.answers])  # always: it was a slip
        return [
            (answer.means, answer.text or (answer.target.words if answer.target else "")) for answer in doubted.answers
        ]

    def test_what_cannot_be_is_asked_about_with_what_fits(self) -> None:
        typed_so, slip = (AnswerKind.AS_TYPED, ""), (AnswerKind.AGAIN, "")
        for entries, answers in [
            ([(R1, "1.49M")], [slip, typed_so]),  # nothing fits, and it is no resistor of 1 kΩ
            ([(TOTAL, "98k")], [slip, typed_so]),
            ([(V1, "9.02"), (AMPS, "36m")], [slip, typed_so]),
            ([(AMPS, "597")], [slip, typed_so]),
            ([(R1, "0.998M")], [(AnswerKind.MEANT, "998 Ω"), slip, typed_so]),
            ([(R1, "2.19k")], [(AnswerKind.BELONGS, "R2 by itself"), slip, typed_so]),
            ([(R1, "0.998k"), (R2, "0.998k")], [(AnswerKind.BELONGS, "R1 by itself"), slip, typed_so]),
            ([(V1, "512")], [slip, typed_so]),
            ([(V1, "2.1")], [(AnswerKind.TURNING, ""), slip, typed_so]),
            ([(V1, "9.02"), (BC, "13.4")], [slip, typed_so]),
            ([(V1, "9.02"), (AB, "3.05")], [(AnswerKind.BELONGS, BC.words), slip, typed_so]),
            ([(V1, "9.02"), (AB, "1.38"), (BC, "1.38")], [(AnswerKind.BELONGS, AB.words), slip, typed_so]),
            ([(V1, "9.02"), (AMPS, "1.389")], [(AnswerKind.MEANT, "1.389 mA"), slip, typed_so]),
            (
                [(R1, "0.998k"), (R2, "2.19k"), (R3, "3.31k"), (TOTAL, "6.5")],
                [(AnswerKind.MEANT, "6.5 kΩ"), slip, typed_so],
            ),
            ([(V1, "9.02"), (AB, "1.38"), (V1, "8.2")], [(AnswerKind.SET_ANEW, ""), slip, typed_so]),
            (
                [(V1, "9.02"), (AB, "1.38"), (V1, "90.1")],
                [(AnswerKind.MEANT, "9.01 V"), (AnswerKind.SET_ANEW, ""), slip, typed_so],
            ),
        ]:  # fmt: skip
            with self.subTest(entries[-1]):
                self.assertEqual(self.ask(*entries), answers)

    def test_what_was_typed_right_after_leaving_is_offered_to_the_point_just_left(self) -> None:
        def asked(*entries: tuple[Target, str, str]) -> tuple:
            run = Run(SHEET)
            for target, text, unit in entries:
                came = enter(run, Reading(target, parse(text, target.unit, unit)), SHEET.asked, unit_is_default=True)
                run = came.run
            answer = came.doubted and came.doubted.answers[0]
            return answer and (answer.means, answer.target, answer.text)

        belongs = AnswerKind.BELONGS
        self.assertEqual(asked((V1, "9.02", "V"), (AB, "1.3", "V"), (BC, "1.38", "V")), (belongs, AB, ""))  # finer
        self.assertEqual(asked((AB, "1.385", "V"), (BC, "-1.385", "V")), (belongs, AB, ""))
        self.assertEqual(asked((AMPS, "1.38", "mA"), (V1, "-1.38", "V")), (belongs, AMPS, "−1.38 mA"))
        self.assertIsNone(asked((AMPS, "9.02", "mA"), (V1, "-9.02", "V")))  # about what is expected there

    def test_nothing_plausible_and_no_turned_sign_is_asked_about(self) -> None:
        for entries in (
            [(R1, "1.13k")], [(V1, "7.3")], [(V1, "11.2")], [(V1, "-9.02")], [(V1, "9.02"), (AB, "-1.38")],
            [(V1, "9.02"), (AB, "1.55")], [(V1, "9.02"), (AB, "0.00")], [(AB, "1.1")], [(V1, "9.02"), (V1, "8.7")],
        ):  # fmt: skip
            with self.subTest(entries[-1]):
                self.assertEqual(self.ask(*entries), [])

    def test_a_doubtful_entry_is_kept_as_a_look_and_nothing_hangs_on_it(self) -> None:
        came = typed((R1, "0.998M"))[0]
        self.assertEqual((came.stays, came.run.readings[0].counted), (False, False))  # the work goes on
        self.assertIsNone(came.assessment.of(R1))
        self.assertTrue(typed((V1, "512"))[0].stays)  # this can hurt

    def test_an_adjustable_source_below_its_setting_is_never_doubted(self) -> None:
        knob = setup_changes.with_knob(SHEET, "V1")
        came = typed((V1, "2.1"), (V1, "4.4"), (V1, "8.97"), sheet=knob)
        self.assertEqual([entered.repeat for entered in came], [Repeat.LOOK, Repeat.LOOK, Repeat.FIRST])
        self.assertFalse(any(entered.doubted for entered in came))

    def test_clean_benches_are_left_alone_and_slips_are_noticed(self) -> None:
        asked, count = questions(samples(4, 12))
        self.assertLessEqual(asked, 0.01 * count)
        came = again(samples(6, 40))
        self.assertEqual(came.told_another, 0)
        self.assertLessEqual(came.asked, 0.005 * came.entries + 1)
        self.assertLessEqual(came.outside, 0.05 * came.measurements + 1)
        for name, slip in SLIPS.items():
            noticed, wrong = found(samples(4, 12), slip)
            self.assertGreaterEqual(noticed, 0.9 * wrong - 1, name)


class Sealed(TestCase):
    """In a sealed run nothing that is asked or offered hangs on what is calculated."""

    def test_no_answer_differs_between_circuits_that_differ_only_in_values(self) -> None:
        entries = [(AB, "1.38"), (BC, "-3.03"), (BC, "3030"), (C, "1.38"), (ALL, "0"), (AMPS, "1.389m"), (AMPS, "OL")]
        for k in range(samples(20, 200)):
            values = [f"{100 + 37 * ((k * m) % 211)}" for m in (1, 3, 7)]
            outcomes = []
            for ohms in (["1k", "2k2", "3k3"], values):
                sheet = asking_everything(one_line.read(f"9V: {' + '.join(ohms)}; 5%"))
                run = Run(sheet)
                outcomes.append([])
                for target, text in entries:
                    came = enter(run, Reading(target, parse(text, target.unit)), sheet.asked, sealed=True)
                    outcomes[-1].append((came.repeat, came.doubted, bare_units(target, "V DC" if target is not AMPS
                                         else "mA DC", None, run.readings, sealed=True)))  # fmt: skip
                    run = came.run
            self.assertEqual(outcomes[0], outcomes[1], values)

    def test_it_offers_no_number_and_still_asks_about_what_cannot_be(self) -> None:
        run = Run(SHEET)
        for target, text in [(R1, "0.998k"), (R2, "2.19k"), (R3, "3.31k")]:
            run = enter(run, Reading(target, parse(text, target.unit)), SHEET.asked, sealed=True).run
        for target, text in [(TOTAL, "6.5"), (AB, "13.8"), (R1, "0.998M")]:
            came = enter(run, Reading(target, parse(text, target.unit)), SHEET.asked, sealed=True)
            self.assertEqual([answer.means for answer in came.doubted.answers], [AnswerKind.AGAIN, AnswerKind.AS_TYPED])
            self.assertNotRegex(came.doubted.why, r"(?<![A-Z])[0-9]")


class Places(TestCase):
    def test_nodes_parts_and_leads_as_they_are_typed(self) -> None:
        bank = one_line.read("9V: 1k + (2k2 | 3k3)")
        for text, measurand, target in [
            ("A B", VOLTAGE, Across(VOLTAGE, ("A", "B"), "main")),
            ("a, gnd", RESISTANCE, Across(RESISTANCE, ("A", "gnd"), "main")),
            ("B", VOLTAGE, Across(VOLTAGE, ("B", "gnd"), "main")),
            ("r1", VOLTAGE, Across(VOLTAGE, ("A", "B"), "main")),
            ("R2", VOLTAGE, Across(VOLTAGE, ("B", "gnd"), "main", "R2")),
            ("R2", CURRENT, Through("R2", "main")),
            ("R2", RESISTANCE, PartAlone("R2", RESISTANCE)),
            ("R2.1", VOLTAGE, Through("R2", "main", "R2")),
        ]:
            with self.subTest(text):
                self.assertEqual(place(text, bank, bank.setup(), measurand), target)
        for wrong in ("", "R9", "A A", "gnd", "A B C", "R1.3", "🙂", "A" * 500):
            with self.subTest(wrong), self.assertRaises(PlaceError):
                place(wrong, bank, bank.setup(), VOLTAGE)
