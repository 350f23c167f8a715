"""What an experiment gives to read: worked out, tried with other values, as a run document, as a netlist."""

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from recensor.core.circuit import Setup, Sheet
from recensor.core.record import Run
from recensor.core.solving import stated
from recensor.drawing.worked import worked
from recensor.experiments import queries
from recensor.experiments.models import Experiment
from recensor.experiments.views import is_sealed, of_experiment
from recensor.experiments.views.settings_page import render_sheet
from recensor.experiments.what_if_page import what_if_page
from recensor.formats import spice
from recensor.formats.documents import run_document
from recensor.people.requests import SignedIn
from recensor.web.downloads import download
from recensor.web.refusals import run_or_refuse


@require_GET
@of_experiment()
def try_out(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """What every quantity would be with other values."""
    if is_sealed(request, experiment):
        return _closed(request, experiment, "what if")
    sheet, setup = _sheet_and_setup(request, experiment)
    context = {**_context(experiment, sheet, setup), "page": what_if_page(sheet, setup, request.GET), "here": "what if"}
    return render(request, "experiments/_moved.html" if request.htmx else "experiments/what_if.html", context)


@require_GET
@of_experiment()
def work_out(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """The calculation, step by step, from nominal values."""
    if is_sealed(request, experiment):
        return _closed(request, experiment, "worked")
    sheet, setup = _sheet_and_setup(request, experiment)
    conventions = request.user.conventions
    page = worked(sheet, setup, stated(sheet, setup).known, request.GET.get("method", ""), conventions)
    context = {**_context(experiment, sheet, setup), "worked": page, "conventions": conventions, "here": "worked"}
    return render(request, "experiments/worked.html", context)


@require_GET
@of_experiment()
def document(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """The experiment as a run document without readings."""
    text = run_document.write(Run(queries.sheet_of(experiment)))
    return download(text, f"{_file_name(experiment)}.run.json", "application/json; charset=utf-8")


@require_GET
@of_experiment()
def netlist(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """One setup as a SPICE netlist."""
    sheet, setup = _sheet_and_setup(request, experiment)
    return run_or_refuse(
        lambda: spice.write(sheet, setup),
        lambda text: download(text, f"{_file_name(experiment)}.cir", "text/plain; charset=utf-8"),
        lambda error, status: render_sheet(request, experiment, message=error.message, status=status),
    )


def _closed(request: SignedIn, experiment: Experiment, here: str) -> HttpResponse:
    return render(request, "experiments/sealed.html", {"experiment": experiment, "here": here})


def _context(experiment: Experiment, sheet: Sheet, setup: Setup) -> dict[str, object]:
    return {"experiment": experiment, "setup": setup.name, "setups": list(sheet.setups)}


def _sheet_and_setup(request: SignedIn, experiment: Experiment) -> tuple[Sheet, Setup]:
    """An experiment's sheet, and the setup that the address names, else its first."""
    sheet = queries.sheet_of(experiment)
    return sheet, sheet.setup(request.GET.get("setup"))


def _file_name(experiment: Experiment) -> str:
    return slugify(experiment.title) or f"experiment-{experiment.pk}"
