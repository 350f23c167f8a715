"""Runs: the list, how they begin, and parts that go back into their kit."""

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.bench import queries, services
from recensor.bench.board.page import Side
from recensor.bench.forms import KeyForm, NewRunForm, StartRunForm
from recensor.bench.ledger.books import books_of
from recensor.bench.models import Run
from recensor.bench.views import of_run
from recensor.core.errors import Refused
from recensor.drawing.schematic import schematic
from recensor.experiments.models import Experiment
from recensor.people.requests import SignedIn
from recensor.web.refusals import UNPROCESSABLE, answer, first_error

RUNS_ON_A_PAGE = 20


@login_required
@require_GET
def runs(request: SignedIn) -> HttpResponse:
    """The person's runs, newest first, each with the state of its books."""
    page = Paginator(queries.runs_of(request.user), RUNS_ON_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "bench/runs.html", {"page": page, "books": books_of(list(page))})


@login_required
@require_http_methods(["GET", "POST"])
def new_run(request: SignedIn) -> HttpResponse:
    """Plan a run; what was typed stays when something is wrong with it."""
    form = NewRunForm(request.POST or None)

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("kit", error.message)
        return _render_new_run(request, form, status)

    if request.method != "POST" or not form.is_valid():
        return _render_new_run(request, form, UNPROCESSABLE if form.is_bound else 200)
    typed = form.cleaned_data
    return answer(
        lambda: services.start_run(request.user, typed["sheet"], typed["meter"], typed["drawn"], typed["key"]),
        redirect,
        refused,
    )


@login_required
@require_POST
def start(request: SignedIn, experiment_id: int) -> HttpResponse:
    """Begin a run of an experiment."""
    experiment = get_object_or_404(Experiment, pk=experiment_id)
    form = StartRunForm(request.POST)

    def begin() -> Run:
        if not form.is_valid():
            raise Refused(first_error(form))
        return services.start_experiment(request.user, experiment, **form.cleaned_data)

    def refused(error: Refused, status: int) -> HttpResponse:
        context = {"title": "The run was not started", "text": error.message}
        return render(request, "refusal.html", context, status=status)

    return answer(begin, redirect, refused)


@login_required
@require_POST
def begin_on_board(request: SignedIn) -> HttpResponse:
    """Draw by building: begin on an empty board."""
    form = KeyForm(request.POST)
    run = services.begin_on_board(request.user, form.cleaned_data["key"] if form.is_valid() else None)
    return redirect(f"{reverse('bench:board', args=(run.pk,))}?side={Side.BUILT}")


@login_required
@require_POST
def preview(request: SignedIn) -> HttpResponse:
    """The circuit as far as the new-run form describes one."""
    form = NewRunForm({**request.POST.dict(), "title": "preview"})
    return render(request, "bench/_preview.html", _drawing_of(request, form))


@require_POST
@of_run("bench.record_in_run")
def return_parts(request: SignedIn, run: Run) -> HttpResponse:
    """The parts go back into the kit."""
    services.return_parts(run)
    return redirect(run)


def _render_new_run(request: SignedIn, form: NewRunForm, status: int) -> HttpResponse:
    return render(request, "bench/new_run.html", {"form": form, **_drawing_of(request, form)}, status=status)


def _drawing_of(request: SignedIn, form: NewRunForm) -> dict[str, object]:
    """The drawing of a form that describes a circuit, else nothing."""
    if not form.is_bound or not form.is_valid():
        return {}
    sheet = form.cleaned_data["sheet"]
    return {"drawing": schematic(sheet, sheet.setup()), "conventions": request.user.conventions}
