"""What would explain a run: a line beside the entry, a page, and the mend in one press."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.bench import queries, services
from recensor.bench.causes import describe_causes, rows_explained
from recensor.bench.causes_page import causes_page
from recensor.bench.forms import KeyForm, MendCauseForm
from recensor.bench.models import Run
from recensor.bench.page import BenchState
from recensor.bench.views import run_view
from recensor.bench.views.readings import render_bench, stands_at
from recensor.core.errors import Refused
from recensor.core.faults import explain
from recensor.people.requests import SignedIn
from recensor.web.refusals import run_or_refuse


@require_GET
@run_view("bench.view_run")
def causes(request: SignedIn, run: Run) -> HttpResponse:
    """The page; for htmx the line that stands beside the entry, with the rows of the ledger that it explains."""
    loaded = queries.load(run, request.user)
    loaded = queries.with_boards_of(run, loaded)
    if not request.htmx:
        return render(request, "bench/causes.html", causes_page(run, loaded))
    assessment = loaded.judged()
    found = describe_causes(loaded, explain(assessment))
    form = KeyForm(request.GET)
    context = {
        "run": run,
        "as_of": form.cleaned_data["key"] if form.is_valid() else "",
        "told": found,
        "stands": rows_explained(loaded, assessment, found),
        "at": request.GET.get("measurement", ""),
    }
    return render(request, "bench/_causes.html", context)


@require_POST
@run_view("bench.record_in_run")
def mend(request: SignedIn, run: Run) -> HttpResponse:
    """Carry out what mends a cause: one act, which one key undoes."""
    form = MendCauseForm(request.POST)

    def mended() -> str:
        if not form.is_valid():
            raise Refused("Choose the cause that is to be mended.")
        return services.mend_cause(run, request.user, form.cleaned_data["cause"], form.cleaned_data["key"])

    def bench(status: int = 200, *, done: str = "", message: str = "") -> HttpResponse:
        loaded = queries.load(run, request.user)
        state = BenchState(stands_at(request, loaded), done=done, message=message)
        return render_bench(request, run, loaded, state, status)

    def done(words: str) -> HttpResponse:
        return bench(done=words) if request.htmx else redirect(run)

    return run_or_refuse(mended, done, lambda error, status: bench(status, message=error.message))
