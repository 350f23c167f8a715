"""How guessing is slowed down: by name and address together, and far more widely by address alone."""

from datetime import timedelta
from math import ceil

from axes.handlers.database import AxesDatabaseHandler
from axes.helpers import get_cool_off, get_failure_limit
from axes.models import AccessAttempt
from axes.utils import reset
from django.conf import settings
from django.db.models import Max, QuerySet, Sum
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

# Clocks are set right: an attempt that lies in the future by more than this was noted by a wrong one.
_CLOCKS_DIFFER = timedelta(minutes=2)


class _Asked(HttpRequest):
    """A request as axes has marked it."""

    axes_ip_address: str


class Handler(AxesDatabaseHandler):
    """The attempts that axes keeps, counted in a second way too: all from one address, whatever the names."""

    def get_failures(self, request: _Asked, credentials: dict | None = None) -> int:
        """Failures that count against the limit; the limit itself where the address has used up its own, wider one."""
        failures = super().get_failures(request, credentials)
        if _has_used_up_its_limit(request.axes_ip_address):
            return max(failures, get_failure_limit(request, credentials))
        return failures

    def get_user_attempts(self, request: HttpRequest, credentials: dict | None = None) -> list[QuerySet[AccessAttempt]]:
        """Those of the last quarter of an hour; what a wrong clock noted in the future locks nobody out."""
        attempts = super().get_user_attempts(request, credentials)
        return [rows.filter(attempt_time__lte=timezone.now() + _CLOCKS_DIFFER) for rows in attempts]

    def clean_expired_user_attempts(self, request: HttpRequest | None = None, credentials: dict | None = None) -> int:
        """Nothing here: old rows are cleared on a schedule, not by everybody who signs in at once."""
        return 0


def locked_out(request: _Asked, response: HttpResponse | None, credentials: dict | None) -> HttpResponse:
    """The answer to somebody who is locked out: for how long, and when to come again."""
    last = _recent().filter(ip_address=request.axes_ip_address).aggregate(last=Max("attempt_time"))["last"]
    left = get_cool_off() - (timezone.now() - (last or timezone.now()))
    context = {
        "minutes": max(1, ceil(left.total_seconds() / 60)),
        "whole_address": _has_used_up_its_limit(request.axes_ip_address),
    }
    page = render(request, "people/locked_out.html", context, status=429)
    page["Retry-After"] = str(max(1, ceil(left.total_seconds())))
    return page


def locked_names() -> set[str]:
    """The names that are locked out from somewhere now."""
    rows = _recent().values("username", "ip_address").annotate(failures=Sum("failures_since_start"))
    return {row["username"] for row in rows.filter(failures__gte=settings.AXES_FAILURE_LIMIT)}


def let_in(name: str) -> None:
    """Forget the wrong passwords of a name."""
    reset(username=name)


def clear() -> int:
    """Delete the attempts that count no more; how many they were."""
    kept = _recent().values_list("pk", flat=True)
    return AccessAttempt.objects.exclude(pk__in=list(kept)).delete()[0]


def _recent() -> QuerySet[AccessAttempt]:
    now = timezone.now()
    return AccessAttempt.objects.filter(attempt_time__range=(now - get_cool_off(), now + _CLOCKS_DIFFER))


def _has_used_up_its_limit(address: str) -> bool:
    failures = _recent().filter(ip_address=address).aggregate(sum=Sum("failures_since_start"))["sum"] or 0
    return failures >= settings.FAILURES_OF_AN_ADDRESS
