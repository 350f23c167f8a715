"""What a view behind sign-in is asked with."""

from recensor.people.models import User
from recensor.web.requests import HtmxRequest


class SignedIn(HtmxRequest):
    """A request of someone who is signed in."""

    user: User
