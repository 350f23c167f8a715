"""Changing a running run: corrections, changes, title, copies, putting away."""

from collections.abc import Callable
from typing import Any

from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods, require_POST

from recensor.core.errors import Refused
from recensor.people.requests import SignedIn
from recensor.run_pages.change_page import RefusedForm, change_page
from recensor.run_pages.forms import (
    ChangeForm,
    ChosenMeterForm,
    CorrectionForm,
    HoldForm,
    RoundsForm,
    SetupForm,
    SweepForm,
    TitleForm,
)
from recensor.runs import queries
from recensor.runs.access import run_view
from recensor.runs.models import ActRow, RunRow
from recensor.runs.services import change_circuit, circuit_changes
from recensor.web.forms import KeyForm
from recensor.web.refusals import first_error, run_or_refuse


@require_http_methods(["GET", "POST"])
@run_view("runs.record")
def change(request: SignedIn, run: RunRow) -> HttpResponse:
    """The page, or one thing that is done on it; what is refused is said at its place."""
    if request.method == "GET":
        page = change_page(request, run, queries.load(run), request.GET.get("setup", ""))
        return render(request, "run_pages/change.html", page)
    name = request.POST.get("act", "")
    if name not in _ACTS:
        name = "change"
    return run_or_refuse(
        lambda: _ACTS[name](request, run),
        lambda _: redirect(run) if name in _TO_THE_BENCH else redirect("run_pages:change", run_id=run.pk),
        lambda error, status: _refused(request, run, name, error, status),
    )


# After these the circuit is another one, and what is read next is read on it.
_TO_THE_BENCH = ("change", "add_setup")


def _refused(request: SignedIn, run: RunRow, name: str, error: Refused, status: int) -> HttpResponse:
    sent = request.POST
    place = {"correct": f"correct {sent.get('part', '')}", "read_more": sent.get("more", "")}.get(name, name)
    page = change_page(request, run, queries.load(run), sent.get("setup", ""), RefusedForm(place, sent, error))
    return render(request, "run_pages/change.html", page, status=status)


def _correct(request: SignedIn, run: RunRow) -> None:
    typed = _valid(CorrectionForm(request.POST))
    change_circuit.correct(run, request.user, typed["part"], typed, typed["key"])


def _change(request: SignedIn, run: RunRow) -> None:
    typed = _valid(ChangeForm(request.POST))
    edit = circuit_changes.changed_so(typed["what_happens"], typed["setup"], typed["part"], typed["what"])
    change_circuit.change(run, request.user, edit, typed["key"])


def _add_setup(request: SignedIn, run: RunRow) -> None:
    typed = _valid(SetupForm(request.POST))
    change_circuit.change(run, request.user, circuit_changes.setup_added(typed["name"], typed["setup"]), typed["key"])


def _read_more(request: SignedIn, run: RunRow) -> None:
    form = HoldForm(request.POST) if request.POST.get("more") == "hold" else SweepForm(request.POST)
    key = _valid(form)["key"]
    change_circuit.read_more(run, request.user, form.cleaned_data["more"], form.typed, key)


def _read_in_rounds(request: SignedIn, run: RunRow) -> None:
    typed = _valid(RoundsForm(request.POST))
    change_circuit.read_in_rounds(run, request.user, typed["rounds"] or 1, typed["key"])


def _choose_meter(request: SignedIn, run: RunRow) -> None:
    change_circuit.choose_meter(run, request.user, _valid(ChosenMeterForm(request.POST))["meter"])


def _rename(request: SignedIn, run: RunRow) -> None:
    change_circuit.rename(run, _valid(TitleForm(request.POST))["title"])


def _valid(form: Form) -> dict[str, Any]:
    if not form.is_valid():
        raise Refused(first_error(form))
    return form.cleaned_data


def _take_back(request: SignedIn, run: RunRow) -> None:
    number = request.POST.get("number", "")
    act = ActRow.objects.filter(run=run, pk=int(number) if number.isdecimal() and len(number) < 12 else 0).first()
    if act is None:
        raise Refused("There is nothing to take back.")
    change_circuit.take_back_change(run, request.user, act)


_ACTS: dict[str, Callable[[SignedIn, RunRow], None]] = {
    "correct": _correct,
    "change": _change,
    "add_setup": _add_setup,
    "read_more": _read_more,
    "rounds": _read_in_rounds,
    "take_back": _take_back,
    "meter": _choose_meter,
    "rename": _rename,
}


@require_POST
@run_view("runs.record")
def same_again(request: SignedIn, run: RunRow) -> HttpResponse:
    """Another run of the same sheet."""
    form = KeyForm(request.POST)
    key = form.cleaned_data["key"] if form.is_valid() else None
    return redirect(change_circuit.same_again(run, request.user, key, with_parts="with_parts" in request.POST))


@require_POST
@run_view("runs.record")
def put_away(request: SignedIn, run: RunRow) -> HttpResponse:
    """Off the list, or back onto it, as the button said."""
    change_circuit.put_away(run, away=request.POST.get("away") == "yes")
    return redirect("run_pages:runs")
