"""What is written down, where, and for how long.

`security.jsonl` has what concerns security, `recensor.jsonl` what failed; both are a line of JSON for each event.
Every process writes to the same files and looks before each line whether it was moved away.
"""

import logging
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from recensor.web import failures, security_log

SECURITY, APPLICATION = "security.jsonl", "recensor.jsonl"
MOST_BYTES, KEPT = 5_000_000, 5
_QUIET = 600.0  # seconds without a word of it, after which an outage is another one


class DjangoSecurityFilter(logging.Filter):
    """What Django itself says about security, as an event like our own."""

    _EVENTS = {"django.security.DisallowedHost": "bad host", "django.security.csrf": "missing token"}

    def filter(self, record: logging.LogRecord) -> bool:
        """Name the event, and add who asked."""
        if record.name.startswith("django.security"):
            record.reason = record.getMessage()
            record.msg, record.args = self._EVENTS.get(record.name, "suspicious request"), ()
            record.exc_info = record.exc_text = None
            record.__dict__ |= security_log.who(getattr(record, "request", None))
        return True


class FailureFilter(logging.Filter):
    """A failure with its reference and who met it; an outage of the database is one line, not one for each request."""

    def __init__(self) -> None:
        super().__init__()
        self._met: dict[str, float] = {}  # when each outage was last met

    def filter(self, record: logging.LogRecord) -> bool:
        """Add the reference; drop an outage that was told already."""
        request = getattr(record, "request", None)
        reference = getattr(request, "reference", None)
        record.__dict__ |= security_log.who(request) | ({"reference": reference} if reference else {})
        outage = failures.outage(record.exc_info[1] if record.exc_info else None)
        if outage is None:
            return True
        record.msg, record.args, record.exc_info, record.exc_text = outage.log, (), None, None
        now, last = time.monotonic(), self._met.get(outage.log)
        self._met[outage.log] = now
        return last is None or now - last > _QUIET


def configuration(folder: Path) -> dict[str, Any]:
    """Django's LOGGING for a folder of logs."""
    logging.raiseExceptions = False  # on a full disk, the terminal gets what happened and not why it was not written

    def file(name: str, *filters: str) -> dict[str, Any]:
        return {
            "class": "logging.handlers.WatchedFileHandler",
            "filename": str(folder / name),
            "encoding": "utf-8",
            "delay": True,
            "formatter": "json",
            "filters": list(filters),
        }

    def to(level: str, *handlers: str, filters: Sequence[str] = ()) -> dict[str, Any]:
        return {"handlers": list(handlers), "level": level, "propagate": False, "filters": list(filters)}

    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "json": {
                "()": "pythonjsonlogger.json.JsonFormatter",
                "fmt": "{asctime}{levelname}{name}{message}",
                "style": "{",
                "rename_fields": {"asctime": "time", "levelname": "level", "name": "from", "message": "event"},
                "reserved_attrs": _NOT_WRITTEN,
                "json_ensure_ascii": False,
            }
        },
        "filters": {
            "of the framework": {"()": "recensor.site.logs.DjangoSecurityFilter"},
            "of a request": {"()": "recensor.site.logs.FailureFilter"},
        },
        "handlers": {
            "security": file(SECURITY, "of the framework"),
            "application": file(APPLICATION),
            "terminal": {"class": "logging.StreamHandler"},
        },
        "loggers": {
            "recensor.security": to("INFO", "security"),
            "django.security": to("WARNING", "security"),
            "django.request": to("ERROR", "application", "terminal", filters=["of a request"]),
            "recensor": to("INFO", "application"),
            "axes": to("ERROR", "application", "terminal"),
        },
    }


def rotate(file: Path, most_bytes: int = MOST_BYTES, kept: int = KEPT) -> bool:
    """Move a log that has grown too long away to `.1`, older ones one further; whether it was moved."""
    if not file.exists() or file.stat().st_size <= most_bytes:
        return False
    for number in range(kept, 0, -1):
        older = file if number == 1 else file.with_name(f"{file.name}.{number - 1}")
        if older.exists():
            older.rename(file.with_name(f"{file.name}.{number}"))
    return True


# What every record of Python's logging has, beside what is renamed above; and the request itself.
_OF_DJANGO = ("request", "status_code", "response")
_NOT_WRITTEN = [*vars(logging.makeLogRecord({})), "message", "asctime", "taskName", *_OF_DJANGO]
