"""Tables that people bring: CSV, ODS and XLSX as a grid of texts, refused where they are larger or other than said."""

import contextlib
import csv
import io
import zipfile
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any
from xml.etree.ElementTree import Element
from xml.sax import SAXParseException
from xml.sax.handler import ContentHandler

from defusedxml import DefusedXmlException, sax
from defusedxml.ElementTree import iterparse
from openpyxl import load_workbook

from recensor.core.errors import Refused
from recensor.formats.tables.csv import defused, undefused

# A table that is taken has at most so many rows below its header, columns, cells in all, and characters in a cell.
MOST_ROWS, MOST_COLUMNS, MOST_CELLS, LONGEST_CELL = 5_000, 100, 150_000, 500

# What a workbook may come to when it is unpacked, in bytes, and the parts that it may have.
_MOST_UNPACKED, _MOST_PARTS = 10_000_000, 500

# So many lines and cells are walked over in a whole file, empty ones and those of all its sheets, and so many elements
# of its XML, nested so deeply: a reader's time and memory hang on these, and not on what stands in the cells.
_MOST_LINES, _MOST_WALKED, _MOST_ELEMENTS, _DEEPEST = 60_000, 600_000, 800_000, 60

_LONGEST_SHEET = 1_048_576

# Between two lines of a table at most so many are empty.
_LONGEST_GAP = 5_000

# The longest number format of a workbook, in characters, as spreadsheets themselves allow it.
_LONGEST_FORMAT = 255

_ZIP = b"PK\x03\x04"
_ODS = "application/vnd.oasis.opendocument.spreadsheet"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"


class GridError(Refused):
    """The file is no table, or one that is too large; the message says where."""


@dataclass(frozen=True)
class Grid:
    """A header and rows of texts, each as long as the header; `top` and `numbers` are their lines in the file."""

    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    top: int
    numbers: tuple[int, ...]


def read_grid(content: bytes, known: Collection[str] = ()) -> Grid:
    """A file as a grid: a workbook by what is in it, else text. Raises `GridError`.

    Of a workbook's sheets it is the first one of those whose header has the most of the `known` names.
    """
    if not content.startswith(_ZIP):
        return read_text(_decoded(content))
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            _check_archive(archive)
            is_ods = "mimetype" in archive.namelist() and archive.read("mimetype").decode("ascii", "replace") == _ODS
            last_rows, budget = _surveyed(archive), _Budget()
            sheets = _ods(archive) if is_ods else _xlsx(content, last_rows)
            grids = [grid for lines in sheets if (grid := _grid(lines, budget))]
            if not grids:
                raise _no_table()
            return max(grids, key=lambda grid: sum(name.lower() in known for name in grid.header))
    except GridError:
        raise
    except DefusedXmlException:
        raise GridError("The workbook defines XML entities, which no spreadsheet writes; it is not read.") from None
    except Exception as error:  # there is no end to what a broken file makes its readers stumble over
        raise GridError(f"This is no workbook that can be read: {str(error)[:120]}.") from None


def read_text(text: str) -> Grid:
    """Comma, semicolon or tab separated text, as a file or as copied out of a spreadsheet. Raises `GridError`."""
    if "\0" in text:
        raise GridError("There are zero bytes in it: this is no text.")
    first = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max("\t;,", key=first.count)
    try:
        grid = _grid(csv.reader(io.StringIO(text), delimiter=delimiter, strict=True), _Budget())
    except csv.Error as error:
        raise GridError(f"This is no CSV: {error}.") from None
    if grid is None:
        raise _no_table()
    return grid


def write_text(grid: Grid) -> str:
    """A grid as CSV, as a page sends it back; blank lines keep the rows at their numbers."""
    out = io.StringIO()
    writer = csv.writer(out)
    at = 1
    for number, row in zip((grid.top, *grid.numbers), (grid.header, *grid.rows), strict=True):
        out.write("\r\n" * (number - at))
        writer.writerow(map(defused, row))
        at = number + 1
    return out.getvalue()


