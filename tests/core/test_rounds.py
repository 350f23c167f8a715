"""Everything once, then everything again: the rounds in which a run is read."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import RecordError, asking_everything, one_line
from recensor.core.circuit.sheet import check
from recensor.core.entries import Repeat, enter
from recensor.core.judgement import assess
from recensor.core.plan import plan
from recensor.core.quantity import parse
from recensor.core.record import Reading, Run
from recensor.core.standing import Rounds, Standing
from recensor.formats.documents import run_document

SHEET = replace(asking_everything(one_line.read("6V: 1k + 2k; 5%")), rounds=3)
TEXTS = ("1.001k", "2.004k", "6.02", "3.01k", "2.004", "4.01", "6.01", "2.003m")


def typed(run: Run, target, text: str):
    """The run after an entry, as the bench enters it."""
    reading = Rounds.of(run.sheet, run.readings).add(Reading(target, parse(text, target.unit)))
    return enter(run, reading, run.sheet.asked)


class InRounds(TestCase):
    def test_the_next_opens_once_everything_was_read_and_the_means_are_over_rounds(self) -> None:
        run = Run(SHEET)
        for number in (1, 2, 3):
            for k, (target, text) in enumerate(zip(SHEET.asked, TEXTS, strict=True)):
                self.assertEqual(assess(run).rounds.number, number)
                self.assertEqual(sum(map(assess(run).is_read, SHEET.asked)), k)
                self.assertEqual(sum(step.reads is not None for step in plan(run).steps), len(TEXTS) - k)
                entered = typed(run, target, text)
                self.assertIs(entered.repeat, Repeat.FIRST)
                self.assertIsNone(entered.doubted)
                run = entered.run
        assessment = assess(run)
        self.assertTrue(all(map(assessment.is_read, SHEET.asked)))
        self.assertEqual({t.measurement.count for t in assessment.targets.values()}, {3})
        self.assertEqual(assessment.disagreements, [])

    def test_inside_a_round_the_newest_stands(self) -> None:
        run = Run(SHEET)
        for target, text in zip(SHEET.asked, TEXTS, strict=True):
            run = typed(run, target, text).run
        volts = SHEET.asked[4]
        run = typed(run, volts, "2.10").run
        run = typed(run, SHEET.asked[5], "4.00").run
        entered = typed(run, volts, "2.02")
        self.assertIs(entered.repeat, Repeat.LATER)
        measurement = assess(entered.run).of(volts).measurement
        self.assertEqual(measurement.values, (2.004, 2.02))  # one of the first round, the newest of the second
        standings = assess(entered.run).against.measurements.standings
        self.assertEqual([s for s, r in zip(standings, entered.run.readings, strict=True) if r.target.key == volts.key],
                         [Standing.COUNTED, Standing.EARLIER, Standing.COUNTED])  # fmt: skip

    @given(st.lists(st.integers(0, len(TEXTS) - 1), max_size=40))
    def test_whatever_is_read_the_document_says_the_same(self, order: list[int]) -> None:
        rounds, readings = Rounds(SHEET), []
        for k in order:
            readings.append(rounds.add(Reading(SHEET.asked[k], parse(TEXTS[k], SHEET.asked[k].unit))))
        numbers = [reading.round for reading in readings]
        self.assertEqual(numbers, sorted(numbers))
        for number in set(numbers) - {max(numbers, default=1)}:  # no round is left before it is complete
            self.assertEqual({r.target.key for r in readings if r.round == number}, {t.key for t in SHEET.asked})
        run = Run(SHEET, tuple(readings))
        again = run_document.read(run_document.write(run))
        self.assertEqual([r.round for r in again.readings], numbers)
        self.assertEqual(again.sheet.rounds, 3)
        replayed = Rounds(SHEET)
        self.assertEqual([replayed.add(replace(r, round=None)).round for r in readings], numbers)

    def test_rounds_are_counted_from_one(self) -> None:
        for rounds in (0, 21):
            with self.assertRaisesRegex(RecordError, "rounds"):
                check(replace(SHEET, rounds=rounds))
        tree = run_document.to_tree(Run(SHEET, (Reading(SHEET.asked[0], parse("1k", "Ω"), round=2),)))
        tree["readings"][0]["round"] = 0
        with self.assertRaisesRegex(run_document.DocumentError, r"readings\[0\].round: rounds are counted from 1"):
            run_document.from_tree(tree)


class SourcesInBetween(TestCase):
    def test_they_end_no_group_of_trials(self) -> None:
        sheet = asking_everything(one_line.read("6V: 1k + 2k; 5%"))
        alone, source, volts, loaded = (sheet.asked[k] for k in (0, 2, 4, 6))
        run = typed(Run(sheet), volts, "2.004").run
        for target, text in ((source, "6.02"), (loaded, "6.01")):
            run = typed(run, target, text).run
        entered = typed(run, volts, "2.005")
        self.assertIs(entered.repeat, Repeat.TRIAL)
        self.assertEqual(assess(entered.run).of(volts).measurement.count, 2)
        run = typed(run, alone, "1.001k").run
        self.assertIs(typed(run, volts, "2.005").repeat, Repeat.LATER)
