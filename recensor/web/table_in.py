"""The page of a table that is brought in: which column is what, and what becomes of each line before any is kept."""

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from recensor.core.errors import Refused
from recensor.formats.tables.columns import Column, guessed
from recensor.formats.tables.grid import MOST_COLUMNS, MOST_ROWS, Grid, read_grid, read_text, write_text
from recensor.ledger.marks import Mark
from recensor.web.fields import refuse_larger
from recensor.web.refusals import first_error, status_of

# A file that a page takes is no longer than this, in bytes; as text on the way back it may be somewhat longer.
LARGEST = 1_000_000
_LARGEST_TEXT = 2 * LARGEST

# So many lines are shown before anything is written; of those that are left out, all are counted.
_SHOWN = 300

Kept = TypeVar("Kept")


@dataclass(frozen=True)
class ShownLine:
    """A line of the file: its number, what it says, and what becomes of it, or why nothing does."""

    number: int
    said: str
    becomes: str = ""
    why: str = ""
    mark: Mark | None = None


@dataclass(frozen=True)
class Looked(Generic[Kept]):
    """What a table comes to: its lines as they are shown, and what would be kept."""

    lines: Sequence[ShownLine]
    kept: Sequence[Kept]


@dataclass(frozen=True)
class Words:
    """What the page says: its title, the way back, what is kept of one line, and a word of help."""

    title: str
    back: str
    back_words: str
    one: str
    several: str
    help: str


class _TableForm(forms.Form):
    file = forms.FileField(required=False, label="Table (CSV, ODS or XLSX)")
    pasted = forms.CharField(
        required=False,
        strip=False,
        max_length=LARGEST,
        label="or its cells, copied out of a spreadsheet",
        widget=forms.Textarea(attrs={"rows": 6}),
    )
    text = forms.CharField(required=False, strip=False, max_length=_LARGEST_TEXT)
    key = forms.UUIDField(required=False)
    wanted = forms.BooleanField(required=False)

    def grid(self, known: Sequence[str]) -> Grid:
        """The table as it was sent, or as it was looked at before. Raises `Refused`."""
        if not self.is_valid():
            raise Refused(first_error(self))
        sent = self.cleaned_data
        if sent["file"] is None:
            if not (sent["text"] or sent["pasted"]).strip():
                raise Refused("Choose a file, or put the cells in.")
            return read_text(sent["text"] or sent["pasted"])
        refuse_larger(sent["file"], LARGEST)
        return read_grid(sent["file"].read(), known)


def table_in(
    request: HttpRequest,
    words: Words,
    columns: Sequence[Column],
    look: Callable[[Grid, Sequence[str]], Looked[Kept]],
    keep: Callable[[Sequence[Kept], uuid.UUID], HttpResponse],
) -> HttpResponse:
    """Ask for a table, show what becomes of each of its lines, and keep it once that is wanted.

    Parameters
    ----------
    look : what a table comes to, with the name of each of its columns; writes nothing.
    keep : keeps it, all or nothing, once under one key; may raise `Refused`.
    """
    context: dict[str, Any] = {"words": words, "most_rows": MOST_ROWS, "most_columns": MOST_COLUMNS, "largest": LARGEST}
    if request.method != "POST":
        return render(request, "web/table_in.html", {**context, "form": _TableForm()})
    form = _TableForm(request.POST, request.FILES)
    try:
        grid = form.grid([name for column in columns for name in (column.name, *column.also)])
        matching = _matching(request, grid, columns)
        looked = look(grid, matching)
        context |= _preview(grid, matching, columns, looked)
        sent = form.cleaned_data
        if sent["wanted"] and sent["key"] and looked.kept:
            return keep(looked.kept, sent["key"])
    except Refused as error:
        return render(
            request, "web/table_in.html", {**context, "form": form, "message": error.message}, status=status_of(error)
        )
    return render(request, "web/table_in.html", {**context, "form": form})


def _matching(request: HttpRequest, grid: Grid, columns: Sequence[Column]) -> list[str]:
    """What each column holds: as somebody said, else as its name says."""
    if "column-0" not in request.POST:
        return list(guessed(grid.header, columns))
    names = {column.name for column in columns}
    texts = [request.POST.get(f"column-{k}", "") for k in range(len(grid.header))]
    found = [name if name in names else "" for name in texts]
    if twice := next((name for name in found if name and found.count(name) > 1), None):
        raise Refused(f"Two columns are both said to be “{_words(twice, columns)}”; leave one out.")
    return found


def _words(name: str, columns: Sequence[Column]) -> str:
    return next(column.words for column in columns if column.name == name)


def _preview(grid: Grid, matching: Sequence[str], columns: Sequence[Column], looked: Looked[Kept]) -> dict[str, Any]:
    return {
        "text": write_text(grid),
        "columns": [(k, title or f"column {k + 1}", matching[k]) for k, title in enumerate(grid.header)],
        "choices": [(column.name, column.words) for column in columns],
        "lines": looked.lines[:_SHOWN],
        "more": max(0, len(looked.lines) - _SHOWN),
        "kept": len(looked.kept),
        "left_out": sum(bool(line.why) for line in looked.lines),
    }
