"""What any view may be asked with."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails


class HtmxRequest(HttpRequest):
    """A request, and whether htmx sent it; a middleware sees to that."""

    htmx: HtmxDetails
