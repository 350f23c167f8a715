"""What a view behind sign-in is asked with."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from recensor.people.models import User


class SignedIn(HttpRequest):
    """A request of someone who is signed in, and whether htmx sent it; the middlewares see to both."""

    user: User
    htmx: HtmxDetails
