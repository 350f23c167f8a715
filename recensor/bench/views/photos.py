"""Photos of a reading: sent, and shown."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET, require_POST

from recensor.bench.views.readings import moved
from recensor.core.errors import Refused
from recensor.people.requests import SignedIn
from recensor.runs import services
from recensor.runs.access import run_view
from recensor.runs.models import Photo, RunRow


@require_POST
@run_view("runs.record")
def attach(request: SignedIn, run: RunRow, reading_id: int) -> HttpResponse:
    """Keep a picture with a reading; the page stays where it is."""

    def attached() -> None:
        file = request.FILES.get("photo")
        if file is None or file.size is None:
            raise Refused("Choose a picture first.")
        services.attach(run, request.user, reading_id, file, file.size)

    return moved(request, run, attached, "The photo is kept.")


@require_GET
@run_view("runs.view")
def photo(request: SignedIn, run: RunRow, photo_id: int) -> HttpResponse:
    """One picture."""
    row = get_object_or_404(Photo.objects.defer("reading"), pk=photo_id, reading__run=run)
    return HttpResponse(bytes(row.picture), content_type=row.content_type)
