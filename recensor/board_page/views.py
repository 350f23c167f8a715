"""The board of a run: planned, built, probed, and the way of the current."""

from dataclasses import replace

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_http_methods

from recensor.board_page import building, kept_board
from recensor.board_page.kept_board import KeptBoard
from recensor.board_page.page import Looking, Side, board_page
from recensor.core.boards import BoardError
from recensor.core.circuit import Setup, Sheet, slug, target_of_slug
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.drawing.board import Lies
from recensor.experiments.models import Experiment
from recensor.people.requests import SignedIn
from recensor.runs import queries, services
from recensor.runs.access import run_view
from recensor.runs.mapping import meter_of
from recensor.runs.models import RunRow
from recensor.web.drawings import of_setup
from recensor.web.fields import whole_number
from recensor.web.refusals import UNPROCESSABLE, run_or_refuse

DIALS = ((VOLTAGE, "V DC"), (CURRENT, "A DC"), (RESISTANCE, "Ω"))
ADOPT = "adopt"


@require_http_methods(["GET", "POST"])
@run_view("runs.record")
def board(request: SignedIn, run: RunRow) -> HttpResponse:
    """The board of a setup, or one act on it."""
    loaded = queries.load(run)
    sheet = replace(loaded.core.sheet, sealed=loaded.is_sealed)
    setup = sheet.setup((request.POST or request.GET).get("setup"))
    if request.method == "GET":
        return _render(request, run, sheet, setup, kept_board.load(run, sheet, setup))
    name = request.POST.get("act", "")
    if name == ADOPT:
        return run_or_refuse(
            lambda: _adopt(request, run, setup),
            redirect,
            lambda error, status: _render(
                request, run, sheet, setup, kept_board.load(run, sheet, setup), error.message
            ),
        )
    return run_or_refuse(
        lambda: building.carry_out(run, sheet, setup, name, request.POST),
        lambda kept: _done(request, run, sheet, setup, kept),
        lambda error, status: _render(request, run, sheet, setup, kept_board.load(run, sheet, setup), error.message),
    )


def _adopt(request: SignedIn, run: RunRow, setup: Setup) -> Experiment:
    core = queries.with_boards(run, queries.load(run).core)
    return services.adopt_board(request.user, core, setup)


def _done(request: SignedIn, run: RunRow, sheet: Sheet, setup: Setup, kept: KeptBoard) -> HttpResponse:
    if request.htmx:
        return _render(request, run, sheet, setup, kept)
    return redirect(f"{reverse('board_page:board', args=(run.pk,))}?{urlencode({'setup': setup.name})}")


def _render(
    request: SignedIn, run: RunRow, sheet: Sheet, setup: Setup, kept: KeptBoard, refused: str = ""
) -> HttpResponse:
    """The page of a board; what was typed stays where it was refused."""
    side, at, probe_refused = _side(request, kept), whole_number(request.GET.get("at")) or 0, ""
    looked_at = target_of_slug(request.GET.get("measurement", ""), sheet)
    # While there is still something to be put in, every row is wanted.
    is_building = side is Side.BUILT and not set(setup.connections) <= {*kept.built.placements, *setup.sources_off}
    lies, meter = Lies(request.user.board_lies), meter_of(run)
    looking = Looking(lies, is_building or "whole" in request.GET, looked_at, meter)
    try:
        page = board_page(sheet, setup, kept, side, at, _probed(request), looking)
    except BoardError as error:
        probe_refused = error.message
        page = board_page(sheet, setup, kept, side, at, ("", "", VOLTAGE), looking)
    shown = replace(sheet, parts={**sheet.parts, **kept.extra})
    typed = request.POST if request.method == "POST" and refused else request.GET
    context = {
        "run": run,
        "page": page,
        "address": reverse("board_page:board", args=(run.pk,)),
        "sides": list(Side),
        "dials": DIALS,
        "typed": typed,
        "refused": refused,
        "probe_refused": probe_refused,
        "reads": slug(page.reads) if page.reads is not None else "",
        "whole": looking.whole,
        "drawing": of_setup(shown, setup, request.user.conventions, lit=page.lit_parts),
    }
    status = UNPROCESSABLE if refused or probe_refused else 200
    return render(
        request, "board_page/_board.html" if request.htmx else "board_page/board.html", context, status=status
    )


def _side(request: SignedIn, kept: KeptBoard) -> Side:
    """What is asked for; else the built board once something is on it."""
    asked = request.GET.get("side")
    if asked in set(Side):
        return Side(asked)
    return Side.BUILT if kept.built.placements or request.method == "POST" else Side.PLANNED


def _probed(request: SignedIn) -> tuple[str, str, Measurand]:
    asked = request.GET.get("quantity")
    measurand = Measurand(asked) if asked in set(Measurand) else VOLTAGE
    return request.GET.get("red", ""), request.GET.get("black", ""), measurand
