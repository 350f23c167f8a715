"""Pages for requests that cannot be served."""

import secrets
import sys

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

from recensor.web import failures, security_log

TOO_LARGE, UNAVAILABLE = 413, 503
RETRY_AFTER = 5  # seconds


def _refusal(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    return render(request, "refusal.html", {"title": title, "text": text}, status=status)


def _without_database(status: int, context: dict[str, object]) -> HttpResponse:
    """A page that asks nothing about who is signed in, since that may be just what cannot be asked."""
    return HttpResponse(render_to_string("refusal.html", context), status=status)


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400."""
    return _without_database(
        400, {"title": "This request is not understood", "text": "Nothing was changed. Go back and try again."}
    )


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """403."""
    security_log.note("access refused", request)
    return _refusal(request, 403, "This is not yours to do", "Nothing was changed.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404."""
    return _refusal(request, 404, "There is nothing here", "The address is wrong, or it belongs to someone else.")


def too_large(request: HttpRequest, size: int) -> HttpResponse:
    """413, for a request of so many bytes."""
    text = (
        f"It has {size / 1e6:.1f} MB; at most {settings.LARGEST_REQUEST / 1e6:.1f} MB are taken. Nothing of it was "
        "read, and nothing was changed. Go back: what you typed is still there."
    )
    return _without_database(TOO_LARGE, {"title": "This file is too large", "text": text})


def failed(request: HttpRequest) -> HttpResponse:
    """500, with a reference that stands in the log; 503 where nothing is wrong but the database."""
    outage, again = failures.outage(sys.exc_info()[1]), request.method == "GET"
    if outage is not None:
        context: dict[str, object] = {"title": outage.title, "text": outage.text, "again": again}
        response = _without_database(UNAVAILABLE, context)
        response["Retry-After"] = str(RETRY_AFTER)
        return response
    request.reference = secrets.token_hex(4)  # type: ignore[attr-defined]
    context = {
        "again": again,
        "title": "Something failed here",
        "text": "What was recorded before is safe. Reload the page and go on.",
        "reference": request.reference,  # type: ignore[attr-defined]
    }
    return _without_database(500, context)


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form that was not made in this sign-in."""
    return _refusal(
        request,
        403,
        "This page is from an earlier sign-in",
        "Nothing was changed. Reload the page; what you typed can be sent again.",
    )
