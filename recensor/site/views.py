"""Pages for requests that cannot be served."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def _refusal(request: HttpRequest, status: int, title: str, text: str) -> HttpResponse:
    return render(request, "refusal.html", {"title": title, "text": text}, status=status)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """400."""
    return _refusal(request, 400, "This request is not understood", "Nothing was changed. Go back and try again.")


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """403."""
    return _refusal(request, 403, "This is not yours to do", "Nothing was changed.")


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """404."""
    return _refusal(request, 404, "There is nothing here", "The address is wrong, or it belongs to someone else.")


def failed(request: HttpRequest) -> HttpResponse:
    """500."""
    return _refusal(
        request, 500, "Something failed here", "What was recorded before is safe. Reload the page and go on."
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form that was not made in this sign-in."""
    return _refusal(
        request,
        403,
        "This page is from an earlier sign-in",
        "Nothing was changed. Reload the page; what you typed can be sent again.",
    )
