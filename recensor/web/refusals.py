"""What happens to something that is refused: a message at its place, with what was typed still there."""

from collections.abc import Callable
from typing import TypeVar

from django import forms
from django.http import HttpResponse

from recensor.core.errors import Refused

UNPROCESSABLE, CONFLICT = 422, 409

Done = TypeVar("Done")


class ConflictError(Refused):
    """It cannot be done any more: something else stands in its place by now."""


def status_of(refused: Refused) -> int:
    """The status of an answer that says why something was refused."""
    return CONFLICT if isinstance(refused, ConflictError) else UNPROCESSABLE


def run_or_refuse(
    action: Callable[[], Done],
    done: Callable[[Done], HttpResponse],
    refused: Callable[[Refused, int], HttpResponse],
) -> HttpResponse:
    """Carry an action out and answer with `done`, or with `refused` and its status when it cannot be."""
    try:
        result = action()
    except Refused as error:
        return refused(error, status_of(error))
    return done(result)


def first_error(form: forms.BaseForm) -> str:
    """What is wrong with a form, in one line."""
    return " ".join(str(message) for errors in form.errors.values() for message in errors)
