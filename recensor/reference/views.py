"""The band reader's pages, and values made from two parts."""

from django.contrib.auth.decorators import login_required
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from recensor.core.meters import DISPLAYS, USUAL_COUNTS
from recensor.core.resistors import Colour
from recensor.people.requests import SignedIn
from recensor.reference.bands_page import band_page, printed_page, value_page
from recensor.reference.forms import PairForm, ValueForm
from recensor.reference.pairs_page import solutions

MOST_CHARACTERS = 200


@login_required
@require_GET
def bands(request: SignedIn) -> HttpResponse:
    """The band reader: typed words, a colour added from the palette, or the last one taken off."""
    words = request.GET.get("bands", "")[:MOST_CHARACTERS]
    if "add" in request.GET:
        words = f"{words} {request.GET['add'][:MOST_CHARACTERS]}"
    if "back" in request.GET:
        words = " ".join(words.split()[:-1])
    return _render_bands(request, "reference/_bands.html", words=words.strip())


@login_required
@require_GET
def printed(request: SignedIn) -> HttpResponse:
    """What a printed code means."""
    return _render_bands(request, "reference/_printed.html", code=request.GET.get("code", "").strip()[:MOST_CHARACTERS])


@login_required
@require_GET
def value(request: SignedIn) -> HttpResponse:
    """A value's bands."""
    return _render_bands(request, "reference/_value.html", form=ValueForm(request.GET))


@login_required
@require_GET
def pairs(request: SignedIn) -> HttpResponse:
    """A wanted value made from two parts in stock."""
    form = PairForm(request.GET if "wanted" in request.GET else None, initial={"stock": request.GET.get("stock")})
    pair_solutions = (
        solutions(float(form.cleaned_data["wanted"]), form.cleaned_data["stock"]) if form.is_valid() else []
    )
    context = {"form": form, "solutions": pair_solutions, "is_asked": form.is_bound and form.is_valid()}
    return render(request, "reference/_pairs.html" if request.htmx else "reference/pairs.html", context)


def _render_bands(
    request: SignedIn, part: str, *, words: str = "", code: str = "", form: ValueForm | None = None
) -> HttpResponse:
    """The band reader, or for htmx the one part of it that was asked for."""
    asked = request.GET.get("counts", "")
    counts = next((display for display in DISPLAYS if str(display) == asked), USUAL_COUNTS)
    typed = form.cleaned_data if form and form.is_valid() else None
    context = {
        "page": band_page(words, counts),
        "palette": list(Colour),
        "displays": DISPLAYS,
        "counts": counts,
        "printed": printed_page(code),
        "form": form or ValueForm(),
        "value": value_page(typed["value"].value, typed["tolerance"], counts) if typed else None,
    }
    return render(request, part if request.htmx else "reference/bands.html", context)
