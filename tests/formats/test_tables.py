"""Tables: CSV as RFC 4180 has it, by Python's own reader, and nothing in it that a spreadsheet would run."""

import csv
import io
import zipfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import load_workbook

from recensor.core.judgement import assess
from recensor.formats.documents import run_document
from recensor.formats.tables.csv import DEFUSED, write_csv
from recensor.formats.tables.results import READING_COLUMNS, Formula, Table, readings, tables
from recensor.formats.tables.workbook import write_ods, write_xlsx

DEMO = Path(__file__).parents[2] / "recensor/site/demo"
TEXT = st.text(st.characters(exclude_categories=["Cs"], exclude_characters="\0"), max_size=20)


def read_back(text: str) -> list[list[str]]:
    return list(csv.reader(io.StringIO(text, newline="")))


class Csv(TestCase):
    @settings(max_examples=200)
    @given(st.lists(st.lists(TEXT, min_size=2, max_size=2), max_size=5))
    def test_whatever_is_written_reads_back_and_no_cell_runs(self, rows: list[list[str]]) -> None:
        header, *found = read_back(write_csv(Table("Any", ("a", "b"), [tuple(row) for row in rows])))
        self.assertEqual(header, ["a", "b"])
        self.assertEqual([[cell.removeprefix(DEFUSED) for cell in row] for row in found],
                         [[cell.removeprefix(DEFUSED) for cell in row] for row in rows])  # fmt: skip
        for cell in (cell for row in found for cell in row):
            self.assertFalse(cell.startswith(("=", "@", "\t", "\r")), cell)
            if cell.startswith(("+", "-")):
                float(cell.replace(",", "")) if any(c.isdigit() for c in cell) else self.fail(cell)

    def test_lines_end_and_quotes_double_as_the_rfc_says(self) -> None:
        text = write_csv(Table("Notes", ("note", "volts"), [('said "so", then\nleft', 2.5), ("=HYPERLINK(1)", None)]))
        self.assertEqual(text, 'note,volts\r\n"said ""so"", then\nleft",2.5\r\n\'=HYPERLINK(1),\r\n')


class OfARun(TestCase):
    def test_every_reading_as_typed_and_in_si_struck_ones_with_their_reason(self) -> None:
        for file in sorted(DEMO.glob("*.run.json")):
            run = run_document.read(file.read_bytes())
            header, *rows = read_back(write_csv(readings(assess(run))))
            with self.subTest(file.name):
                self.assertEqual(tuple(header), READING_COLUMNS)
                self.assertEqual(len(rows), len(run.readings))
                for row, reading in zip(rows, run.readings, strict=True):
                    said = dict(zip(header, row, strict=True))
                    self.assertEqual(said["typed"].removeprefix(DEFUSED), reading.value.text)
                    if reading.value.value is not None:
                        self.assertEqual(float(said["value"]), float(reading.value))
                    if reading.struck:
                        self.assertEqual((said["standing"], said["why"]), ("struck", reading.struck.reason))

    def test_a_note_that_would_run_is_text(self) -> None:
        run = run_document.read((DEMO / "1-wind-vane-ladder.run.json").read_bytes())
        first, *others = run.readings
        run = replace(run, readings=(replace(first, note='=cmd|" /C calc"!A0'), *others))
        self.assertIn(
            '\'=cmd|" /C calc"!A0', [cell for row in read_back(write_csv(readings(assess(run)))) for cell in row]
        )

    def test_formulas_say_what_the_core_says(self) -> None:
        """Worked out here from the very cells that each names; LibreOffice does so in tests.outside."""
        run = run_document.read((DEMO / "6-temperature-bridge.run.json").read_bytes())
        count = 0
        for table in tables(assess(run)):
            for row in table.rows:
                for cell in (cell for cell in row if isinstance(cell, Formula) and "SUM" not in cell.text):
                    values = [_value(table.rows[ref.row - 1][ref.column]) for ref in cell.cells]
                    worked = eval(cell.text.format(*values), {"ABS": abs})  # noqa: S307 (our own text)
                    self.assertAlmostEqual(worked, cell.value or 0.0, delta=1e-9 * max(1.0, abs(worked)))
                    count += 1
        self.assertGreater(count, 20)

    def test_what_was_typed_is_text_in_a_workbook_too(self) -> None:
        table = Table("Notes", ("note",), [("=1+1",), ("@SUM(A1)",), ("bell \a rings",)])
        page = load_workbook(io.BytesIO(write_xlsx([table]))).active
        self.assertEqual([(cell.value, cell.data_type) for (cell,) in page.iter_rows(min_row=2)],
                         [("=1+1", "s"), ("@SUM(A1)", "s"), ("bell   rings", "s")])  # fmt: skip
        with zipfile.ZipFile(io.BytesIO(write_ods([table]))) as book:
            self.assertNotIn("formula", book.read("content.xml").decode())


def _value(cell: object) -> float:
    found = cell.value if isinstance(cell, Formula) else cell
    assert isinstance(found, int | float)
    return found
