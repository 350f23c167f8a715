"""Every form in which a run is taken elsewhere: report, tables, netlist, drawings, and all of them in one archive."""

import io
import re
import zipfile
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from django.template.loader import render_to_string

from recensor.core.circuit import Sheet
from recensor.core.errors import Refused
from recensor.drawing.conventions import Conventions
from recensor.formats import spice
from recensor.formats.documents import run_document
from recensor.formats.tables.csv import write_csv
from recensor.formats.tables.results import Table, readings, tables
from recensor.formats.tables.workbook import write_ods, write_xlsx
from recensor.reports.content import FULL, NOTHING_BESIDE, Report, ReportHead, ReportSection, report
from recensor.reports.printing import as_html, as_pdf, standing_alone
from recensor.runs.queries import RunSnapshot


@dataclass(frozen=True)
class ReportRequest:
    """A run with what a report of it says beside what its document has, and how it is written."""

    loaded: RunSnapshot
    conventions: Conventions
    about: ReportHead = NOTHING_BESIDE
    chosen: Collection[ReportSection] = FULL

    @cached_property
    def written(self) -> Report:
        """The report, written once for all forms."""
        return report(self.loaded, self.conventions, self.about, self.chosen)

    def for_page(self) -> Report:
        """The report for a page, which asks for the causes by itself."""
        return report(self.loaded, self.conventions, self.about, self.chosen, causes_later=True)


@dataclass(frozen=True)
class Form:
    """One form: its words on a page, its media type, and what writes it."""

    words: str
    content_type: str
    write: Callable[[ReportRequest], bytes]


def _text(text: str) -> bytes:
    return text.encode()


def _tables(wanted: ReportRequest) -> list[Table]:
    return tables(wanted.loaded.judged())


def _netlists(wanted: ReportRequest) -> Iterator[tuple[str, bytes]]:
    """A netlist of each setup; where there can be none, a text in its place says why."""
    sheet = wanted.loaded.core.sheet
    for name, setup in sheet.setups.items():
        try:
            yield f"{file_name(name)}.cir", _text(spice.write(sheet, setup))
        except Refused as error:
            yield f"{file_name(name)}.cir.txt", _text(f"{error.message}\n")


def _drawings(wanted: ReportRequest) -> Iterator[tuple[str, bytes]]:
    """Every drawing of the report as a file of its own."""
    for name, svg in _drawn(wanted.written, wanted.loaded.core.sheet):
        if svg:
            named = svg.replace("<svg ", '<svg xmlns="http://www.w3.org/2000/svg" ', 1)
            yield f"{name}.svg", _text(standing_alone(named))


def _drawn(written: Report, sheet: Sheet) -> Iterator[tuple[str, str]]:
    for setup, drawn_setup in zip(sheet.setups, written.drawn, strict=True):
        yield f"{file_name(setup)}-schematic", drawn_setup.schematic
        yield f"{file_name(setup)}-board", drawn_setup.board
    for line in written.lines:
        yield file_name(line.name), render_to_string("drawing/plot.svg", {"plot": line.plot}) if line.plot else ""
    if written.chart:
        yield "deviations", render_to_string("drawing/deviations.svg", {"chart": written.chart})


def _archive(wanted: ReportRequest) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for ending, form in FORMS.items():
            if ending != ".zip":
                archive.writestr(f"report{ending}" if ending != ".csv" else "readings.csv", form.write(wanted))
        for name, content in (*_netlists(wanted), *_drawings(wanted)):
            archive.writestr(name, content)
    return out.getvalue()


FORMS: Mapping[str, Form] = {
    ".pdf": Form("PDF", "application/pdf", lambda wanted: as_pdf(wanted.written, wanted.conventions)),
    ".html": Form("HTML", "text/html; charset=utf-8", lambda w: _text(as_html(w.written, w.conventions))),
    ".csv": Form("CSV", "text/csv; charset=utf-8", lambda w: _text(write_csv(readings(w.loaded.judged())))),
    ".xlsx": Form(
        "XLSX", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", lambda w: write_xlsx(_tables(w))
    ),
    ".ods": Form("ODS", "application/vnd.oasis.opendocument.spreadsheet", lambda w: write_ods(_tables(w))),
    ".json": Form(
        "Run document", "application/json; charset=utf-8", lambda w: _text(run_document.write(w.loaded.core))
    ),
    ".zip": Form("all in one ZIP", "application/zip", _archive),
}


# The forms of a sealed run: they say nothing that was calculated.
SAYS_NOTHING_SEALED = frozenset((".pdf", ".html", ".json"))


def is_available(ending: str, *, is_sealed: bool) -> bool:
    """Whether a run can be had in a form: a sealed one in none that has calculated values in it."""
    return not is_sealed or ending in SAYS_NOTHING_SEALED


def of_run(ending: str, wanted: ReportRequest) -> bytes:
    """The same for somebody who performs the run. Raises `Refused` while it is sealed, where the form would tell."""
    if not is_available(ending, is_sealed=wanted.loaded.is_sealed):
        raise Refused("This run is sealed: tables open once every point has been read.")
    return of(ending, wanted)


def of(ending: str, wanted: ReportRequest) -> bytes:
    """A run in the form that a file's ending names. Raises `Refused` for another ending."""
    form = FORMS.get(ending.lower())
    if form is None:
        raise Refused(f"“{ending}” is no form that is known; write one of {', '.join(FORMS)}.")
    return form.write(wanted)


def file_name(title: str) -> str:
    """A title as the name of a file, without what some system forbids in it.

    Examples
    --------
    >>> file_name("Vane: 1 / 2")
    'vane-1-2'
    """
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:60] or "run"
