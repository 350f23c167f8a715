"""What holds for every request."""

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import resolve_url

from recensor.web.requests import HtmxRequest

UNAUTHORISED = 401


class SignedOutMiddleware:
    """A page part asked for without a sign-in gets 401, not a sign-in page in its place.

    The page keeps what was typed and sends it again once someone has signed in.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HtmxRequest) -> HttpResponse:
        response = self.get_response(request)
        if not request.htmx or response.status_code != 302:
            return response
        if not response["Location"].startswith(resolve_url(settings.LOGIN_URL)):
            return response
        return HttpResponse("You are signed out.", status=UNAUTHORISED, content_type="text/plain; charset=utf-8")
