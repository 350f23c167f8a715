"""The barest view: it inserts one row and says so."""

import uuid

from django.contrib.auth.decorators import login_required
from django.core.wsgi import get_wsgi_application
from django.http import HttpRequest, HttpResponse
from django.urls import include, path
from django.utils import timezone
from django.views.decorators.http import require_POST

application = get_wsgi_application()


def insert(request: HttpRequest) -> HttpResponse:
    """Insert one reading of the first run."""
    from recensor.bench.models import Reading

    Reading(run_id=1, author_id=1, quantity="voltage", text="1.00", time=timezone.now(), key=uuid.uuid4()).save()
    return HttpResponse("ok")


@login_required
@require_POST
def insert_signed_in(request: HttpRequest) -> HttpResponse:
    """The same, as any view must do it that records what a signed-in person sends."""
    return insert(request)


urlpatterns = [
    path("bare/", insert),
    path("bare/signed-in/", insert_signed_in),
    path("", include("recensor.site.urls")),
]
