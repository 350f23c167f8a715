"""The barest view: it inserts one row and says so."""

import uuid

from django.core.wsgi import get_wsgi_application
from django.http import HttpRequest, HttpResponse
from django.urls import path
from django.utils import timezone

application = get_wsgi_application()


def insert(request: HttpRequest) -> HttpResponse:
    """Insert one reading of the first run."""
    from recensor.bench.models import Reading

    Reading(run_id=1, author_id=1, quantity="voltage", text="1.00", time=timezone.now(), key=uuid.uuid4()).save()
    return HttpResponse("ok")


urlpatterns = [path("", insert)]
