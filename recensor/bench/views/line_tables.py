"""V–I tables at the bench: begun with one press, a row taken out with one."""

from django.http import HttpResponse
from django.views.decorators.http import require_POST

from recensor.bench.forms import LineTableForm, TableRowForm
from recensor.bench.page.context import BenchState
from recensor.bench.page.panes import Pane
from recensor.bench.views.readings import moved, render_bench, stands_at, where_it_was
from recensor.core.circuit import TableMeters, Target
from recensor.core.errors import Refused
from recensor.people.requests import SignedIn
from recensor.runs import queries
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.runs.services.line_tables import begin_table, make_rows, take_row_out
from recensor.web.refusals import run_or_refuse

ROWS = "Volts, Enter, amps, Enter: the next row comes by itself."
COLUMNS = "Volts, Enter, row after row; Enter on the empty field goes on to the amps."


@require_POST
@run_view("runs.record")
def begin(request: SignedIn, run: RunRow) -> HttpResponse:
    """A V–I table of what was typed; its first row is read next."""
    form = LineTableForm(request.POST, auto_id="table-%s")

    def begun() -> Target:
        if not form.is_valid():
            raise Refused("Write a part, or two nodes.")
        typed = form.cleaned_data
        return begin_table(run, request.user, typed["setup"], typed["of"], typed["key"], typed["meters"])

    def done(target: Target) -> HttpResponse:
        loaded = queries.load(run, request.user)
        table = loaded.core.sheet.sweep_of(target)
        said = COLUMNS if table and table.meters is TableMeters.ONE else ROWS
        return render_bench(request, run, loaded, BenchState(target, done=said, pane=Pane.LINES))

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("of", error.message)
        loaded = queries.load(run, request.user)
        state = BenchState(stands_at(request, loaded), pane=Pane.PARTS, table_form=form)
        return render_bench(request, run, loaded, state, status)

    return run_or_refuse(begun, done, refused)


@require_POST
@run_view("runs.record")
def levels(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """What was read at several levels becomes rows of a table; the next of them is read on."""

    def done(target: Target) -> HttpResponse:
        loaded = queries.load(run, request.user)
        said = "Each level is a row now; Undo puts them back."
        return render_bench(request, run, loaded, BenchState(target, done=said, pane=Pane.LINES))

    return run_or_refuse(
        lambda: make_rows(run, request.user, reading_id),
        done,
        lambda error, status: where_it_was(request, run, BenchState(message=error.message), status),
    )


@require_POST
@run_view("runs.record")
def take_out(request: SignedIn, run: RunRow) -> HttpResponse:
    """One row of a table does not count; the page stays where it is."""
    form = TableRowForm(request.POST)

    def taken() -> None:
        if not form.is_valid():
            raise Refused("Choose the row that is taken out.")
        take_row_out(run, request.user, form.cleaned_data["table"], form.cleaned_data["row"] - 1)

    return moved(request, run, taken, "The row is taken out; it can be read again, or Undo brings it back.")
