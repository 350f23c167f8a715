"""The app of accounts: what is noted when somebody comes, fails to come, or goes."""

from typing import Any

from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed
from django.http import HttpRequest


class PeopleConfig(AppConfig):
    """Accounts."""

    name = "recensor.people"

    def ready(self) -> None:
        """Listen to sign-ins."""
        from axes.signals import user_locked_out

        user_logged_in.connect(_signed_in, dispatch_uid="recensor.signed_in")
        user_logged_out.connect(_signed_out, dispatch_uid="recensor.signed_out")
        user_login_failed.connect(_failed, dispatch_uid="recensor.failed")
        user_locked_out.connect(_locked_out, dispatch_uid="recensor.locked_out")


def _signed_in(request: HttpRequest, user: Any, **_: Any) -> None:
    from recensor.people import sessions
    from recensor.web import security_log

    sessions.begin(request)
    security_log.note("signed in", request, account=user.username)


def _signed_out(request: HttpRequest, user: Any, **_: Any) -> None:
    from recensor.web import security_log

    if user is not None:
        security_log.note("signed out", request, account=user.username)


def _failed(credentials: dict[str, Any], request: HttpRequest | None = None, **_: Any) -> None:
    """The name only where there is such an account: people type passwords into the wrong field."""
    from recensor.people.models import User
    from recensor.web import security_log

    name = credentials.get("username") or ""
    security_log.note("sign-in failed", request, account=name if User.objects.filter(username=name).exists() else None)


def _locked_out(request: HttpRequest, **_: Any) -> None:
    from recensor.web import security_log

    security_log.note("locked out", request)
