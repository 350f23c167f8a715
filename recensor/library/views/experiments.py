"""Experiments: the list, new ones, the editor, the sheet. Parse, call one service or query, render."""

from collections.abc import Callable
from functools import wraps

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.core.circuit import Setup
from recensor.core.editing import usual_readings
from recensor.core.judgement import values
from recensor.core.record import NOMINAL, Run
from recensor.formats import run_document, spice
from recensor.library import drawings, editor, queries, what_if, worked
from recensor.library.edits import ACTS, REFUSALS
from recensor.library.fields import MOST_CHARACTERS
from recensor.library.forms.experiments import AskedForm, ImportForm, LineForm, SettingsForm, StartForm
from recensor.library.models import Experiment, Kit
from recensor.library.services import RefusedError, experiments

UNPROCESSABLE = 422
MOST_LISTED = 200
TYPED = ("setup", "part", "what", "name", "value", "tolerance", "rating", "first", "second", "line", "nodes",
         "setup_name", "here")  # fmt: skip
# Where on the page an edit's refusal is said.
PLACES = {
    "around_acts": ("after", "before", "parallel", "exchange", "instead"),
    "chosen_acts": ("remove", "leave_open", "short", "off", "on", "here", "equivalent"),
    "setup_acts": ("add_setup", "remove_setup", "superposition"),
}
MOVES = {"undo": experiments.undo, "redo": experiments.redo}


