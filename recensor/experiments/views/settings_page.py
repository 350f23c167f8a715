"""The sheet of an experiment: what it asks for, and how it is judged."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from recensor.core.circuit import Asked, all_readings, slug
from recensor.experiments import queries, services
from recensor.experiments.forms import AskedForm, SettingsForm
from recensor.experiments.models import Experiment
from recensor.experiments.views import CHANGE, of_experiment
from recensor.people.requests import SignedIn
from recensor.web import drawings
from recensor.web.refusals import UNPROCESSABLE, first_error


@require_http_methods(["GET", "POST"])
@of_experiment()
def sheet(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """What the experiment asks for and how it is judged."""
    form = SettingsForm(request.POST or None, initial=_settings(experiment))
    if request.method == "POST" and form.is_valid():
        services.set_up(experiment, form.cleaned_data)
        return redirect("experiments:sheet", experiment_id=experiment.pk)
    return render_sheet(request, experiment, form=form, status=UNPROCESSABLE if form.is_bound else 200)


@require_POST
@of_experiment()
def asked(request: SignedIn, experiment: Experiment) -> HttpResponse:
    """Choose the readings that are asked for."""
    form = AskedForm(request.POST, readings=all_readings(queries.sheet_of(experiment)))
    if not form.is_valid():
        return render_sheet(request, experiment, message=first_error(form), status=UNPROCESSABLE)
    typed = form.cleaned_data
    if typed["which"]:
        services.ask_for(experiment, request.user, Asked(typed["which"]), typed["part"])
    else:
        services.ask(experiment, request.user, typed["asked"], typed["rounds"] or 1, predict=typed["predict"])
    return redirect("experiments:sheet", experiment_id=experiment.pk)


def render_sheet(
    request: SignedIn,
    experiment: Experiment,
    *,
    form: SettingsForm | None = None,
    message: str = "",
    status: int = 200,
) -> HttpResponse:
    """The sheet, perhaps with what is wrong with a form on it."""
    kept = queries.sheet_of(experiment)
    wanted = {target.key for target in kept.asked}
    context = {
        "experiment": experiment,
        "changes": request.user.has_perm(CHANGE, experiment),
        "form": form or SettingsForm(initial=_settings(experiment)),
        "message": message,
        "readings": [(slug(target), target, target.key in wanted) for target in all_readings(kept)],
        "sets": [which for which in Asked if which is not Asked.CURRENTS_OF],
        "currents_of": Asked.CURRENTS_OF,
        "parts": list(kept.parts),
        "ask": AskedForm(readings=(), initial={"rounds": kept.rounds, "predict": bool(kept.predicted)}),
        "drawings": [
            (setup.name, drawings.of_setup(kept, setup, request.user.conventions)) for setup in kept.setups.values()
        ],
        "here": "sheet",
    }
    return render(request, "experiments/sheet.html", context, status=status)


def _settings(experiment: Experiment) -> dict[str, object]:
    return {name: getattr(experiment, name) for name in SettingsForm.base_fields}
