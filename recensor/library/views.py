"""The library's pages."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from recensor.core.colour_code import Colour
from recensor.library.bands import band_page, printed_page

MOST_CHARACTERS = 200


@login_required
@require_GET
def bands(request: HttpRequest) -> HttpResponse:
    """The band reader: typed words, a colour added from the palette, or the last one taken off."""
    words = request.GET.get("bands", "")[:MOST_CHARACTERS]
    if "add" in request.GET:
        words = f"{words} {request.GET['add'][:MOST_CHARACTERS]}"
    if "back" in request.GET:
        words = " ".join(words.split()[:-1])
    printed = printed_page(request.GET.get("code", "").strip()[:MOST_CHARACTERS])
    context = {"page": band_page(words.strip()), "palette": list(Colour), "printed": printed}
    part = "library/_printed.html" if "code" in request.GET else "library/_bands.html"
    return render(request, part if request.htmx else "library/bands.html", context)