def _decoded(content: bytes) -> str:
    try:
        return content.decode("utf-16" if content[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig")
    except UnicodeDecodeError as error:
        raise GridError(f"This is no UTF-8 text: {error.reason} at byte {error.start}. Save it as CSV UTF-8.") from None


@dataclass
class _Budget:
    """What is left of the lines and cells that are walked over in one file, in all its sheets together."""

    lines: int = _MOST_LINES
    cells: int = _MOST_WALKED

    def spend(self, cells: int) -> None:
        """Walk over one line more, of so many cells. Raises `GridError` where there are too many."""
        self.lines -= 1
        self.cells -= cells
        if self.lines < 0 or self.cells < 0:
            what = f"{_MOST_LINES} lines" if self.lines < 0 else f"{_MOST_WALKED} cells"
            raise GridError(f"It has more than {what}, empty ones and other sheets counted; bring it in in pieces.")


def _no_table() -> GridError:
    return GridError("There is no table in it: a row of names, and rows below it.")


def _grid(lines: Iterable[Iterable[str]], budget: _Budget) -> Grid | None:
    """The lines that have something in them, the first as header; None where there are none below it.

    What lies beyond the limits is refused.
    """
    header: tuple[str, ...] = ()
    rows: list[tuple[str, ...]] = []
    numbers: list[int] = []
    top, left = 0, MOST_CELLS
    for number, line in enumerate(lines, 1):
        cells = [undefused(cell.strip()) for cell in line]
        budget.spend(len(cells))
        while cells and not cells[-1]:
            cells.pop()
        if not cells:
            continue
        left -= len(cells)
        if left < 0:
            raise GridError(f"It has more than {MOST_CELLS} cells; leave out columns, or bring it in in pieces.")
        if len(cells) > MOST_COLUMNS:
            raise GridError(f"Row {number} has {len(cells)} columns or more; at most {MOST_COLUMNS} are read.")
        if long := next((k for k, cell in enumerate(cells, 1) if len(cell) > LONGEST_CELL), None):
            raise GridError(f"Row {number}, column {long} has more than {LONGEST_CELL} characters.")
        if not header:
            header, top = tuple(cells), number
            continue
        if len(rows) == MOST_ROWS:
            raise GridError(f"It has more than {MOST_ROWS} rows; bring it in in pieces.")
        if len(cells) > len(header):
            header = (*header, *[""] * (len(cells) - len(header)))
        rows.append(tuple(cells))
        numbers.append(number)
    if not header or not rows:
        return None
    return Grid(header, tuple((*row, *[""] * (len(header) - len(row))) for row in rows), top, tuple(numbers))


def _check_archive(archive: zipfile.ZipFile) -> None:
    """What it comes to unpacked is what it says of itself: not one byte more is ever read of a part."""
    parts = archive.infolist()
    if len(parts) > _MOST_PARTS:
        raise GridError(f"The file has {len(parts)} parts; a workbook here has at most {_MOST_PARTS}.")
    size = sum(part.file_size for part in parts)
    if size > _MOST_UNPACKED:
        raise GridError(f"Unpacked it is {size / 1e6:.0f} MB; at most {_MOST_UNPACKED / 1e6:.0f} MB are read.")


class _Survey(ContentHandler):
    """What a part of a workbook comes to, told before anything is made of it; an unreasonable one is refused.

    `last_row` is the number of the last row of a sheet that has a value in it.
    """

    def __init__(self, left: int) -> None:
        super().__init__()
        self.left = left
        self.last_row = 0
        self._depth = self._row = 0

    def startElement(self, name: str, attrs: Any) -> None:  # noqa: N802 (SAX's own name)
        """One element more."""
        self.left -= 1
        self._depth += 1
        if self.left < 0 or self._depth > _DEEPEST:
            raise GridError("Its XML has more elements, or deeper ones, than a table of this size needs.")
        if len(attrs.get("formatCode", "")) > _LONGEST_FORMAT:
            raise GridError(f"A number format in it has more than {_LONGEST_FORMAT} characters.")
        match name.rpartition(":")[2]:
            case "row":
                self._row = int(float(attrs["r"])) if "r" in attrs else self._row + 1
            case "v" | "is" if self._row > self.last_row:
                _refuse_gap(self.last_row, self._row)
                self.last_row = self._row

    def endElement(self, name: str) -> None:  # noqa: N802 (SAX's own name)
        """It ends."""
        self._depth -= 1


def _refuse_gap(last: int, row: int) -> None:
    if last and row - last - 1 > _LONGEST_GAP:
        raise GridError(f"Between row {last} and row {row} it is empty; at most {_LONGEST_GAP} empty rows are skipped.")


def _surveyed(archive: zipfile.ZipFile) -> dict[str, int]:
    """The last row with a value of each part. Raises `GridError` for parts that are beyond reason."""
    left, last_rows = _MOST_ELEMENTS, {}
    for part in archive.namelist():
        survey = _Survey(left)
        # A part that is no XML, or only as far as this, is for its reader to refuse.
        with archive.open(part) as content, contextlib.suppress(SAXParseException):
            sax.parse(content, survey, forbid_dtd=True)
        left, last_rows[part] = survey.left, survey.last_row
    return last_rows


def _xlsx(content: bytes, last_rows: Mapping[str, int]) -> Iterator[Iterator[Iterator[str]]]:
    book = load_workbook(io.BytesIO(content), read_only=True, data_only=True, keep_links=False)
    for page in book.worksheets:
        page.reset_dimensions()  # what a sheet says of its own size may be anything
        last = last_rows.get(getattr(page, "_worksheet_path", "").lstrip("/"), 0)  # openpyxl tells it nowhere else
        rows = page.iter_rows(max_row=last, max_col=MOST_COLUMNS + 1, values_only=True) if last else ()
        yield (map(_written, row) for row in rows)


def _written(value: object) -> str:
    """A cell as it would be typed."""
    if value is None:
        return ""
    if isinstance(value, float):
        return f"{value:.15g}"
    return value.isoformat() if isinstance(value, datetime | date | time) else str(value)


def _ods(archive: zipfile.ZipFile) -> Iterator[list[list[str]]]:
    """The sheets of an OpenDocument spreadsheet, read as it streams by, without the empty lines at their ends."""
    lines: list[list[str]] = []
    cells: list[str] = []
    empty = 0  # lines that stand after the last one with something in it
    with archive.open("content.xml") as content:
        for event, element in iterparse(content, ("start", "end"), forbid_dtd=True):
            if event == "start":
                if element.tag == f"{_TABLE}table-row":
                    cells = []
                continue
            if element.tag in (f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"):
                cells += [_ods_cell(element)] * _repeated(element, "number-columns-repeated", MOST_COLUMNS + 1)
                del cells[MOST_COLUMNS + 1 :]
                element.clear()
            elif element.tag == f"{_TABLE}table-row":
                times = _repeated(element, "number-rows-repeated", _LONGEST_SHEET)
                if any(cells):
                    _refuse_gap(len(lines), len(lines) + empty + 1)
                    lines += [[]] * min(empty, _LONGEST_GAP) + [cells] * min(times, MOST_ROWS + 2)
                    empty = 0
                else:
                    empty += times
                element.clear()
            elif element.tag == f"{_TABLE}table":
                yield lines
                lines, empty = [], 0


def _ods_cell(element: Element) -> str:
    """A cell as it would be typed: a number in full, else the text that is shown."""
    value = element.get(f"{_OFFICE}value") or element.get(f"{_OFFICE}date-value")
    kind = element.get(f"{_OFFICE}value-type")
    if value and kind in ("float", "date"):
        return str(value)
    return "\n".join("".join(line.itertext()) for line in element.findall(f"{_TEXT}p"))


def _repeated(element: Element, name: str, most: int) -> int:
    times = element.get(f"{_TABLE}{name}", "1")
    return min(int(times), most) if times.isdigit() and len(times) < 12 else 1
