"""The barest views: each inserts one row and says so."""

import uuid

from django.contrib.auth.decorators import login_required
from django.core.wsgi import get_wsgi_application
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import include, path
from django.utils import timezone
from django.views.decorators.http import require_POST

application = get_wsgi_application()


def insert_reading(request: HttpRequest) -> HttpResponse:
    """Insert one reading of the first run."""

    from recensor.runs.models import ReadingRow

    ReadingRow(
        run_id=1, run_sheet_id=1, author_id=1, quantity="voltage", text="1.00", time=timezone.now(), key=uuid.uuid4()
    ).save()
    return HttpResponse("ok")


def insert_part(request: HttpRequest) -> HttpResponse:
    """Insert one part of the first sorting."""
    from recensor.kits.models import SortedPart

    SortedPart(
        sorting_id=1, author_id=1, text="1.00", value=1, resolution=1, time=timezone.now(), key=uuid.uuid4()
    ).save()
    return HttpResponse("ok")


def page(request: HttpRequest) -> HttpResponse:
    """The base page with nothing on it."""
    return render(request, "base.html")


def signed_in(view: object) -> object:
    """The same, as any view must do it that records what a signed-in person sends."""
    return login_required(require_POST(view))


urlpatterns = [
    path("bare/", insert_reading),
    path("bare/signed-in/", signed_in(insert_reading)),
    path("bare/page/", login_required(page)),
    path("bare/sorting/", insert_part),
    path("bare/sorting/signed-in/", signed_in(insert_part)),
    path("", include("recensor.site.urls")),
]
