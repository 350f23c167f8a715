"""What holds for every request."""

from collections.abc import Callable
from ipaddress import ip_address, ip_network
from threading import Lock

from django.conf import settings
from django.http import HttpRequest, HttpResponse, UnreadablePostError
from django.shortcuts import resolve_url

from recensor.site import views
from recensor.web.requests import HtmxRequest

UNAUTHORISED = 401

Answering = Callable[[HttpRequest], HttpResponse]


class BehindProxyMiddleware:
    """A stated proxy says who really asks, and whether over HTTPS; what anybody else says of that is not believed."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response
        self.proxies = [ip_network(text.strip()) for text in settings.PROXIES]

    def __call__(self, request: HttpRequest) -> HttpResponse:
        forwarded = request.META.pop("HTTP_X_FORWARDED_FOR", "")
        scheme = request.META.pop("HTTP_X_FORWARDED_PROTO", "")
        if self._is_proxy(request.META.get("REMOTE_ADDR", "")):
            if scheme in ("http", "https"):
                request.META["wsgi.url_scheme"] = scheme
            # Each proxy adds whom it hears to the end; the last that is no proxy of ours is who asks.
            hops = [hop.strip() for hop in forwarded.split(",") if _is_address(hop.strip())]
            client = next((hop for hop in reversed(hops) if not self._is_proxy(hop)), None)
            request.META["REMOTE_ADDR"] = client or request.META["REMOTE_ADDR"]
        return self.get_response(request)

    def _is_proxy(self, address: str) -> bool:
        return _is_address(address) and any(ip_address(address) in network for network in self.proxies)


class RequestSizeMiddleware:
    """A request that says it is too large is refused before any of it is read, and one that was cut off is refused."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        said = request.META.get("CONTENT_LENGTH") or "0"
        if not said.isdigit():
            return views.bad_request(request)
        if int(said) > settings.LARGEST_REQUEST:
            return views.too_large(request, int(said))
        # All of it is read here, before anything is begun that others wait for. A connection that breaks in the middle
        # of 12.34 must not record 12.
        try:
            is_whole = len(request.body) == int(said)
        except UnreadablePostError:
            is_whole = False
        return self.get_response(request) if is_whole else views.bad_request(request)


class OnePageAtATime:
    """Whole pages are made one after another in each process; parts of pages, as at the bench, never wait for them.

    So a class that signs in all at once holds nobody up who records, and nobody waits for ever behind a slow page.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response
        self.turn = Lock()

    def __call__(self, request: HttpRequest) -> HttpResponse:
        waits = "HX-Request" not in request.headers
        has_turn = waits and self.turn.acquire(timeout=settings.LONGEST_WAIT_FOR_A_TURN)
        try:
            return self.get_response(request)
        finally:
            if has_turn:
                self.turn.release()


class NoStore:
    """Pages are not kept by browsers and proxies, unless a view says otherwise."""

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Cache-Control", "no-store")
        return response


class HtmxUnauthorized:
    """A page part asked for without a sign-in gets 401, not a sign-in page in its place.

    The page keeps what was typed and sends it again once someone has signed in.
    """

    def __init__(self, get_response: Answering) -> None:
        self.get_response = get_response

    def __call__(self, request: HtmxRequest) -> HttpResponse:
        response = self.get_response(request)
        if not request.htmx or response.status_code != 302:
            return response
        if not response["Location"].startswith(resolve_url(settings.LOGIN_URL)):
            return response
        return HttpResponse("You are signed out.", status=UNAUTHORISED, content_type="text/plain; charset=utf-8")


def _is_address(text: str) -> bool:
    try:
        ip_address(text)
    except ValueError:
        return False
    return True
