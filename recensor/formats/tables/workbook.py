"""Workbooks with live formulas, as XLSX and ODS: a sheet for each table."""

import io
import re
from collections.abc import Sequence

from odf.opendocument import OpenDocumentSpreadsheet
from odf.style import Style, TextProperties
from odf.table import Table as OdsTable
from odf.table import TableCell, TableRow
from odf.text import P
from openpyxl import Workbook
from openpyxl.cell import Cell as XlsxCell
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from recensor.formats.tables.results import Cell, Formula, Ref, Table

# What no file of this kind can hold: control characters other than tab and line ends.
_UNPRINTABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f]")


def write_xlsx(tables: Sequence[Table]) -> bytes:
    """An Office Open XML workbook. What was typed is text there whatever it begins with."""
    book = Workbook()
    book.remove(book.worksheets[0])
    for table in tables:
        page = book.create_sheet(table.name)
        page.freeze_panes = "A2"
        page.append(list(table.header))
        for cell in page[1]:
            cell.font = Font(bold=True)
        for number, row in enumerate(table.rows, 2):
            for column, value in enumerate(row, 1):
                _fill(page.cell(number, column), value)
        for column, name in enumerate(table.header, 1):
            page.column_dimensions[get_column_letter(column)].width = max(10, len(name) + 2)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _fill(cell: XlsxCell, value: Cell) -> None:
    if isinstance(value, Formula):
        cell.value = f"={value.text.format(*map(_plain, value.cells))}"
    elif isinstance(value, str):
        cell.value = _UNPRINTABLE.sub(" ", value)
        cell.data_type = "s"
    else:
        cell.value = value


def _plain(ref: Ref) -> str:
    return f"{get_column_letter(ref.column + 1)}{ref.row + 1}"


def write_ods(tables: Sequence[Table]) -> bytes:
    """An OpenDocument spreadsheet, with the value that each formula has beside it."""
    book = OpenDocumentSpreadsheet()
    bold = Style(name="header", family="table-cell")
    bold.addElement(TextProperties(fontweight="bold"))
    book.automaticstyles.addElement(bold)
    for table in tables:
        page = OdsTable(name=table.name)
        header = TableRow()
        for name in table.header:
            header.addElement(_texted(TableCell(valuetype="string", stylename=bold), name))
        page.addElement(header)
        for row in table.rows:
            line = TableRow()
            for value in row:
                line.addElement(_ods_cell(value))
            page.addElement(line)
        book.spreadsheet.addElement(page)
    out = io.BytesIO()
    book.write(out)
    return out.getvalue()


def _ods_cell(value: Cell) -> TableCell:
    if value is None:
        return TableCell()
    if isinstance(value, Formula):
        written = value.text.format(*(f"[.{_plain(ref)}]" for ref in value.cells)).replace("]:[", ":")
        return _texted(TableCell(valuetype="float", formula=f"of:={written}", value=value.value), f"{value.value:g}")
    if isinstance(value, str):
        return _texted(TableCell(valuetype="string"), _UNPRINTABLE.sub(" ", value))
    return _texted(TableCell(valuetype="float", value=value), f"{value:g}")


def _texted(cell: TableCell, text: str) -> TableCell:
    cell.addElement(P(text=text))
    return cell
