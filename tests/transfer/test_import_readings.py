"""Readings and parts out of tables: looked at first, all or nothing, once, and by the numbers of the blank sheet."""

import uuid

from django.core.files.uploadedfile import SimpleUploadedFile

from recensor.core.errors import Refused
from recensor.core.plan import in_order
from recensor.kits.models import Bin
from recensor.kits.services import MOST_VALUES, Parts, fill_bins, make_kit
from recensor.reports.blank import blank_sheet
from recensor.runs import queries, services
from recensor.runs.models import ReadingRow
from tests.kits.test_kits import KitTestCase
from tests.served import BenchTestCase

CELLS = "Where\tReading\tUnit\nR1\t1.002\tkΩ\nR2\t1.99\tkΩ\n\nR3\t\tkΩ\nQ7\t3\tV\nA B\t1.001\tV\n"


class Pages(BenchTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.page = f"{self.address}readings-in/"

    def look(self, content: bytes, **sent: object):
        return self.client.post(self.page, {"file": SimpleUploadedFile("readings.csv", content), **sent})

    def keep(self, looked, **sent: object):
        kept = {"text": looked.context["text"], "wanted": "on", "key": uuid.UUID(int=7)}
        return self.client.post(self.page, {**kept, **sent}, follow=True)

    def taken(self) -> list[tuple[str, str, str]]:
        rows = queries.load(queries.any_run().get(pk=self.run_row.pk)).core.readings
        return [(row.target.words, row.value.text, row.value.beside) for row in rows]

    def test_each_line_is_shown_nothing_is_written_and_then_all_of_it_once(self) -> None:
        looked = self.client.post(self.page, {"pasted": CELLS})
        for said in ("<b>3 readings will be kept</b>", "2 lines left out", "its reading is empty", "is no place here",
                     "R1 by itself: 1.002 kΩ", "agrees"):  # fmt: skip
            self.assertContains(looked, said)
        self.assertEqual([line.number for line in looked.context["lines"]], [2, 3, 5, 6, 7])
        self.assertFalse(ReadingRow.objects.exists())
        for _ in range(2):  # pressed twice
            self.assertContains(self.keep(looked), "3 of 10 read")
            self.assertEqual(self.taken(), [("R1 by itself", "1.002", "kΩ"), ("R2 by itself", "1.99", "kΩ"),
                                            ("voltage from A to B", "1.001", "V")])  # fmt: skip

    def test_the_same_table_once_more_says_what_stands_there_already(self) -> None:
        self.keep(self.client.post(self.page, {"pasted": CELLS}))
        self.assertContains(self.client.post(self.page, {"pasted": CELLS}), "another trial", count=3)
        table = self.client.get(f"{self.address}report/csv/").content
        again = self.look(table)
        self.assertContains(again, "It is in this run already", count=3)
        self.assertNotContains(again, "Keep all")

    def test_last_zeros_that_a_spreadsheet_dropped_are_told(self) -> None:
        cells = "Where\tRead\nA B\t1.002V\nB C\t2V\nC gnd\t3.000V\nR1\t5mA\nA C\t4.26V"
        looked = self.client.post(self.page, {"pasted": cells})
        told = [line.number for line in looked.context["lines"] if "drops last zeros" in line.becomes]
        self.assertEqual(told, [3])  # not the only one of its quantity, and no larger than what shows more

    def test_columns_are_said_anew_where_their_names_say_nothing(self) -> None:
        looked = self.look(b"Ort;Wert\nR1;1002\n")
        self.assertContains(looked, "its reading is empty")
        self.assertNotContains(looked, "Keep it")
        again = self.client.post(self.page, {"text": looked.context["text"], "column-0": "point", "column-1": "typed"})
        self.assertContains(again, "Say whether it is a voltage")
        once_more = self.client.post(self.page, {"text": looked.context["text"], "column-0": "of", "column-1": "typed"})
        self.assertContains(once_more, "Keep it")
        both = self.client.post(self.page, {"text": looked.context["text"], "column-0": "of", "column-1": "of"})
        self.assertContains(both, "Two columns are both", status_code=422)

    def test_a_blank_sheet_is_typed_in_by_its_numbers(self) -> None:
        sheet = queries.load(queries.any_run().get(pk=self.run_row.pk)).core.sheet
        order = in_order(sheet.asked, sheet)
        blank = blank_sheet(sheet, "", order="volts first", conventions=self.person.conventions)
        numbers = [line.number for block in blank.blocks for line in block.lines]
        lines = "\n".join(f"{number},{k + 1}.5" for k, number in enumerate(numbers))
        self.keep(self.look(f"No.,Read\n{lines}\n".encode()))
        asked = [sheet.asked[k].words for k in order]
        self.assertEqual([words for words, *_ in self.taken()], asked)

    def test_whatever_is_no_table_says_so_and_a_closed_or_a_strangers_run_takes_none(self) -> None:
        for content, said in ((b"\xff\xfe\xff", "no UTF-8"), (b"a", "no table"), (b"PK\x03\x04 no zip", "no workbook")):
            self.assertContains(self.look(content), said, status_code=422)
        self.assertContains(self.client.post(self.page, {}), "Choose a file", status_code=422)
        self.assertContains(self.look(b"x" * 1_000_001), "larger than", status_code=422)
        looked = self.client.post(self.page, {"pasted": CELLS})
        self.run_row.closed = self.run_row.created
        self.run_row.save()
        self.assertContains(self.keep(looked), "signed off, and closed", status_code=409)
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(self.page).status_code, 404)
        self.assertFalse(ReadingRow.objects.exists())

    def test_all_or_nothing_and_few_queries_for_many(self) -> None:
        core = queries.load(queries.any_run().get(pk=self.run_row.pk)).core
        self.enter(0, "1.002", "kΩ")
        reading = queries.load(queries.any_run().get(pk=self.run_row.pk)).core.readings[0]
        run = queries.any_run().get(pk=self.run_row.pk)
        with self.assertRaises(Refused):
            services.import_readings(run, self.person, [reading] * 5_000, uuid.uuid4())
        self.assertEqual(ReadingRow.objects.count(), 1)
        with self.assertNumQueries(6):
            services.import_readings(run, self.person, [reading] * 1_000, uuid.uuid4())
        self.assertEqual(ReadingRow.objects.count(), 1_001)
        self.assertEqual(len(core.readings), 0)


