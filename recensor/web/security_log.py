"""The log of what concerns security: one line of JSON for each event, in `security.jsonl`."""

import logging
from typing import Any

from django.http import HttpRequest

_LOG = logging.getLogger("recensor.security")


def note(event: str, request: HttpRequest | None, **more: Any) -> None:
    """Write down an event with who, from where and at which address; `more` is what else belongs to it."""
    _LOG.info(event, extra={**who(request), **more})


def who(request: HttpRequest | None) -> dict[str, Any]:
    """Who asked: as far as it is known already, since a log asks no database."""
    if request is None:
        return {}
    person = getattr(request, "_cached_user", None)
    return {
        "person": (person and person.username) or None,
        "address": request.META.get("REMOTE_ADDR"),
        "method": request.method,
        "path": request.path,
    }
