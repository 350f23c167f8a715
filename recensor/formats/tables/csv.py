"""CSV by RFC 4180: UTF-8, commas, CR LF, a header line, a decimal point; no cell that a spreadsheet would run."""

import csv
import io
import re

from recensor.formats.tables.results import Cell, Formula, Table

# What a spreadsheet takes for the beginning of a formula (OWASP, CSV injection; from memory).
_RUNS = ("=", "+", "-", "@", "\t", "\r")
_NUMBER = re.compile(r"[+-]?[0-9.,]+(?:[eE][+-]?[0-9]+)?")

# Put before a text that would run; taken off again where a table is read.
DEFUSED = "'"


def write_csv(table: Table) -> str:
    """A table as CSV.

    Examples
    --------
    >>> write_csv(Table("Notes", ("note", "volts"), [("=1+1", -2.5)]))
    "note,volts\\r\\n'=1+1,-2.5\\r\\n"
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(table.header)
    writer.writerows([_cell(cell) for cell in row] for row in table.rows)
    return out.getvalue()


def _cell(cell: Cell) -> str | float | int | None:
    if isinstance(cell, Formula):
        return cell.value
    return defused(cell) if isinstance(cell, str) else cell


def defused(text: str) -> str:
    """A text that no spreadsheet runs; numbers are as they are."""
    return f"{DEFUSED}{text}" if text.startswith(_RUNS) and not _NUMBER.fullmatch(text) else text


def undefused(text: str) -> str:
    """The same as it was before it was defused.

    Examples
    --------
    >>> undefused(defused("=1+1")), undefused("'tis")
    ('=1+1', "'tis")
    """
    plain = text.removeprefix(DEFUSED)
    return plain if plain.startswith(_RUNS) else text
