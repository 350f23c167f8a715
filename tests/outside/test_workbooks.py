"""Workbooks recomputed by LibreOffice (Debian's package): its figures are those of the core."""

import csv
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase

from recensor.core.judgement import assess
from recensor.formats import run_document
from recensor.formats.tables import Formula, Table, tables
from recensor.formats.workbook import write_ods, write_xlsx

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
                command = [
                    "soffice",
                    f"-env:UserInstallation=file://{folder}/home",
                    "--headless",
                    "--convert-to",
                    AS_CSV,
                ]
                subprocess.run([*command, "--outdir", name, f"run{ending}"], cwd=name, check=True, capture_output=True)
                for table in found:
                    with (folder / f"run-{table.name}.csv").open(newline="", encoding="utf-8") as lines:
                        self.check(table, list(csv.reader(lines)))

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
