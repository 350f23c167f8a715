"""The editor: the circuit of an experiment, changed by one act at a time."""

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from recensor.core import lengths
from recensor.core.circuit import Sheet
from recensor.core.errors import Refused
from recensor.experiments import queries, services
from recensor.experiments.acts import ACTS, COMMON
from recensor.experiments.editor_page import Editor, Refusal, editor_page, refusal
from recensor.experiments.models import Experiment
from recensor.experiments.views import CHANGE, is_sealed, of_experiment
from recensor.people.requests import SignedIn
from recensor.web.refusals import run_or_refuse

MOVES: dict[str, Callable[[Experiment], None]] = {"undo": services.undo, "redo": services.redo}


@require_http_methods(["GET", "POST"])
@of_experiment()
def experiment(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """The editor, or one act on the circuit."""
    if request.method == "GET":
        page = _page(request, experiment, request.GET.get("setup", ""), request.GET.get("part", ""))
        return _render(request, experiment, page)
    name = request.POST.get("act", "")
    takes = ACTS[name].takes if name in ACTS else ()
    typed = {field: request.POST.get(field, "")[: lengths.PROSE] for field in (*COMMON, *takes)}

    def done(changed: Sheet | None) -> HttpResponse:
        if not request.htmx:
            return redirect(experiment)
        setup = typed.get("setup_name", "").strip() or typed["setup"]
        part = typed.get("name", "").strip() or typed["part"]
        return _render(request, experiment, _page(request, experiment, setup, part, changed))

    def refused(error: Refused, status: int) -> HttpResponse:
        page = _page(request, experiment, typed["setup"], typed["part"])
        return _render(request, experiment, page, refusal(name, error, typed, request.user.conventions, page), status)

    return run_or_refuse(lambda: _carry_out(request, experiment, name, typed), done, refused)


def _carry_out(request: SignedIn, experiment: Experiment, name: str, typed: dict[str, str]) -> Sheet | None:
    """The changed sheet; None where the experiment went back or forth."""
    if name in MOVES:
        MOVES[name](experiment)
        return None
    if name not in ACTS:
        raise Refused("Choose what to do with the circuit.")
    return services.edit(experiment, request.user, lambda sheet: ACTS[name].carry_out(sheet, typed))


def _page(request: SignedIn, experiment: Experiment, setup: str, part: str, changed: Sheet | None = None) -> Editor:
    """The editor's page; `changed` is the sheet that was just made."""
    can_undo, can_redo = (True, False) if changed else queries.ways_on(experiment)
    shown = "" if is_sealed(request, experiment) else request.GET.get("show") or request.POST.get("show", "")
    sheet = changed or queries.sheet_of(experiment)
    return editor_page(sheet, setup, part, shown, request.user.conventions, can_undo=can_undo, can_redo=can_redo)


def _render(
    request: SignedIn, experiment: Experiment, page: Editor, refused: Refusal | None = None, status: int = 200
) -> HttpResponse:
    """The editor, or for htmx its live part."""
    context = {
        "experiment": experiment,
        "address": experiment.get_absolute_url(),
        "editor": page,
        "refusal": refused,
        "is_sealed": is_sealed(request, experiment),
        "changes": request.user.has_perm(CHANGE, experiment),
        "here": "circuit",
    }
    part = "experiments/_editor.html" if request.htmx else "experiments/experiment.html"
    return render(request, part, context, status=status)
