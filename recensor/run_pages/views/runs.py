"""Runs: the list, how they begin, and parts that go back into their kit."""

from django.contrib.auth.decorators import login_required
from django.core.paginator import Page, Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.core.plan import Order
from recensor.experiments.models import Experiment
from recensor.people.requests import SignedIn
from recensor.run_pages.forms import BeginRunForm, StartRunForm
from recensor.runs import queries, services
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.runs.standing import RunFilter, books_of
from recensor.web.drawings import of_setup
from recensor.web.forms import KeyForm
from recensor.web.refusals import UNPROCESSABLE, first_error, run_or_refuse

RUNS_ON_A_PAGE = 20

# So many of the newest are judged to sort them out by how they stand.
MOST_SORTED_OUT = 200

MOST_OFFERED = 8

# Shapes to start from, as lines.
SHAPES = (
    ("one resistor", "9V: 470; 5"),
    ("series chain", "9V: 1k + 2k2 + 3k3; 5"),
    ("parallel bank", "9V: 1k | 2k2 | 3k3; 5"),
    ("chain with a parallel group", "9V: 1k + (2k2 | 3k3) + 470; 5"),
    ("divider with a load", "9V: 1k + (2k2 | 10k); 5"),
    ("ladder", "9V: 1k + (2k2 | 1k + (2k2 | 1k + 2k2)); 5"),
)


@login_required
@require_GET
def runs(request: SignedIn) -> HttpResponse:
    """The person's runs, newest first, each with how it stands and what comes next in it."""
    words, shows_away = request.GET.get("q", "").strip()[: lengths.TITLE], request.GET.get("show") == "put away"
    query_set, order = queries.runs_of(request.user, words, put_away=shows_away), Order(request.user.reading_order)
    stands, number = request.GET.get("stands", ""), request.GET.get("page")
    if stands in set(RunFilter):
        sorted_out = [run for run in books_of(list(query_set[:MOST_SORTED_OUT]), order) if run.stands == stands]
        page: Page = Paginator(sorted_out, RUNS_ON_A_PAGE).get_page(number)
        listed = list(page)
    else:
        page = Paginator(query_set, RUNS_ON_A_PAGE).get_page(number)
        listed = books_of(list(page), order)
    context = {
        "page": page,
        "runs": listed,
        "words": words,
        "shows_away": shows_away,
        "stands": stands,
        "all_stands": list(RunFilter),
        "search": urlencode({key: request.GET[key] for key in ("q", "show", "stands") if request.GET.get(key)}),
    }
    return render(request, "run_pages/runs.html", context)


@login_required
@require_http_methods(["GET", "POST"])
def new_run(request: SignedIn) -> HttpResponse:
    """Begin a run; what was typed stays when something is wrong with it."""
    if request.method != "POST":
        line, meter = request.GET.get("line", "")[: lengths.PROSE], queries.last_meter(request.user)
        return _render_new_run(request, BeginRunForm(initial={"line": line, "meter": meter}), 200)
    form = BeginRunForm(request.POST, request.FILES)

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("kit", error.message)
        return _render_new_run(request, form, status)

    if not form.is_valid():
        return _render_new_run(request, form, UNPROCESSABLE)
    typed = form.cleaned_data
    return run_or_refuse(
        lambda: services.start_run(
            request.user, form.sheet, typed["meter"], typed["drawn"], typed["key"], simulated=typed["simulated"]
        ),
        redirect,
        refused,
    )


@login_required
@require_POST
def start(request: SignedIn, experiment_id: int) -> HttpResponse:
    """Begin a run of an experiment."""
    experiment = get_object_or_404(Experiment, pk=experiment_id)
    form = StartRunForm(request.POST)

    def begin() -> RunRow:
        if not form.is_valid():
            raise Refused(first_error(form))
        return services.start_experiment(request.user, experiment, **form.cleaned_data)

    def refused(error: Refused, status: int) -> HttpResponse:
        context = {"title": "The run was not started", "text": error.message}
        return render(request, "refusal.html", context, status=status)

    return run_or_refuse(begin, redirect, refused)


@login_required
@require_POST
def begin_on_board(request: SignedIn) -> HttpResponse:
    """Draw by building: begin on an empty board."""
    form = KeyForm(request.POST)
    run = services.begin_on_board(request.user, form.cleaned_data["key"] if form.is_valid() else None)
    return redirect(f"{reverse('board_page:board', args=(run.pk,))}?side=built")


@login_required
@require_POST
def preview(request: SignedIn) -> HttpResponse:
    """The circuit as far as the line describes one."""
    form = BeginRunForm({"line": request.POST.get("line", "")[: lengths.PROSE], "simulated": "on"})
    return render(request, "run_pages/_preview.html", _drawing_of(request, form))


@require_POST
@run_view("runs.record")
def return_parts(request: SignedIn, run: RunRow) -> HttpResponse:
    """The parts go back into the kit."""
    services.return_parts(run)
    return redirect(run)


def _render_new_run(request: SignedIn, form: BeginRunForm, status: int) -> HttpResponse:
    context = {
        "form": form,
        "shapes": SHAPES,
        "recent": queries.recent_circuits(request.user),
        "experiments": Experiment.objects.select_related("owner")[:MOST_OFFERED],
        **_drawing_of(request, form if form.is_bound else BeginRunForm({**form.initial, "simulated": "on"})),
    }
    return render(request, "run_pages/new_run.html", context, status=status)


def _drawing_of(request: SignedIn, form: BeginRunForm) -> dict[str, object]:
    """The drawing of a line that is a circuit, else what is wrong with it."""
    if not form.is_valid() and "sheet" not in form.cleaned_data:
        return {"wrong": first_error(form) if form.data.get("line") else "", "marked": form.marked}
    drawing = of_setup(form.sheet, form.sheet.setup(), request.user.conventions)
    return {"drawing": drawing, "further": list(form.sheet.setups)[1:]}
