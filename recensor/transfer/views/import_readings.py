"""Readings out of a table into a run: typed in from a blank sheet, or out of somebody's spreadsheet."""

import uuid
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from decimal import Decimal

from django.http import HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from recensor.core import plan
from recensor.core.figures import as_read
from recensor.core.judgement import assess
from recensor.core.plan import Order
from recensor.core.quantity import Measurand
from recensor.core.record import Reading
from recensor.formats.tables.grid import Grid
from recensor.formats.tables.lines import COLUMNS, read_lines
from recensor.ledger.marks import mark
from recensor.people.requests import SignedIn
from recensor.runs import queries, services
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.runs.queries import ClosedError, RunSnapshot
from recensor.web.table_in import Looked, ShownLine, Words, table_in


@require_http_methods(["GET", "HEAD", "POST"])
@run_view("runs.record")
def import_readings(request: SignedIn, run: RunRow) -> HttpResponse:
    """Ask for a table, show what each line becomes, and record it all."""
    words = Words(
        f"Readings into {run.title}",
        run.get_absolute_url(),
        "Back to the bench",
        "reading",
        "readings",
        "Say where each was read by its number on the blank sheet, or by nodes and parts: A B, B, R2, R2.1; "
        "a CSV, ODS or XLSX that a report gave is known as it is. Digits count: in a spreadsheet write 9.00 as text.",
    )
    loaded = queries.load(run, request.user)

    def look(grid: Grid, matching: Sequence[str]) -> Looked[Reading]:
        if run.closed:
            raise ClosedError
        return _looked(loaded, grid, matching, Order(request.user.reading_order))

    def keep(readings: Sequence[Reading], key: uuid.UUID) -> HttpResponse:
        services.import_readings(run, request.user, readings, key)
        return redirect(reverse("reports:report", args=(run.pk,)))

    return table_in(request, words, COLUMNS, look, keep)


def _looked(loaded: RunSnapshot, grid: Grid, matching: Sequence[str], order: Order) -> Looked[Reading]:
    core = loaded.core
    asked = core.sheet.asked
    numbered = [asked[k] for k in plan.in_order(asked, core.sheet, order)]
    lines = list(read_lines(grid, matching, core, numbered))
    taken = [line.reading for line in lines if line.reading]
    assessment = assess(replace(core, readings=(*core.readings, *taken)))
    verdicts = {
        reading_assessment.index - len(core.readings): reading_assessment.judged
        for reading_assessment in assessment.readings
    }
    stands = {(reading.target, reading.value.text, reading.value.beside) for reading in core.readings}
    coarse, shown = _shorter(taken), []
    for line in lines:
        if line.reading is None:
            shown.append(ShownLine(line.number, line.said, why=line.why))
            continue
        place = sum(bool(shown_line.becomes) for shown_line in shown)
        target, value = line.reading.target, line.reading.value
        becomes = f"{plan.title(target, core.sheet)}: {as_read(value, target.unit)}"
        if (target, value.text, value.beside) in stands:
            becomes += ", which stands there already: another trial"
        if place in coarse:
            becomes += ", with fewer digits than a larger one: a spreadsheet drops last zeros"
        judged = verdicts.get(place)
        stand = mark(judged.verdict, judged.reason) if judged and not loaded.is_sealed else None
        shown.append(ShownLine(line.number, line.said, becomes, mark=stand))
    return Looked(shown, taken)


def _shorter(readings: Sequence[Reading]) -> set[int]:
    """The places of readings with fewer digits than one of the same quantity and decade that is no smaller.

    One that is larger may have been read in a higher range.
    """
    sized: dict[tuple[Measurand, int], list[tuple[Decimal, Decimal, int]]] = defaultdict(list)
    for place, reading in enumerate(readings):
        value, resolution = reading.value.value, reading.value.resolution
        if value and resolution:
            sized[reading.target.measurand, value.adjusted()].append((abs(value), resolution, place))
    found = set()
    for alike in sized.values():
        finest = None
        for _, resolution, place in sorted(alike, reverse=True):
            if finest is not None and resolution > finest:
                found.add(place)
            finest = resolution if finest is None else min(finest, resolution)
    return found