def for_experiment(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """Sign-in, and the experiment; a request that changes it needs its owner."""

    @wraps(view)
    @login_required
    def checked(request: HttpRequest, experiment_id: int, **arguments: object) -> HttpResponse:
        experiment = get_object_or_404(Experiment.objects.select_related("owner"), pk=experiment_id)
        if request.method == "POST" and not request.user.has_perm("library.change_experiment", experiment):
            raise PermissionDenied
        return view(request, experiment, **arguments)

    return checked


@login_required
@require_GET
def experiments_list(request: HttpRequest) -> HttpResponse:
    """Everyone's experiments, the latest first."""
    rows = Experiment.objects.select_related("owner")[:MOST_LISTED]
    return render(request, "library/experiments.html", {"experiments": rows})


@login_required
@require_http_methods(["GET", "POST"])
def new_experiment(request: HttpRequest) -> HttpResponse:
    """Begin from a line, a shape, a ready-made experiment, a file or a node list."""
    asked = request.POST.get("by") if request.method == "POST" else None
    line = LineForm(request.POST if asked == "line" else None)
    start = StartForm(request.POST if asked == "start" else None)
    imported = ImportForm(*((request.POST, request.FILES) if asked == "import" else ()))
    if line.is_valid():
        return redirect(experiments.make_experiment(request.user, line.run))
    if start.is_valid():
        made = start.made()
        return redirect(experiments.make_experiment(request.user, made.run, made.aim))
    if imported.is_valid():
        return redirect(experiments.make_experiment(request.user, imported.run, _passed_over(imported)))
    drawing = ""
    if imported.refused and imported.refused.attempt:
        drawing = drawings.of_setup(*imported.refused.attempt, lit=imported.refused.parts)
    context = {"line": line, "start": start, "import": imported, "drawing": drawing}
    status = UNPROCESSABLE if request.method == "POST" else 200
    return render(request, "library/new_experiment.html", context, status=status)


@require_http_methods(["GET", "POST"])
@for_experiment
def experiment(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """The editor: the circuit, changed by one act at a time."""
    if request.method == "GET":
        return _render_editor(request, experiment, request.GET.get("setup", ""), request.GET.get("part", ""))
    act = request.POST.get("act", "")
    typed = {name: request.POST.get(name, "")[:MOST_CHARACTERS] for name in TYPED}
    try:
        changed = None
        if act in MOVES:
            MOVES[act](experiment)
        elif act in ACTS:
            changed = experiments.edit(experiment, request.user, lambda run: ACTS[act](run, typed))
        else:
            raise RefusedError("Choose what to do with the circuit.")
    except (*REFUSALS, RefusedError) as error:
        refusal = editor.refusal(act, error, typed, zigzag=request.user.draws_zigzag)
        return _render_editor(request, experiment, typed["setup"], typed["part"], refusal=refusal)
    setup = typed["setup_name"].strip() if act == "add_setup" else typed["setup"]
    part = typed["name"].strip() if act == "change" else typed["part"]
    return _render_editor(request, experiment, setup, part, changed=changed)


@require_http_methods(["GET", "POST"])
@for_experiment
def sheet(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """What the experiment asks for and how it is judged."""
    form = SettingsForm(
        request.POST or None, initial={name: getattr(experiment, name) for name in SettingsForm.base_fields}
    )
    if request.method == "POST" and form.is_valid():
        experiments.set_up(experiment, form.cleaned_data)
        return redirect("library:sheet", experiment_id=experiment.pk)
    return _render_sheet(request, experiment, form=form, status=UNPROCESSABLE if form.is_bound else 200)


@require_GET
@for_experiment
def try_out(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """What every quantity would be with other values."""
    run, setup = _sheet_and_setup(request, experiment)
    context = {
        "experiment": experiment,
        "page": what_if.build(run, setup, request.GET),
        "setup": setup.name,
        "setups": list(run.setups),
        "here": "what if",
    }
    return render(request, "library/_moved.html" if request.htmx else "library/what_if.html", context)


@require_GET
@for_experiment
def work_out(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """The calculation, step by step, from nominal values."""
    run, setup = _sheet_and_setup(request, experiment)
    page = worked.build(run, setup, values(run, setup, NOMINAL), request.GET.get("way", ""), request.user)
    context = {
        "experiment": experiment,
        "worked": page,
        "setup": setup.name,
        "setups": list(run.setups),
        "here": "worked",
    }
    return render(request, "library/worked.html", context)


@require_POST
@for_experiment
def asked(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """Choose the readings that are asked for."""
    form = AskedForm(request.POST, count=len(usual_readings(queries.sheet_of(experiment))))
    if not form.is_valid():
        return _render_sheet(request, experiment, message=" ".join(form.errors["asked"]), status=UNPROCESSABLE)
    experiments.ask(experiment, request.user, form.cleaned_data["asked"])
    return redirect("library:sheet", experiment_id=experiment.pk)


@login_required
@require_POST
def duplicate(request: HttpRequest, experiment_id: int) -> HttpResponse:
    """A copy of one's own, of anyone's experiment."""
    return redirect(experiments.duplicate(get_object_or_404(Experiment, pk=experiment_id), request.user))


@require_GET
@for_experiment
def document(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """The experiment as a run document without readings."""
    text = run_document.write(queries.sheet_of(experiment))
    return _download(text, f"{_file_name(experiment)}.run.json", "application/json; charset=utf-8")


@require_GET
@for_experiment
def netlist(request: HttpRequest, experiment: Experiment) -> HttpResponse:
    """One setup as a SPICE netlist."""
    run, setup = _sheet_and_setup(request, experiment)
    try:
        text = spice.write(run, setup)
    except ValueError as error:
        return _render_sheet(request, experiment, message=str(error), status=UNPROCESSABLE)
    return _download(text, f"{_file_name(experiment)}.cir", "text/plain; charset=utf-8")


def _sheet_and_setup(request: HttpRequest, experiment: Experiment) -> tuple[Run, Setup]:
    """An experiment's sheet, and the setup that the address names, else its first."""
    run = queries.sheet_of(experiment)
    return run, run.setups.get(request.GET.get("setup", "")) or next(iter(run.setups.values()))


def _file_name(experiment: Experiment) -> str:
    return slugify(experiment.title) or f"experiment-{experiment.pk}"


def _download(text: str, name: str, content_type: str) -> HttpResponse:
    response = HttpResponse(text, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _passed_over(imported: ImportForm) -> str:
    return f"Passed over in the netlist: {', '.join(imported.passed_over)}." if imported.passed_over else ""


def _render_editor(
    request: HttpRequest,
    experiment: Experiment,
    setup: str,
    part: str,
    *,
    refusal: editor.Refusal | None = None,
    changed: Run | None = None,
) -> HttpResponse:
    """The editor, or for htmx its live part; `changed` is the sheet that was just made."""
    run = changed or queries.sheet_of(experiment)
    can_undo, can_redo = (True, False) if changed else queries.ways_on(experiment)
    shown = request.GET.get("show") or request.POST.get("show", "")
    page = editor.build(run, setup, part, shown, zigzag=request.user.draws_zigzag, can_undo=can_undo, can_redo=can_redo)
    changes = request.user.has_perm("library.change_experiment", experiment)
    context = {
        "experiment": experiment,
        "address": experiment.get_absolute_url(),
        "editor": page,
        "refusal": refusal,
        "refused_elsewhere": refusal is not None and not _has_place(refusal.act, page),
        "changes": changes,
        "here": "circuit",
        **PLACES,
    }
    if request.method == "POST" and not request.htmx and not refusal:
        return redirect(experiment)
    part_name = "library/_editor.html" if request.htmx else "library/experiment.html"
    return render(request, part_name, context, status=UNPROCESSABLE if refusal else 200)


def _has_place(act: str, page: editor.Editor) -> bool:
    """Whether the form that was sent is on the page again, to say at its place why it was refused."""
    if act in (*PLACES["around_acts"], *PLACES["chosen_acts"], "change"):
        return page.chosen is not None
    return act in ("bridge", "line", "nodes") or act in PLACES["setup_acts"]


def _render_sheet(
    request: HttpRequest,
    experiment: Experiment,
    *,
    form: SettingsForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    run = queries.sheet_of(experiment)
    wanted = {target.key for target in run.asked}
    initial = {name: getattr(experiment, name) for name in SettingsForm.base_fields}
    context = {
        "experiment": experiment,
        "changes": request.user.has_perm("library.change_experiment", experiment),
        "form": form or SettingsForm(initial=initial),
        "message": message,
        "readings": [(k, target, target.key in wanted) for k, target in enumerate(usual_readings(run))],
        "drawings": [
            (setup.name, drawings.of_setup(run, setup, zigzag=request.user.draws_zigzag))
            for setup in run.setups.values()
        ],
        "kits": Kit.objects.all(),
        "here": "sheet",
    }
    return render(request, "library/sheet.html", context, status=status)
