"""What a run gives to read: its plan, causes, lines, its calculation worked out, and its run document."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from recensor.core.circuit import MEASURED, NOMINAL, Basis
from recensor.core.judgement import gather, values_of
from recensor.drawing.worked import worked
from recensor.formats.documents import run_document
from recensor.ledger.sweeps import line_views, together
from recensor.people.requests import SignedIn
from recensor.run_pages.causes_page import causes_page
from recensor.run_pages.plan_page import plan_page
from recensor.runs import queries
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.web.downloads import download


@require_GET
@run_view("runs.view")
def work_out(request: SignedIn, run: RunRow) -> HttpResponse:
    """The calculation, step by step, from measured or nominal values; of a sealed run once all is read."""
    loaded = queries.load(run)
    sheet = loaded.core.sheet
    setup, asked = sheet.setup(request.GET.get("setup")), request.GET.get("basis")
    basis = Basis(asked) if asked in set(Basis) else sheet.judge.against
    context = {"run": run, "setup": setup.name, "setups": list(sheet.setups), "basis": basis}
    if loaded.is_sealed:
        return render(request, "run_pages/worked.html", {**context, "is_sealed": True})
    values = values_of(sheet, setup, gather(loaded.core), basis)
    page = worked(sheet, setup, values.known, request.GET.get("method", ""), request.user.conventions)
    context |= {"worked": page, "bases": (MEASURED, NOMINAL), "conventions": request.user.conventions}
    return render(request, "run_pages/worked.html", context)


@require_GET
@run_view("runs.view")
def plan(request: SignedIn, run: RunRow) -> HttpResponse:
    """Every step of what is still to be read."""
    return render(request, "run_pages/plan.html", plan_page(run, queries.load(run, request.user), request.user))


@require_GET
@run_view("runs.view")
def causes(request: SignedIn, run: RunRow) -> HttpResponse:
    """What would explain the run."""
    loaded = queries.with_boards_of(run, queries.load(run, request.user))
    return render(request, "run_pages/causes.html", causes_page(run, loaded))


@require_GET
@run_view("runs.view")
def lines(request: SignedIn, run: RunRow) -> HttpResponse:
    """Every sweep of the run: its table, its plot, and what the line comes to."""
    loaded = queries.load(run, request.user)
    assessment, conventions = loaded.judged(), request.user.conventions
    views = line_views(assessment, None, conventions, is_sealed=loaded.is_sealed)
    context = {"run": run, "lines": views, "together": together(assessment, conventions)}
    return render(request, "run_pages/lines.html", context)


@require_GET
@run_view("runs.view")
def document(request: SignedIn, run: RunRow) -> HttpResponse:
    """The run as a run document, with all that is known of it."""
    core = queries.whole(run, queries.load(run))
    return download(run_document.write(core), f"run-{run.pk}.run.json", "application/json; charset=utf-8")
