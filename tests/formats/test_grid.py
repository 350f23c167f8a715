"""Tables that people bring: read as they were written, and hostile ones refused in words, with memory bounded."""

import io
import random
import tracemalloc
import unittest
import zipfile
from collections.abc import Callable

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook

from recensor.core.circuit import one_line
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter, draw_sheet, draw_values
from recensor.formats.documents import run_document
from recensor.formats.tables.columns import guessed
from recensor.formats.tables.csv import write_csv
from recensor.formats.tables.grid import (
    LONGEST_CELL,
    MOST_CELLS,
    MOST_COLUMNS,
    MOST_ROWS,
    Grid,
    GridError,
    read_grid,
    read_text,
    write_text,
)
from recensor.formats.tables.lines import COLUMNS, read_lines
from recensor.formats.tables.results import Table, readings
from recensor.formats.tables.workbook import write_ods, write_xlsx
from tests.formats.test_run_document import DOCUMENTS, FULL
from tests.samples import samples

# What reading any of the hostile files may take at most, in bytes.
MOST_MEMORY = 120_000_000

# Between two tables of a workbook.
TABLE = "</table:table><table:table>"

# Whatever a person may have in a cell; blanks around it are no part of it.
CELL = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=12).map(str.strip)


def xlsx(*rows: tuple[object, ...]) -> bytes:
    book, out = Workbook(), io.BytesIO()
    for row in rows:
        book.active.append(row)
    book.save(out)
    return out.getvalue()


