"""Who may: sign-in, the row that an address names, and the permission on it, in one decorator."""

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.db.models import Model, QuerySet
from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404

from recensor.web import security_log

View = Callable[..., HttpResponseBase]


def object_view(
    rows: Callable[[], QuerySet[Any]],
    name: str,
    *,
    look: str | None = None,
    change: str | None = None,
    hides: bool = False,
    owner: Callable[[Any], Model] = lambda row: row,
) -> Callable[[View], View]:
    """The view gets the row that the address's ``name_id`` names, once the person may do this to it.

    Parameters
    ----------
    rows : where the row is looked up.
    look, change : the permissions that GET, and anything else, needs; None where everyone signed in may.
    hides : whether a row that one may not look at does not exist.
    owner : the object that carries the permission, where it is not the row itself.
    """

    def decorate(view: View) -> View:
        @wraps(view)
        @login_required
        def checked(request: HttpRequest, *arguments: object, **named: object) -> HttpResponseBase:
            row = get_object_or_404(rows(), pk=named.pop(f"{name}_id"))
            permission = look if request.method in ("GET", "HEAD") else change
            if permission and not request.user.has_perm(permission, owner(row)):
                if hides:
                    security_log.note("access refused", request)
                    raise Http404
                raise PermissionDenied
            return view(request, row, *arguments, **named)

        return checked

    return decorate
