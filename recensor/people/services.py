"""Making accounts, the links that let people set their passwords, and the right to do so."""

import secrets

from django.contrib.auth.tokens import default_token_generator
from django.core.exceptions import ValidationError
from django.db import transaction
from django.urls import reverse
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode

from recensor.core.errors import Refused
from recensor.people.models import User
from recensor.web import security_log

_PASSWORD_BYTES = 9


def add_person(name: str, *, supervisor: bool = False) -> str:
    """Make an account and return its password, which is kept nowhere. Raises `Refused`, with why.

    There is no other kind: whoever keeps the installation reads nobody's books either.
    """
    password = secrets.token_urlsafe(_PASSWORD_BYTES)
    person = _valid(User(username=name, is_supervisor=supervisor))
    person.set_password(password)
    person.save()
    security_log.note("account made", None, account=name, supervisor=supervisor)
    return password


def invite(name: str, mail: str = "") -> User:
    """Make an account without a password; its person sets one by a link. Raises `Refused`, with why."""
    person = _valid(User(username=name, email=mail))
    person.set_unusable_password()
    person.save()
    return person


def link_for(person: User) -> str:
    """The path of a page where a person sets their password: once, and for three days.

    Of an account that has no password yet, a link made earlier ends with this one.
    """
    if not person.has_usable_password():
        person.set_unusable_password()
        person.save(update_fields=["password"])
    uid = urlsafe_base64_encode(force_bytes(person.pk))
    return reverse("people:set_password", args=(uid, default_token_generator.make_token(person)))


@transaction.atomic
def set_open(person: User, by: User, *, is_open: bool) -> None:
    """Close an account, whose sign-ins end, or open it again. What it has recorded stays."""
    _refuse_oneself(person, by)
    person.is_active = is_open
    person.save(update_fields=["is_active"])
    if not is_open:
        end_sessions(person)


def set_supervisor(person: User, by: User, *, is_supervisor: bool) -> None:
    """Give the right to make accounts, or take it back."""
    _refuse_oneself(person, by)
    if is_supervisor and hasattr(person, "demo"):
        raise Refused(f"{person.username} is an account of the demo: its password is published.")
    person.is_supervisor = is_supervisor
    person.save(update_fields=["is_supervisor"])


def end_sessions(person: User, but: str | None = None) -> int:
    """Sign a person out everywhere, but for one sign-in; how many ended."""
    return person.sessions.exclude(pk=but).delete()[0]


def _refuse_oneself(person: User, by: User) -> None:
    if person == by:
        raise Refused("This is your own account: another supervisor does that.")


def _valid(person: User) -> User:
    try:
        person.full_clean(exclude=["password"])
    except ValidationError as error:
        raise Refused(" ".join(error.messages)) from None
    return person
