"""Sign-ins as rows of the database, each with its account: they can be listed, and ended one by one.

One ends when it was not used for `SESSION_COOKIE_AGE`, and in any case `SESSION_LONGEST` after it began.
"""

import hashlib
from datetime import datetime, timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends import db
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models
from django.http import HttpRequest
from django.utils import timezone

# Using it is written down no more often than this: not at every request.
_NOTED_EVERY = timedelta(minutes=5)
_IDLE = timedelta(seconds=settings.SESSION_COOKIE_AGE)
_BEGUN, _ADDRESS, _BROWSER = "begun", "address", "browser"
_LONGEST_BROWSER, _LONGEST_NAME = 200, 16


class SessionStore(db.SessionStore):
    """The database's sessions, with the account and the beginning in columns."""

    @classmethod
    def get_model_class(cls) -> "type[Session]":
        """The table."""
        return Session

    def create_model_instance(self, data: dict[str, Any]) -> "Session":
        """The row of a session, of somebody or of nobody yet."""
        row: Session = super().create_model_instance(data)  # type: ignore[assignment]
        row.account_id = data.get(SESSION_KEY)
        row.begun = datetime.fromisoformat(data[_BEGUN]) if _BEGUN in data else None
        return row

    def _get_session_from_db(self) -> "Session | None":
        row = super()._get_session_from_db()  # type: ignore[misc]
        if row is None:
            return None
        if row.begun and timezone.now() - row.begun > settings.SESSION_LONGEST:
            row.delete()
            self._session_key = None
            return None
        if row.expire_date - timezone.now() < _IDLE - _NOTED_EVERY:
            self.modified = True  # saved with the answer, it lasts anew
        return row


class Session(AbstractBaseSession):
    """A sign-in, or a session of nobody yet; `begun` is when its account signed in."""

    account = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="sessions")
    begun = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-expire_date",)

    @classmethod
    def get_session_store_class(cls) -> type[SessionStore]:
        """What reads and writes these rows."""
        return SessionStore


def begin(request: HttpRequest) -> None:
    """Note on a sign-in that has just been made when, from where and with what it was."""
    browser = request.META.get("HTTP_USER_AGENT", "")[:_LONGEST_BROWSER]
    address = request.META.get("REMOTE_ADDR", "")
    request.session.update({_BEGUN: timezone.now().isoformat(), _ADDRESS: address, _BROWSER: browser})


def name_of(key: str) -> str:
    """What a page may say of a sign-in: enough to end it, and not to take it over."""
    return hashlib.sha256(key.encode()).hexdigest()[:_LONGEST_NAME]


def described(row: Session) -> dict[str, Any]:
    """What a person is shown of one of their sign-ins."""
    data = row.get_decoded()
    return {
        "name": name_of(row.pk),
        "begun": row.begun,
        "used": row.expire_date - _IDLE,
        "address": data.get(_ADDRESS, ""),
        "browser": browser_named(data.get(_BROWSER, "")),
    }


def browser_named(agent: str) -> str:
    """A browser and its system as people call them, out of what it says of itself."""
    browsers = {"Edg": "Edge", "OPR": "Opera", "Firefox": "Firefox", "Chrom": "Chrome", "Safari": "Safari"}
    systems = {"Android": "Android", "iPhone": "iPhone", "iPad": "iPad", "CrOS": "Chromebook", "Windows": "Windows",
               "Mac OS": "Mac", "Linux": "Linux"}  # fmt: skip
    browser = next((name for mark, name in browsers.items() if mark in agent), "A browser")
    system = next((name for mark, name in systems.items() if mark in agent), "")
    return f"{browser} on {system}" if system else browser
