"""Experiments as a whole: the list, new ones, copies."""

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from recensor.experiments import services
from recensor.experiments.forms import BeginExperimentForm, ImportForm, LineForm
from recensor.experiments.models import Experiment
from recensor.people.requests import SignedIn
from recensor.web import drawings
from recensor.web.refusals import UNPROCESSABLE

ON_A_PAGE = 50


@login_required
@require_GET
def experiments_list(request: SignedIn) -> HttpResponse:
    """Everyone's experiments, the latest first."""
    page = Paginator(Experiment.objects.select_related("owner"), ON_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "experiments/experiments.html", {"page": page})


@login_required
@require_http_methods(["GET", "POST"])
def new_experiment(request: SignedIn) -> HttpResponse:
    """Begin from a line, a shape, a ready-made experiment, a file or a node list."""
    asked = request.POST.get("by") if request.method == "POST" else None
    line = LineForm(request.POST if asked == "line" else None)
    begin = BeginExperimentForm(request.POST if asked == "start" else None)
    imported = ImportForm(*((request.POST, request.FILES) if asked == "import" else ()))
    if line.is_valid():
        return redirect(services.make_experiment(request.user, line.sheet))
    if begin.is_valid():
        made = begin.made()
        return redirect(services.make_experiment(request.user, made.sheet, made.aim))
    if imported.is_valid():
        return redirect(services.make_experiment(request.user, imported.sheet, _passed_over(imported)))
    drawing = ""
    if imported.refused and imported.refused.attempt:
        drawing = drawings.of_setup(*imported.refused.attempt, request.user.conventions, lit=imported.refused.parts)
    context = {"line": line, "start": begin, "import": imported, "drawing": drawing}
    status = UNPROCESSABLE if request.method == "POST" else 200
    return render(request, "experiments/new_experiment.html", context, status=status)


@login_required
@require_POST
def duplicate(request: SignedIn, experiment_id: int) -> HttpResponse:
    """A copy of one's own, of anyone's experiment."""
    return redirect(services.duplicate(get_object_or_404(Experiment, pk=experiment_id), request.user))


def _passed_over(imported: ImportForm) -> str:
    return f"Passed over in the netlist: {', '.join(imported.passed_over)}." if imported.passed_over else ""
