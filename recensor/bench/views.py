"""The bench's pages: parse, call one service or query, render."""

from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.bench import board_page, boards, drawings, ledger, queries, services, summaries
from recensor.bench.forms import MoveForm, NewRunForm, ReadingForm, StartForm, new_key
from recensor.bench.models import Reading, Run, Strike
from recensor.core import judgement
from recensor.core import record as core_record
from recensor.core.breadboard import BoardError
from recensor.core.editing import EditError
from recensor.core.judgement import Assessment
from recensor.core.quantity import QuantityError
from recensor.core.record import CURRENT, MEASURED, NOMINAL, RESISTANCE, VOLTAGE, Target
from recensor.drawing.schematic import schematic
from recensor.formats import run_document
from recensor.library import worked
from recensor.library.drawings import of_setup
from recensor.library.models import Experiment

RUNS_ON_A_PAGE = 20
UNPROCESSABLE, CONFLICT = 422, 409


def for_run(permission: str) -> Callable[[Callable[..., HttpResponse]], Callable[..., HttpResponse]]:
    """Sign-in, the run, and the permission on it; someone else's run does not exist."""

    def decorate(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
        @wraps(view)
        @login_required
        def checked(request: HttpRequest, run_id: int, **arguments: object) -> HttpResponse:
            run = get_object_or_404(Run, pk=run_id)
            if not request.user.has_perm(permission, run):
                raise Http404("No such run.")
            return view(request, run, **arguments)

        return checked

    return decorate


@login_required
@require_GET
def runs(request: HttpRequest) -> HttpResponse:
    """The person's runs, newest first, each with the state of its books."""
    page = Paginator(queries.runs_of(request.user), RUNS_ON_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "bench/runs.html", {"page": page, "books": summaries.books_of(list(page))})


@login_required
@require_http_methods(["GET", "POST"])
def new_run(request: HttpRequest) -> HttpResponse:
    """Plan a run; what was typed stays when something is wrong with it."""
    form = NewRunForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        typed = form.cleaned_data
        try:
            return redirect(services.start_run(request.user, typed["planned"], typed["meter"], typed["drawn"]))
        except services.RefusedError as error:
            form.add_error("kit", str(error))
    status = UNPROCESSABLE if form.is_bound else 200
    return render(request, "bench/new_run.html", {"form": form, "drawing": _preview(form)}, status=status)


@login_required
@require_POST
def start(request: HttpRequest, experiment_id: int) -> HttpResponse:
    """Begin a run of an experiment."""
    experiment = get_object_or_404(Experiment, pk=experiment_id)
    form = StartForm(request.POST)
    said = "" if form.is_valid() else " ".join(message for errors in form.errors.values() for message in errors)
    try:
        if form.is_valid():
            typed = form.cleaned_data
            return redirect(services.start_experiment(request.user, experiment, typed["meter"], typed["kit"]))
    except services.RefusedError as error:
        said = str(error)
    context = {"title": "The run was not started", "text": said}
    return render(request, "refusal.html", context, status=UNPROCESSABLE)


@login_required
@require_POST
def begin_on_board(request: HttpRequest) -> HttpResponse:
    """Draw by building: begin on an empty board."""
    run = services.begin_on_board(request.user)
    return redirect(f"{reverse('bench:board', args=(run.pk,))}?way={board_page.BUILT}")


@login_required
@require_POST
def preview(request: HttpRequest) -> HttpResponse:
    """The circuit as far as the new-run form describes one."""
    return render(
        request, "bench/_preview.html", {"drawing": _preview(NewRunForm({**request.POST.dict(), "title": "preview"}))}
    )


@require_GET
@for_run("bench.view_run")
def bench(request: HttpRequest, run: Run) -> HttpResponse:
    """The bench page, or its live part when a ledger row is made the next one."""
    return _render_bench(request, run, chosen=_whole_number(request.GET.get("point")))


@require_POST
@for_run("bench.record_in_run")
def record(request: HttpRequest, run: Run) -> HttpResponse:
    """Record a reading and go on to the next point."""
    loaded = queries.load(run)
    form = ReadingForm(request.POST, points=loaded.points)
    if not form.is_valid():
        chosen = form.cleaned_data.get("point")
        return _render_bench(request, run, loaded, chosen=chosen, form=form, status=UNPROCESSABLE)
    typed = form.cleaned_data
    point = typed["point"]
    try:
        row = services.record_reading(
            run, request.user, loaded.points[point], typed["quantity"], typed["key"], typed["range"]
        )
    except services.RefusedError as error:
        return _render_bench(request, run, loaded, chosen=point, form=form, message=str(error), status=CONFLICT)
    return _render_bench(request, run, loaded.with_reading(row), recorded=point)


@require_POST
@for_run("bench.record_in_run")
def strike(request: HttpRequest, run: Run, reading_id: int) -> HttpResponse:
    """Strike a reading through, with a reason."""
    reading = get_object_or_404(Reading, pk=reading_id, run=run)
    reason = request.POST.get("reason", "")
    return _correct(request, run, lambda: services.strike_reading(reading, request.user, reason))


@require_POST
@for_run("bench.record_in_run")
def move(request: HttpRequest, run: Run, reading_id: int) -> HttpResponse:
    """The reading belongs to another point."""
    reading = get_object_or_404(Reading.objects.select_related("run"), pk=reading_id, run=run)
    points = queries.load(run).points
    form = MoveForm(request.POST)
    if not form.is_valid() or form.cleaned_data["point"] >= len(points):
        return _render_bench(
            request, run, message="Choose the point that this reading belongs to.", status=UNPROCESSABLE
        )
    return _correct(
        request, run, lambda: services.move_reading(reading, request.user, points[form.cleaned_data["point"]])
    )


@require_POST
@for_run("bench.record_in_run")
def undo(request: HttpRequest, run: Run) -> HttpResponse:
    """Strike the last reading."""
    return _correct(request, run, lambda: services.undo_last(run, request.user), go_there=True)


@require_POST
@for_run("bench.record_in_run")
def return_parts(request: HttpRequest, run: Run) -> HttpResponse:
    """The parts go back into the kit."""
    services.return_parts(run)
    return redirect(run)


@require_GET
@for_run("bench.view_run")
def work_out(request: HttpRequest, run: Run) -> HttpResponse:
    """The calculation, step by step, from measured or nominal values; of a sealed run once all is read."""
    loaded = queries.load(run)
    core_run = loaded.core
    setup = core_run.setups.get(request.GET.get("setup", "")) or next(iter(core_run.setups.values()))
    basis = request.GET.get("basis") if request.GET.get("basis") in (MEASURED, NOMINAL) else core_run.judge.against
    read = {reading.target.key for reading in core_run.readings if reading.struck is None}
    context = {"run": run, "setup": setup.name, "setups": list(core_run.setups), "basis": basis}
    if run.sealed and not all(target.key in read for target in loaded.points):
        return render(request, "bench/worked.html", {**context, "is_sealed": True})
    values = judgement.values(core_run, setup, basis)
    page = worked.build(core_run, setup, values, request.GET.get("way", ""), request.user)
    return render(request, "bench/worked.html", {**context, "worked": page, "bases": (MEASURED, NOMINAL)})


@require_http_methods(["GET", "POST"])
@for_run("bench.record_in_run")
def board(request: HttpRequest, run: Run) -> HttpResponse:
    """The board of a setup: as planned, as built, and the way of the current."""
    core_run = queries.load(run).core
    asked = request.POST if request.method == "POST" else request.GET
    setup = core_run.setups.get(asked.get("setup", "")) or next(iter(core_run.setups.values()))
    refused = probe_refused = ""
    if request.method == "POST":
        try:
            if request.POST.get("act") == "adopt":
                return redirect(services.adopt_board(request.user, core_run, setup, boards.load(run, setup)))
            boards.act(run, core_run, setup, request.POST.get("act", ""), request.POST)
        except (services.RefusedError, BoardError, EditError) as error:
            refused = str(error)
        if not request.htmx and not refused:
            return redirect(f"{reverse('bench:board', args=(run.pk,))}?{urlencode({'setup': setup.name})}")
    kept = boards.load(run, setup)
    begun = bool(kept.built.placements) or request.method == "POST"
    way = request.GET.get("way") or (board_page.BUILT if begun else board_page.PLANNED)
    at = _whole_number(request.GET.get("at")) or 0
    try:
        page = board_page.build(core_run, setup, kept, way, at, request.GET)
    except BoardError as error:
        probe_refused = str(error)
        page = board_page.build(core_run, setup, kept, way, at, {})
    context = {
        "run": run,
        "page": page,
        "address": reverse("bench:board", args=(run.pk,)),
        "ways": (board_page.PLANNED, board_page.BUILT, board_page.PATH),
        "quantities": [(VOLTAGE, "V DC"), (CURRENT, "A DC"), (RESISTANCE, "Ω")],
        "typed": asked if refused or request.method == "GET" else {},
        "refused": refused,
        "probe_refused": probe_refused,
        "drawing": of_setup(core_run, setup, zigzag=request.user.draws_zigzag, lit=page.lit_parts),
    }
    status = UNPROCESSABLE if refused or probe_refused else 200
    return render(request, "bench/_board.html" if request.htmx else "bench/board.html", context, status=status)


@require_GET
@for_run("bench.view_run")
def document(request: HttpRequest, run: Run) -> HttpResponse:
    """The run as a run document."""
    response = HttpResponse(run_document.write(queries.load(run).core), content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="run-{run.pk}.run.json"'
    return response


def _correct(
    request: HttpRequest, run: Run, action: Callable[[], Reading | Strike], *, go_there: bool = False
) -> HttpResponse:
    """Carry out a correction; a refusal becomes a message.

    The page stays at its point, or goes to that of the reading which `action` returns.
    """
    chosen = _whole_number(request.POST.get("at"))
    try:
        done = action()
    except (services.RefusedError, QuantityError) as error:
        return _render_bench(request, run, chosen=chosen, message=str(error), status=UNPROCESSABLE)
    return _render_bench(request, run, chosen=chosen, at_reading=done.pk if go_there else None)


def _render_bench(
    request: HttpRequest,
    run: Run,
    loaded: queries.LoadedRun | None = None,
    *,
    chosen: int | None = None,
    recorded: int | None = None,
    at_reading: int | None = None,
    form: ReadingForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    """The whole bench from the run's rows, or its live part for htmx; a plain form post is sent back to the page."""
    loaded = loaded or queries.load(run)
    core_run, points = loaded.core, loaded.points
    assessment = judgement.assess(core_run)
    if at_reading is not None:
        target = core_run.readings[loaded.reading_ids.index(at_reading)].target
        chosen = [point.key for point in points].index(target.key)
    if chosen is None or chosen >= len(points):
        chosen = ledger.next_point(points, assessment, -1 if recorded is None else recorded)
    if request.method == "POST" and not request.htmx and status == 200:
        return redirect(f"{run.get_absolute_url()}{'' if chosen is None else f'?point={chosen}'}")
    context = {
        "run": run,
        "bench": ledger.build(core_run, points, assessment, chosen, recorded),
        "drawing": _drawing(request, run, core_run, assessment, points[chosen] if chosen is not None else None),
        "shown_choices": drawings.SHOWN,
        "shown": _shown(request),
        "form": form,
        "message": message,
        "entry_key": new_key(),
        "reading_ids": loaded.reading_ids,
        "correcting": _whole_number(request.GET.get("correct")),
    }
    if request.htmx:
        return render(request, "bench/_bench.html", context, status=status)
    drawn = run.drawn_parts.filter(put_back=None).select_related("bin__kit")
    return render(request, "bench/bench.html", {**context, "drawn": drawn}, status=status)


def _shown(request: HttpRequest) -> str:
    """What the drawing shows beside the parts, kept from one page part to the next."""
    asked = request.GET.get("show") or request.POST.get("show")
    return asked if asked in drawings.SHOWN else drawings.NOTHING


def _drawing(
    request: HttpRequest, run: Run, core_run: core_record.Run, assessment: Assessment, target: Target | None
) -> str:
    shown, zigzag = _shown(request), request.user.draws_zigzag
    if shown == drawings.NOTHING:
        return drawings.of_sheet(run.sheet_id, target, zigzag)
    return drawings.with_readings(core_run, assessment, target, zigzag, shown)


def _preview(form: NewRunForm) -> object:
    """The drawing of a form that describes a circuit, else nothing."""
    if not form.is_bound or not form.is_valid():
        return None
    planned = form.cleaned_data["planned"]
    return schematic(planned, next(iter(planned.setups.values())))


def _whole_number(text: str | None) -> int | None:
    return int(text) if text and text.isascii() and text.isdigit() and len(text) < 9 else None
