"""Workbooks recomputed by LibreOffice (Debian's package): its figures are those of the core."""

import csv
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase

from recensor.core.judgement import assess
from recensor.core.record import Run
from recensor.formats.documents import run_document
from recensor.formats.tables.columns import guessed
from recensor.formats.tables.csv import write_csv
from recensor.formats.tables.grid import read_grid, read_text
from recensor.formats.tables.lines import COLUMNS, read_lines
from recensor.formats.tables.results import READING_COLUMNS, Formula, Table, tables
from recensor.formats.tables.workbook import write_ods, write_xlsx

DEMO = Path(__file__).parents[2] / "recensor/site/demo"
# To CSV, every sheet in a file of its own, cell contents as they are and not as they are shown.
AS_CSV = "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,false,false,false,false,false,-1"


class LibreOffice(TestCase):
    def test_both_kinds_of_workbook_come_to_the_same_figures(self) -> None:
        found = tables(assess(run_document.read((DEMO / "6-temperature-bridge.run.json").read_bytes())))
        for ending, write in ((".xlsx", write_xlsx), (".ods", write_ods)):
            with self.subTest(ending), tempfile.TemporaryDirectory() as name:
                folder = Path(name)
                (folder / f"run{ending}").write_bytes(write(found))
                self.convert(folder, f"run{ending}", AS_CSV)
                for table in found:
                    with (folder / f"run-{table.name}.csv").open(newline="", encoding="utf-8") as lines:
                        self.check(table, list(csv.reader(lines)))

    def test_what_it_saves_is_read_as_the_table_that_it_was(self) -> None:
        run = run_document.read((DEMO / "6-temperature-bridge.run.json").read_bytes())
        table = next(one for one in tables(assess(run)) if one.name == "Readings")
        ours = read_text(write_csv(table))
        typed = [ours.header.index(name) for name in ("setup", "of", "red", "black", "through", "typed", "typed_unit")]
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "run.xlsx").write_bytes(write_xlsx([table]))
            self.convert(folder, "run.xlsx", "ods")
            self.convert(folder, "run.ods", "xlsx")
            for ending in ("ods", "xlsx"):
                theirs = read_grid((folder / f"run.{ending}").read_bytes(), READING_COLUMNS)
                self.assertEqual(theirs.header, ours.header)
                for was, now in zip(ours.rows, theirs.rows, strict=True):
                    self.assertEqual([now[k] for k in typed], [was[k] for k in typed])
                lines = read_lines(theirs, guessed(theirs.header, COLUMNS), Run(run.sheet), [])
                values = [line.reading.value.value for line in lines if line.reading]
                self.assertEqual(values, [one.value.value for one in run.readings if not one.struck])

    @staticmethod
    def convert(folder: Path, file: str, to: str) -> None:
        """Let it open a file and save it as another kind."""
        command = ["soffice", f"-env:UserInstallation=file://{folder}/home", "--headless", "--convert-to", to]
        subprocess.run([*command, "--outdir", str(folder), file], cwd=folder, check=True, capture_output=True)

    def check(self, table: Table, rows: list[list[str]]) -> None:
        self.assertEqual(tuple(rows[0]), table.header)
        for row, read in zip(table.rows, rows[1:], strict=True):
            for cell, text in zip(row, read, strict=True):
                if isinstance(cell, Formula) and cell.value is not None:
                    self.assertAlmostEqual(float(text), cell.value, delta=1e-9 * max(1.0, abs(cell.value)))
                elif isinstance(cell, int | float):
                    self.assertAlmostEqual(float(text), cell, delta=1e-9 * max(1.0, abs(cell)))
                else:
                    self.assertEqual(text, cell or "")