class KitLists(KitTestCase):
    def test_a_list_fills_bins_once_and_says_which_lines_do_not(self) -> None:
        page = f"/kits/{self.kit.pk}/parts-in/"
        looked = self.client.post(page, {"pasted": "Value\tQty\n1k\t2\n4k7\t10\n4k7\t1\nblue\t3\n-1\t1\n"})
        self.assertContains(looked, "3 lines of parts will be kept")
        self.assertEqual(sum(bool(line.why) for line in looked.context["lines"]), 2)
        before = self.counts()
        for _ in range(2):
            self.client.post(page, {"text": looked.context["text"], "wanted": "on", "key": uuid.UUID(int=3)})
        self.assertEqual(self.counts(), {**before, "1 kΩ ± 5 %": before["1 kΩ ± 5 %"] + 2, "4.7 kΩ ± 5 %": 11})
        self.client.force_login(self.other)
        self.assertIn(self.client.get(page).status_code, (403, 404))

    def test_a_list_too_long_leaves_the_kit_as_it_was(self) -> None:
        kit, before = make_kit(self.person, "Long"), Bin.objects.count()
        with self.assertRaises(Refused):
            fill_bins(kit, [Parts(k + 1, 5, 1) for k in range(MOST_VALUES + 1)], uuid.uuid4())
        self.assertEqual(Bin.objects.count(), before)
