"""Reading at the bench: the page, recording, and putting right what was recorded."""

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from recensor.bench import queries, services
from recensor.bench.forms import MoveForm, ReadingForm
from recensor.bench.models import Act, Reading, Run
from recensor.bench.page import BenchPage, BenchState
from recensor.bench.queries import LoadedRun
from recensor.bench.views import of_run
from recensor.core.errors import Refused
from recensor.people.requests import SignedIn
from recensor.web.fields import whole_number
from recensor.web.refusals import UNPROCESSABLE, answer


@require_GET
@of_run("bench.view_run")
def bench(request: SignedIn, run: Run) -> HttpResponse:
    """The bench page, or its live part when a ledger row is made the next one."""
    state = BenchState(
        chosen=whole_number(request.GET.get("point")), correcting=whole_number(request.GET.get("correct"))
    )
    return _render(request, run, queries.load(run), state)


@require_POST
@of_run("bench.record_in_run")
def record(request: SignedIn, run: Run) -> HttpResponse:
    """Record a reading and go on to the next point."""
    loaded = queries.load(run)
    form = ReadingForm(request.POST, points=loaded.points)
    if not form.is_valid():
        return _render(request, run, loaded, BenchState(form.cleaned_data.get("point"), form=form), UNPROCESSABLE)
    point = form.cleaned_data["point"]
    return answer(
        lambda: services.record_reading(run, request.user, form.reading, form.cleaned_data["key"]),
        lambda row: _render(request, run, loaded.with_reading(row), BenchState(recorded=point)),
        lambda error, status: _render(
            request, run, loaded, BenchState(point, form=form, message=error.message), status
        ),
    )


@require_POST
@of_run("bench.record_in_run")
def strike(request: SignedIn, run: Run, reading_id: int) -> HttpResponse:
    """Strike a reading through, with a reason."""
    reading = get_object_or_404(Reading, pk=reading_id, run=run)
    reason = request.POST.get("reason", "")
    return _correct(request, run, lambda: services.strike_reading(reading, request.user, reason))


@require_POST
@of_run("bench.record_in_run")
def move(request: SignedIn, run: Run, reading_id: int) -> HttpResponse:
    """The reading belongs to another point."""
    reading = get_object_or_404(Reading, pk=reading_id, run=run)
    reading.run = run
    points = queries.load(run).points
    form = MoveForm(request.POST)

    def moved() -> Reading:
        if not form.is_valid() or form.cleaned_data["point"] >= len(points):
            raise Refused("Choose the point that this reading belongs to.")
        return services.move_reading(reading, request.user, points[form.cleaned_data["point"]])

    return _correct(request, run, moved)


@require_POST
@of_run("bench.record_in_run")
def undo(request: SignedIn, run: Run) -> HttpResponse:
    """Strike the last reading, which the page names, and go to its point."""
    named = whole_number(request.POST.get("reading"))
    return answer(
        lambda: services.undo_last(run, request.user, named),
        lambda reading: _render_at(request, run, reading),
        lambda error, status: _refused(request, run, error, status),
    )


def _correct(request: SignedIn, run: Run, action: Callable[[], Reading | Act]) -> HttpResponse:
    """Carry out a correction; the page stays at its point, and a refusal becomes a message."""
    state = BenchState(whole_number(request.POST.get("at")))
    return answer(
        action,
        lambda _: _render(request, run, queries.load(run), state),
        lambda error, status: _refused(request, run, error, status),
    )


def _refused(request: SignedIn, run: Run, error: Refused, status: int) -> HttpResponse:
    state = BenchState(whole_number(request.POST.get("at")), message=error.message)
    return _render(request, run, queries.load(run), state, status)


def _render_at(request: SignedIn, run: Run, reading: Reading) -> HttpResponse:
    loaded = queries.load(run)
    return _render(request, run, loaded, BenchState(loaded.point_of(reading.pk)))


def _render(request: SignedIn, run: Run, loaded: LoadedRun, state: BenchState, status: int = 200) -> HttpResponse:
    """The whole bench, or its live part for htmx; a plain form post that went well is sent back to the page."""
    page = BenchPage.of(run, loaded, state)
    if request.method == "POST" and not request.htmx and status == 200:
        return redirect(page.address)
    context = page.context(request)
    if request.htmx:
        return render(request, "bench/_bench.html", context, status=status)
    context["drawn"] = run.drawn_parts.filter(put_back=None).select_related("bin__kit")
    return render(request, "bench/bench.html", context, status=status)
