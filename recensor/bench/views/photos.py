"""Photos of a reading: sent, and shown."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET, require_POST

from recensor.bench import services
from recensor.bench.models import Photo, Run
from recensor.bench.views import run_view
from recensor.bench.views.readings import moved
from recensor.core.errors import Refused
from recensor.people.requests import SignedIn


@require_POST
@run_view("bench.record_in_run")
def attach(request: SignedIn, run: Run, reading_id: int) -> HttpResponse:
    """Keep a picture with a reading; the page stays where it is."""

    def attached() -> None:
        file = request.FILES.get("photo")
        if file is None or file.size is None:
            raise Refused("Choose a picture first.")
        services.attach(run, request.user, reading_id, file, file.size)

    return moved(request, run, attached)


@require_GET
@run_view("bench.view_run")
def photo(request: SignedIn, run: Run, photo_id: int) -> HttpResponse:
    """One picture."""
    row = get_object_or_404(Photo.objects.defer("reading"), pk=photo_id, reading__run=run)
    return HttpResponse(bytes(row.picture), content_type=row.content_type)
