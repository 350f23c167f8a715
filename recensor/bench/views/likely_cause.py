"""What would explain a run: a line beside the entry, and the correction in one press."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.bench.forms import CorrectCauseForm
from recensor.bench.page.context import BenchState
from recensor.bench.views.readings import render_bench, stands_at
from recensor.core.circuit import Target
from recensor.core.errors import Refused
from recensor.core.faults import explain
from recensor.ledger.causes import describe_causes, rows_explained
from recensor.people.requests import SignedIn
from recensor.runs import queries, services
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.web.forms import KeyForm
from recensor.web.refusals import run_or_refuse


@require_GET
@run_view("runs.view")
def likely(request: SignedIn, run: RunRow) -> HttpResponse:
    """The line that stands beside the entry, with the rows that it explains; the `whole` list in its pane."""
    loaded = queries.with_boards_of(run, queries.load(run, request.user))
    assessment = loaded.judged()
    causes_view = describe_causes(loaded.core, explain(assessment), is_sealed=loaded.is_sealed)
    form = KeyForm(request.GET)
    context = {
        "run": run,
        "as_of": form.cleaned_data["key"] if form.is_valid() else "",
        "told": causes_view,
        "stands": rows_explained(loaded.core, loaded.points, assessment, causes_view),
        "at": request.GET.get("measurement", ""),
        "whole": "whole" in request.GET,
    }
    return render(request, "bench/_causes.html", context)


@require_POST
@run_view("runs.record")
def correct(request: SignedIn, run: RunRow) -> HttpResponse:
    """Carry out what corrects a cause: one act, which one key undoes."""
    form = CorrectCauseForm(request.POST)

    def corrected() -> tuple[str, Target | None]:
        if not form.is_valid():
            raise Refused("Choose the cause that is to be corrected.")
        return services.correct_cause(run, request.user, form.cleaned_data["cause"], form.cleaned_data["key"])

    def bench(status: int = 200, *, again: Target | None = None, done: str = "", message: str = "") -> HttpResponse:
        loaded = queries.load(run, request.user)
        state = BenchState(again or stands_at(request, loaded), done=done, message=message)
        return render_bench(request, run, loaded, state, status)

    def done(came: tuple[str, Target | None]) -> HttpResponse:
        words, again = came
        kept = "What was there before stays in the history; undo takes this back."
        return bench(again=again, done=f"Corrected: {words}. {kept}") if request.htmx else redirect(run)

    return run_or_refuse(corrected, done, lambda error, status: bench(status, message=error.message))
