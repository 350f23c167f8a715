"""Two people, or two windows, at the same moment: nothing is taken twice, nothing is lost."""

import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from decimal import Decimal
from threading import Barrier

from django.contrib.auth import get_user_model
from django.db import OperationalError, connection
from django.test import TransactionTestCase

from recensor.board_page import kept_board
from recensor.core.boards import Hole, Piece, Placement
from recensor.core.circuit import one_line, read_part
from recensor.core.editing import edits
from recensor.core.errors import Refused
from recensor.core.quantity import parse
from recensor.experiments.queries import sheet_of
from recensor.experiments.services import edit, make_experiment
from recensor.kits import services as kits
from recensor.kits import sorting_table
from recensor.kits.models import Bin, SortedPart
from recensor.runs import services as bench
from recensor.runs.models import RunRow
from recensor.web.transactions import atomic_with_retry

TOGETHER = 6


class AtOnce(TransactionTestCase):
    def setUp(self) -> None:
        self.person = get_user_model().objects.create_user("bench-1")
        self.kit = kits.make_kit(self.person, "Stock")

    def together(self, act: Callable[[int], object]) -> list[object]:
        """Do it in several threads that start at one moment; what each gave, or the refusal it met."""
        start = Barrier(TOGETHER)

        def one(number: int) -> object:
            try:
                start.wait(timeout=20)
                return act(number)
            except Refused as refused:
                return refused
            finally:
                connection.close()

        with ThreadPoolExecutor(TOGETHER) as threads:
            return list(threads.map(one, range(TOGETHER)))

    def test_the_last_part_of_a_bin_goes_into_one_run(self) -> None:
        kits.fill_bin(self.kit, Decimal(1000), Decimal(5), 2)
        planned = make_experiment(self.person, one_line.read("9V: 1k; 5%"))
        done = self.together(lambda _: bench.start_experiment(self.person, planned, kit=self.kit))
        self.assertEqual(sum(isinstance(one, RunRow) for one in done), 2)
        self.assertEqual(sum(isinstance(one, Refused) for one in done), TOGETHER - 2)
        self.assertEqual((Bin.objects.get().count, RunRow.objects.count()), (0, 2))
        pressed_twice = uuid.uuid4()
        kits.fill_bin(self.kit, Decimal(1000), Decimal(5), TOGETHER)
        begun = self.together(
            lambda _: bench.start_experiment(self.person, planned, kit=self.kit, key=pressed_twice).pk
        )
        self.assertEqual((len(set(begun)), Bin.objects.get().count), (1, TOGETHER - 1))
        bench.return_parts(RunRow.objects.get(key=pressed_twice))
        kits.set_count(Bin.objects.get(), 0)
        for run in RunRow.objects.all():
            self.together(lambda _, run=run: bench.return_parts(run))
        self.assertEqual(Bin.objects.get().count, 2)

    def test_a_board_that_is_taken_by_a_double_press_is_one(self) -> None:
        key = uuid.uuid4()
        begun = self.together(lambda _: bench.begin_on_board(self.person, key).pk)
        self.assertEqual((len(set(begun)), RunRow.objects.count(), self.person.experiments.count()), (1, 1, 1))

    def test_a_class_that_begins_and_ends_together_out_of_one_kit_waits_for_nobody_for_good(self) -> None:
        """Circuits that name the same bins in opposite orders, parts put back, and bins filled, all at one moment."""
        values = ["1k", "2k2", "4k7", "10k"]
        for value in values:
            kits.fill_bin(self.kit, Decimal(parse(value, "Ω").value), Decimal(5), 100)
        lines = [f"9V: {' + '.join(order)}; 5%" for order in (values, values[::-1])]
        planned = [make_experiment(self.person, one_line.read(line)) for line in lines]
        ended = [bench.start_experiment(self.person, planned[0], kit=self.kit) for _ in range(2)]

        def act(number: int) -> object:
            if number < 2:
                return bench.return_parts(ended[number])
            if number == 2:
                return kits.fill_bin(self.kit, Decimal(4700), Decimal(5), 10)
            return bench.start_experiment(self.person, planned[number % 2], kit=self.kit)

        for _ in range(3):
            self.together(act)
        self.assertEqual(sum(Bin.objects.values_list("count", flat=True)), 4 * 100 + 3 * 10 - 3 * 3 * 4)

    def test_what_the_database_ended_for_a_deadlock_is_begun_again(self) -> None:
        tries: list[int] = []

        @atomic_with_retry
        def stubborn(fails: int, code: int) -> int:
            tries.append(code)
            if len(tries) <= fails:
                raise OperationalError(code, "Deadlock found when trying to get lock")
            return len(tries)

        self.assertEqual(stubborn(2, 1213), 3)
        tries.clear()
        with self.assertRaises(OperationalError):
            stubborn(1, 2006)
        self.assertEqual(len(tries), 1)
        tries.clear()
        with self.assertRaises(OperationalError):
            stubborn(99, 1205)
        self.assertEqual(len(tries), 5)

    def test_parts_filled_in_at_once_are_all_counted(self) -> None:
        self.together(lambda number: kits.fill_bin(self.kit, Decimal(1000), Decimal(5), number))
        self.assertEqual(Bin.objects.get().count, sum(range(TOGETHER)))

    def test_one_entry_sent_from_many_windows_is_one_part(self) -> None:
        table, key = kits.start_sorting(self.kit, 12, Decimal(5)), uuid.uuid4()
        done = self.together(lambda _: kits.sort_part(table.pk, self.person, parse("1.01k", "Ω"), key))
        self.assertEqual({part.pk for part in done}, {SortedPart.objects.get().pk})

    def test_many_entries_at_once_are_all_tallied_and_put_away_once(self) -> None:
        table = kits.start_sorting(self.kit, 12, Decimal(5))

        def sort(number: int) -> None:
            for k in range(5):
                kits.sort_part(table.pk, self.person, parse(f"{990 + number + k}", "Ω"), uuid.uuid4())
                sorting_table.tally_of(table.pk)

        self.together(sort)
        tally = sorting_table.tally_of(table.pk)
        self.assertEqual([tally.summary(which).count for which in tally.in_use], [5 * TOGETHER])
        done = self.together(lambda _: kits.put_away(table))
        self.assertEqual(sum(isinstance(one, Refused) for one in done), TOGETHER - 1)
        self.assertEqual(Bin.objects.get().count, 5 * TOGETHER)

    def test_an_entry_that_is_taken_back_from_many_windows_is_taken_back_alone(self) -> None:
        table = kits.start_sorting(self.kit, 12, Decimal(5))
        for text in ("1.01k", "1.02k", "0.99k"):
            kits.sort_part(table.pk, self.person, parse(text, "Ω"), uuid.uuid4())
        last = sorting_table.last_standing(table.pk)
        self.together(lambda _: kits.take_back_last(table, self.person, last))
        taken = SortedPart.objects.exclude(takes_back=None).values_list("takes_back", flat=True)
        self.assertEqual(list(taken), [last])
        sorting_table.cache.clear()
        self.assertLessEqual(sorting_table.tally_of(table.pk).strays, 0)

    def test_parts_put_on_a_board_from_two_windows_are_all_on_it(self) -> None:
        line = " + ".join(["1k"] * TOGETHER)
        run = bench.start_run(self.person, one_line.read(f"9V: {line}; 5%"))
        sheet = run.sheets.last().sheet.as_sheet()

        def put(number: int) -> None:
            placed = Placement(f"R{number + 1}", Piece.PART, (Hole("a", number * 4 + 1), Hole("a", number * 4 + 4)))
            kept_board.change(run, sheet, sheet.setup(), lambda board: replace(board, built=board.built.put(placed)))

        self.together(put)
        self.assertEqual(len(kept_board.load(run, sheet, sheet.setup()).built.placements), TOGETHER)

    def test_edits_from_two_windows_follow_one_another(self) -> None:
        experiment = make_experiment(self.person, one_line.read("9V: 1k + 2k; 5%"))

        def longer(run: object) -> object:
            part = read_part(f"{edits.free_name(run, run.parts['R1'].kind)}=470")
            return edits.insert_in_series(run, "main", "R1", part)

        self.together(lambda _: edit(experiment, self.person, longer))
        experiment.refresh_from_db()
        self.assertEqual(len(sheet_of(experiment).parts), 3 + TOGETHER)
        self.assertEqual(list(experiment.versions.values_list("number", flat=True)), list(range(1, TOGETHER + 2)))
