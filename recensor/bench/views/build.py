"""Parts in hand, and the circuits that are built of them."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from recensor.bench.forms import CircuitsForm, GroupForm, NewPartsForm
from recensor.bench.page.context import BenchState
from recensor.bench.page.panes import Pane
from recensor.bench.page.parts_in_hand import Proposal, TypedInPane, marked, proposal
from recensor.bench.views.readings import render_bench, stands_at, where_it_was
from recensor.core.circuit import Part
from recensor.core.errors import Refused
from recensor.core.plan import Order, in_order
from recensor.people.requests import SignedIn
from recensor.runs import queries
from recensor.runs.access import run_view
from recensor.runs.models import RunRow
from recensor.runs.services.build_circuits import AddedCircuit, add_circuits, add_parts, take_as_group
from recensor.web.refusals import first_error, run_or_refuse


@require_GET
@run_view("runs.record")
def proposed(request: SignedIn, run: RunRow) -> HttpResponse:
    """What the circuits that are being typed mean: each drawn, with what has to be moved to come to it."""
    form = CircuitsForm(request.GET)
    core = queries.with_boards_of(run, queries.load(run, request.user)).core
    typed = form.cleaned_data["circuits"] if form.is_valid() else ""
    setup = core.sheet.setup(form.cleaned_data.get("setup")).name
    shown = proposal(core, setup, typed, request.user.conventions) if typed else Proposal()
    return render(request, "bench/_proposed_circuits.html", {"proposal": shown})


@require_POST
@run_view("runs.record")
def build(request: SignedIn, run: RunRow) -> HttpResponse:
    """The run goes on with the circuits that were typed, at the first of them."""
    form = CircuitsForm(request.POST, auto_id="build-%s")

    def built() -> list[AddedCircuit]:
        if not form.is_valid():
            raise Refused("Write the circuits in fewer words.")
        typed = form.cleaned_data
        text = typed["grown"] or typed["circuits"]
        return add_circuits(run, request.user, typed["setup"], text, form.wishes, typed["key"])

    def done(made: list[AddedCircuit]) -> HttpResponse:
        loaded = queries.load(run, request.user)
        names = list(dict.fromkeys(one.setup for one in made))
        there = [point for point in loaded.points if point.setup in names[:1]]
        ways = in_order(there, loaded.core.sheet, Order(request.user.reading_order))
        first = there[ways[0]] if there else None
        said = f"To build: {', '.join(names)}. What was read stays with its own circuit." if names else ""
        return render_bench(request, run, loaded, BenchState(first, done=said, pane=Pane.FILLED))

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("circuits", error.message)
        return _in_the_pane(request, run, TypedInPane(form=form), status)

    return run_or_refuse(built, done, refused)


@require_POST
@run_view("runs.record")
def more_parts(request: SignedIn, run: RunRow) -> HttpResponse:
    """More parts are in hand; the pane stays open."""
    form = NewPartsForm(request.POST, auto_id="new-%s")

    def added() -> list[Part]:
        if not form.is_valid():
            raise Refused(first_error(form))
        typed = form.cleaned_data
        return add_parts(run, request.user, typed["parts"], typed["key"], typed["kit"])

    def refused(error: Refused, status: int) -> HttpResponse:
        form.add_error("parts", error.message)
        return _in_the_pane(request, run, TypedInPane(new_parts=form), status)

    def done(parts: list[Part]) -> HttpResponse:
        said = f"In hand too: {'; '.join(f'{part.name} {marked(part)}'.rstrip() for part in parts)}."
        return _in_the_pane(request, run, TypedInPane(), done=said, drew=bool(form.cleaned_data["kit"]))

    return run_or_refuse(added, done, refused)


@require_POST
@run_view("runs.record")
def group(request: SignedIn, run: RunRow) -> HttpResponse:
    """Parts that are marked alike are one group from now on, or are told apart; the pane stays open."""
    form = GroupForm(request.POST)

    def grouped() -> bool:
        if not form.is_valid():
            raise Refused("Choose the parts that are marked alike.")
        together = form.cleaned_data["together"]
        take_as_group(run, request.user, form.names, form.cleaned_data["key"], together=together)
        return together

    def done(together: bool) -> HttpResponse:
        names = " and ".join(form.names)
        said = f"{names} are one group: any may be any of them." if together else f"{names} are told apart."
        return _in_the_pane(request, run, TypedInPane(), done=said)

    return run_or_refuse(
        grouped, done, lambda error, status: where_it_was(request, run, BenchState(message=error.message), status)
    )


def _in_the_pane(
    request: SignedIn, run: RunRow, typed: TypedInPane, status: int = 200, *, done: str = "", drew: bool = False
) -> HttpResponse:
    """The bench where it was, with the pane of parts and circuits open."""
    loaded = queries.load(run, request.user)
    state = BenchState(stands_at(request, loaded), done=done, pane=Pane.PARTS, in_pane=typed, drew=drew)
    return render_bench(request, run, loaded, state, status)
