"""What is noted when somebody comes, fails to come, is kept out, or goes."""

from typing import Any

from axes.signals import user_locked_out
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.dispatch import receiver
from django.http import HttpRequest

from recensor.people import sessions
from recensor.people.models import User
from recensor.web import security_log


@receiver(user_logged_in)
def signed_in(request: HttpRequest, user: User, **_: Any) -> None:
    """A sign-in begins."""
    sessions.begin(request)
    security_log.note("signed in", request, account=user.username)


@receiver(user_logged_out)
def signed_out(request: HttpRequest, user: User | None, **_: Any) -> None:
    """One ends."""
    if user is not None:
        security_log.note("signed out", request, account=user.username)


@receiver(user_login_failed)
def failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    """The name is noted only where there is such an account: people type passwords into the wrong field."""
    name = credentials.get("username") or ""
    security_log.note("sign-in failed", request, account=name if User.objects.filter(username=name).exists() else None)


@receiver(user_locked_out)
def locked_out(request: HttpRequest, **_: Any) -> None:
    """Too many failed."""
    security_log.note("locked out", request)