def archive(**parts: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, content in parts.items():
            packed.writestr(name.replace("__", "/").replace("_xml", ".xml"), content)
    return out.getvalue()


def ods(body: str, head: str = "") -> bytes:
    spaces = ("office", "table", "text")
    named = " ".join(f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"' for name in spaces)
    content = f'<?xml version="1.0"?>{head}<office:document {named}><table:table>{body}</table:table></office:document>'
    return archive(mimetype=b"application/vnd.oasis.opendocument.spreadsheet", content_xml=content.encode())


def rewritten(content: bytes, part: str, change: Callable[[str], str]) -> bytes:
    """A workbook with one of its parts written otherwise."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as was, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as now:
        for name in was.namelist():
            text = was.read(name)
            now.writestr(name, change(text.decode()) if name == part else text)
    return out.getvalue()


def with_last_row(number: int, cells: str, sheets: int = 1) -> bytes:
    """A workbook whose sheets go on far below: two rows, then one of some cells."""
    book, out = Workbook(), io.BytesIO()
    book.remove(book.active)
    for _ in range(sheets):
        page = book.create_sheet()
        page.append(("a",))
        page.append((1,))
    book.save(out)
    content = out.getvalue()
    for k in range(1, sheets + 1):
        end = f'<row r="{number}">{cells}</row></sheetData>'
        content = rewritten(
            content, f"xl/worksheets/sheet{k}.xml", lambda text, end=end: text.replace("</sheetData>", end)
        )
    return content


def with_format(format_code: str) -> bytes:
    """A workbook with a number format of its own."""
    book, out = Workbook(), io.BytesIO()
    book.active.append(("a",))
    book.active.append((1,))
    book.active["A2"].number_format = format_code
    book.save(out)
    return out.getvalue()


def cell(text: str, times: int = 1) -> str:
    return f'<table:table-cell table:number-columns-repeated="{times}"><text:p>{text}</text:p></table:table-cell>'


def row(*cells: str, times: int = 1) -> str:
    return f'<table:table-row table:number-rows-repeated="{times}">{"".join(cells)}</table:table-row>'


class Written(unittest.TestCase):
    @given(st.lists(st.tuples(CELL, CELL, CELL), min_size=2, max_size=8))
    def test_what_we_write_comes_back_from_every_form(self, rows: list[tuple[str, ...]]) -> None:
        header = ("typed", "note", "unit")
        kept = [line for line in rows if any(line)]
        if not kept:
            return
        table = Table("Readings", header, kept)
        for content in (write_csv(table).encode(), write_xlsx([table]), write_ods([table])):
            grid = read_grid(content)
            self.assertEqual([grid.header, *grid.rows], [header, *kept])
            self.assertEqual(read_text(write_text(grid)), grid)  # as a page sends it back

    def test_lines_keep_the_numbers_of_the_file_and_separators_are_told_apart(self) -> None:
        for content in ("\n\na;b\n\n1,5;2\n", "\ufeff\n\na\tb\n\n1,5\t2\n"):
            self.assertEqual(read_grid(content.encode()), Grid(("a", "b"), (("1,5", "2"),), 3, (5,)))
        self.assertEqual(read_grid("a,b\n1,é".encode("utf-16")).rows, (("1", "é"),))
        self.assertEqual(read_grid(xlsx(("a", "b"), (1.5, 1002), (0.1, True))).rows, (("1.5", "1002"), ("0.1", "True")))

    def test_a_workbook_of_other_sheets_too_is_read_where_the_readings_are(self) -> None:
        document = run_document.read(FULL.read_bytes())
        table = readings(assess(document))
        for write in (write_xlsx, write_ods):
            grid = read_grid(write([Table("Parts", ("part", "note"), [("R1", "x")]), table]), ("typed", "setup"))
            self.assertEqual(grid.header, table.header)

    def test_readings_come_back_from_their_own_table_as_they_were(self) -> None:
        for file in sorted(DOCUMENTS.glob("*.run.json")):
            run = run_document.read(file.read_bytes())
            grid = read_grid(write_csv(readings(assess(run))).encode()) if run.readings else None
            if grid is None:
                continue
            lines = list(read_lines(grid, guessed(grid.header, COLUMNS), Run(run.sheet, meters=run.meters), []))
            taken = [line.reading for line in lines]
            for was, now, line in zip(run.readings, taken, lines, strict=True):
                with self.subTest(file=file.name, line=line.number):
                    if now is None:
                        self.assertTrue(was.struck or was.counted is False or was.value.ambiguity, line.why)
                    else:
                        self.assertEqual((now.target, now.value, now.range, now.meter, now.time, now.note or None),
                                         (was.target, was.value, was.range, was.meter, was.time, was.note))  # fmt: skip

    @given(st.integers(0, 10**6), st.sampled_from((write_csv, write_xlsx, write_ods)))
    @settings(max_examples=samples(15, 40))
    def test_any_run_comes_back_out_of_its_table(self, seed: int, write: Callable[..., str | bytes]) -> None:
        draw = np.random.default_rng(seed)
        sheet, profile = draw_sheet(draw), SHIPPED["3½-digit manual"]
        run = SimulatedBench(sheet, draw_values(sheet, draw), SimulatedMeter(profile, draw)).run()
        table = readings(assess(run))
        content = write(table) if write is write_csv else write([table])
        grid = read_grid(content.encode() if isinstance(content, str) else content)
        lines = list(read_lines(grid, guessed(grid.header, COLUMNS), Run(sheet), []))
        self.assertEqual([line.why for line in lines if line.reading is None and "empty" not in line.why], [])
        came = [(line.reading.target, line.reading.value.value) for line in lines if line.reading]
        self.assertEqual(came, [(one.target, one.value.value) for one in run.readings])


class Hostile(unittest.TestCase):
    def refused(self, content: bytes, said: str) -> None:
        tracemalloc.start()
        try:
            with self.assertRaisesRegex(GridError, said):
                read_grid(content)
            self.assertLess(tracemalloc.get_traced_memory()[1], MOST_MEMORY)
        finally:
            tracemalloc.stop()

    def test_each_is_refused_with_its_reason(self) -> None:
        entity = '<!DOCTYPE d [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
        wide = ",".join(["x"] * 10_000)
        for said, content in {
            "^This is no UTF-8 text: .* at byte 4": b"a,b\n\xff\xfe,1",
            "^There are zero bytes": b"a,b\n\x00,1",
            "^This is no CSV": b'a,b\n"1"x,2\n',
            "^There is no table in it": b"\n\n",
            "^There is no table in it: a row": b"only,a,header\n",
            f"^Row 1 has 10000 columns.*{MOST_COLUMNS}": f"{wide}\n{wide}".encode(),
            f"^It has more than {MOST_ROWS} rows": b"a\n" + b"1\n" * (MOST_ROWS + 1),
            f"^Row 2, column 2 has more than {LONGEST_CELL}": b"a,b\n1," + b"9" * (LONGEST_CELL + 1),
            "^This is no workbook": xlsx(("a",), (1,))[:-40],
            "^This is no workbook that": archive(nothing=b""),
            "^Unpacked it is 40 MB": archive(xl__workbook_xml=b" " * 40_000_000),
            f"^It has more than {MOST_CELLS} cells": b"\n".join([b",".join([b"1"] * 60)] * 4_000),
            "^The file has 600 parts": archive(**{f"p{k}": b"" for k in range(600)}),
            "^The workbook defines XML entities": ods(row(cell("a")) + row(cell("&b;")), entity),
            f"^It has more than {MOST_ROWS}": ods(row(cell("a")) + row(cell("1"), times=1_000_000)),
            f"^Row 1 has {MOST_COLUMNS + 1} columns or more": ods(row(cell("a", 10_000)) + row(cell("1"))),
            "^A number format in it has more than 255": with_format("[" * 256),
            "^Between row 2 and row 1048576 it is empty": with_last_row(1_048_576, '<c t="n"><v>3</v></c>', sheets=3),
            "^Between row 2 and row 5004 it is empty": ods(
                row(cell("a")) + row(cell("1")) + row(cell(""), times=5_001) + row(cell("2"))
            ),
            "^It has more than 60000 lines": ods(
                (row(cell("a")) + row(cell("1")) + row(cell(""), times=4_990) + row(cell("2")) + TABLE) * 13
            ),
            "^Its XML has more elements, or deeper": ods(row("<a>" * 100_000 + "</a>" * 100_000)),
            "^Its XML has more elements": ods(row("<a/>" * 900_000)),
        }.items():
            with self.subTest(said):
                self.refused(content, said)

    def test_a_workbook_of_more_rows_is_not_read_to_its_end(self) -> None:
        book, out = Workbook(write_only=True), io.BytesIO()
        page = book.create_sheet()
        for k in range(MOST_ROWS + 2_000):
            page.append((k,))
        book.save(out)
        self.refused(out.getvalue(), f"more than {MOST_ROWS} rows")

    def test_rows_far_down_that_are_empty_do_not_count(self) -> None:
        table = row(cell("a")) + row(cell("1")) + row(cell(""), times=5_000) + row(cell("2"))
        below = row(cell(""), times=1_048_574)
        for content, rows in (
            (
                ods((row(cell("a")) + row(cell("1")) + below + TABLE) * 40),
                (("1",),),
            ),  # as spreadsheets write each sheet
            (ods(table + below), (("1",), ("2",))),
            (with_last_row(1_048_576, '<c s="1"/>', sheets=40), (("1",),)),
            (with_last_row(5_003, "<c><v>2</v></c>"), (("1",), ("2",))),
            (with_format("0." + "0" * 253), (("1",),)),
        ):
            self.assertEqual(read_grid(content).rows, rows)

    def test_a_workbook_with_wrong_bytes_is_a_table_or_refused(self) -> None:
        draw = random.Random(3)
        for content in (xlsx(("a", "b"), (1, "x")), ods(row(cell("a")) + row(cell("1")))):
            for _ in range(samples(50, 300)):
                spoilt = bytearray(content)
                for _ in range(draw.randint(1, 4)):
                    spoilt[draw.randrange(4, len(spoilt))] = draw.randrange(256)
                try:
                    read_grid(bytes(spoilt))
                except GridError as error:
                    self.assertTrue(str(error))

    @given(st.binary(max_size=200))
    def test_anything_at_all_is_a_table_or_refused(self, content: bytes) -> None:
        for start in (b"", b"PK\x03\x04", b"a,b\n"):
            try:
                read_grid(start + content)
            except GridError as error:
                self.assertTrue(str(error))


def said(reading: Reading) -> str:
    return f"{reading.target.words} {reading.value.value:f} {reading.target.unit}"


class Lines(unittest.TestCase):
    def becomes(self, header: str, *lines: str) -> list[str]:
        sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
        asked = [*sheet.asked]
        grid = read_text("\n".join([header, *lines]))
        lines = read_lines(grid, guessed(grid.header, COLUMNS), Run(sheet), asked)
        return [said(line.reading) if line.reading else line.why for line in lines]

    def test_where_as_at_the_bench_and_what_by_its_unit(self) -> None:
        self.assertEqual(
            self.becomes("Where,Reading,Unit", "R1,1.002,kΩ", "A B,3.1,V", "b,\u22123.1,V", "R2,2.5mA,", "R1,0.998k,",
                         "R2,2k2,"),
            ["R1 by itself 1002 Ω", "voltage from A to B 3.1 V", "voltage from B to gnd -3.1 V",
             "current through R2 0.0025 A", "R1 by itself 998 Ω", "R2 by itself 2200 Ω"],
        )  # fmt: skip

    def test_what_says_too_little_is_left_out_with_its_reason(self) -> None:
        for line, why in {
            "Z,2 V,": "“Z” is no place here",
            "A B,3.1,": "Say whether it is a voltage",
            "R1,,": "its reading is empty",
            ",2 V,": "does not say where",
            "R1,two,V": "not",
            "R1,3 V,A": "",
        }.items():
            with self.subTest(line):
                self.assertIn(why, self.becomes("Where,Reading,Unit", line)[0])
        for line, why in {
            "main,q,gnd,V,,3": "no node 'q'", ",,,,R9,1k": "no part 'R9'", "load,A,gnd,V,,3": "no setup load",
            "main,A,gnd,speed,,3": "“speed” is not read here", "main,A,A,V,,3": "A",
        }.items():  # fmt: skip
            with self.subTest(line):
                self.assertIn(why, self.becomes("setup,red,black,quantity,of,typed", line)[0])
        self.assertIn("numbers from 1 to 0", self.becomes("No.,Reading", "1,2 V")[0])
        self.assertIn("no whole number", self.becomes("No.,Reading", "one,2 V")[0])
        self.assertIn("struck in the file", self.becomes("where,read,standing", "R1,1k,struck")[0])
