"""Columns of a table that somebody brings: what each may mean, and which is which."""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.formats.tables.grid import Grid


@dataclass(frozen=True)
class Column:
    """Something that a column can hold: its name, what it is in words, and what else people call it."""

    name: str
    words: str
    also: tuple[str, ...] = ()


def guessed(header: Sequence[str], columns: Sequence[Column]) -> tuple[str, ...]:
    """The names of the columns of a header, each taken once; empty where nothing fits.

    Examples
    --------
    >>> guessed(("No.", "Reading", "Colour"), (Column("number", "", ("no.",)), Column("typed", "", ("reading",))))
    ('number', 'typed', '')
    """
    found: list[str] = []
    for title in header:
        text = " ".join(title.lower().replace("_", " ").split())
        fits = (column.name for column in columns if text in (column.name.replace("_", " "), *column.also))
        found.append(next((name for name in fits if name not in found), ""))
    return tuple(found)


def cells(grid: Grid, matching: Sequence[str], row: int) -> dict[str, str]:
    """What a row says, by the names of its columns; without what is empty, or means nothing here."""
    pairs = zip(matching, grid.rows[row], strict=False)
    return {name: cell for name, cell in pairs if name and cell}
