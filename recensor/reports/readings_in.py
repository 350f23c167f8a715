"""Readings out of a table into a run: typed in from a blank sheet, or out of somebody's spreadsheet."""

import uuid
from collections.abc import Sequence
from dataclasses import replace

from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from recensor.bench import queries, services
from recensor.bench.models import Run
from recensor.bench.queries import ClosedError, LoadedRun
from recensor.bench.views import of_run
from recensor.core import plan
from recensor.core.figures import as_read
from recensor.core.judgement import Assessment, assess
from recensor.core.plan import Order
from recensor.core.record import Reading
from recensor.formats.grid import Grid
from recensor.formats.reading_lines import COLUMNS, Line, read_lines
from recensor.people.requests import SignedIn
from recensor.web.marks import Mark, mark
from recensor.web.table_in import Looked, ShownLine, Words, table_in


@require_http_methods(["GET", "HEAD", "POST"])
@of_run("bench.record_in_run")
def readings_in(request: SignedIn, run: Run) -> HttpResponse:
    """Ask for a table, show what each line becomes, and record it all."""
    words = Words(
        f"Readings into {run.title}",
        run.get_absolute_url(),
        "Back to the bench",
        "reading",
        "readings",
        "Say where each was read by its number on the blank sheet, or by nodes and parts: A B, B, R2, R2.1; "
        "a CSV, ODS or XLSX that a report gave is known as it is.",
    )
    loaded = queries.load(run, request.user)

    def look(grid: Grid, matching: Sequence[str]) -> Looked[Reading]:
        if run.closed:
            raise ClosedError
        return _looked(loaded, grid, matching, Order(request.user.reading_order))

    def keep(readings: Sequence[Reading], key: uuid.UUID) -> HttpResponse:
        services.take_in(run, request.user, readings, key)
        return redirect(reverse("reports:report", args=(run.pk,)))

    return table_in(request, words, COLUMNS, look, keep)


def _looked(loaded: LoadedRun, grid: Grid, matching: Sequence[str], order: Order) -> Looked[Reading]:
    core = loaded.core
    asked = core.sheet.asked
    numbered = [asked[k] for k in plan.in_order(asked, core.sheet, order)]
    lines = list(read_lines(grid, matching, core, numbered))
    taken = [line.reading for line in lines if line.reading]
    first = len(core.readings)
    assessment = assess(replace(core, readings=(*core.readings, *taken)))
    places = iter(range(first, first + len(taken)))
    shown = [_shown(line, loaded, assessment, next(places) if line.reading else None) for line in lines]
    return Looked(shown, taken)


def _shown(line: Line, loaded: LoadedRun, assessment: Assessment, place: int | None) -> ShownLine:
    if line.reading is None:
        return ShownLine(line.number, line.said, why=line.why)
    target, value = line.reading.target, line.reading.value
    becomes = f"{plan.title(target, loaded.core.sheet)}: {as_read(value, target.unit)}"
    if any(r.target == target and (r.value.text, r.value.beside) == (value.text, value.beside)
           for r in loaded.core.readings):  # fmt: skip
        becomes += ", which stands there already: another trial"
    return ShownLine(line.number, line.said, becomes, mark=_verdict(loaded, assessment, place))


def _verdict(loaded: LoadedRun, assessment: Assessment, place: int | None) -> Mark | None:
    """How it would stand among all the others; a sealed run says nothing yet."""
    if loaded.is_sealed:
        return None
    found = next((one.judged for one in assessment.readings if one.index == place), None)
    return mark(found.verdict, found.reason) if found else None
