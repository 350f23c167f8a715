"""Making accounts."""

import secrets

from django.core.exceptions import ValidationError

from recensor.core.errors import Refused
from recensor.people.models import User

_PASSWORD_BYTES = 9


def add_person(name: str) -> str:
    """Make an ordinary account and return its password, which is kept nowhere. Raises `Refused`, with why.

    There is no other kind: whoever keeps the installation reads nobody's books either.
    """
    person = User(username=name)
    try:
        person.full_clean(exclude=["password"])
    except ValidationError as error:
        raise Refused(" ".join(error.messages)) from None
    password = secrets.token_urlsafe(_PASSWORD_BYTES)
    person.set_password(password)
    person.save()
    return password
