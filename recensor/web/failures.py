"""When the database cannot do what it should, though nothing is wrong with what was asked."""

from dataclasses import dataclass

from django.db import Error, InterfaceError


@dataclass(frozen=True)
class Outage:
    """A reason why nothing can be done now: what the page says, and the one line in the log."""

    title: str
    text: str
    log: str


AWAY = Outage(
    "The database does not answer",
    "What was recorded is safe. What you typed stays on your page and is sent again by itself; "
    "if this goes on, tell whoever keeps this installation.",
    "The database does not answer.",
)
FULL = Outage(
    "The server has no room left",
    "What was recorded is safe; nothing more can be recorded until there is room on the server's disk. "
    "Keep what you typed, and tell whoever keeps this installation.",
    "The disk is full: nothing more can be recorded.",
)
READ_ONLY = Outage(
    "The database takes nothing at the moment",
    "What was recorded is safe and can be looked at; nothing more can be recorded until the database takes it again.",
    "The database is read-only.",
)

BUSY = Outage(
    "Others hold what this needs",
    "Nothing was changed. What you typed stays on your page; try again in a moment.",
    "A lock was not given in time, or not at all: begun again often enough.",
)

# MariaDB's numbers: no connection, or it was lost, closing or full; a cluster's node that is not part of it.
_OUTAGES = {
    **dict.fromkeys((1205, 1213), BUSY),
    **dict.fromkeys(
        (1040, 1047, 1053, 1180, 1152, 1158, 1159, 1160, 1161, 1184, 1927, 2002, 2003, 2006, 2013, 2055), AWAY
    ),
    **dict.fromkeys((1021, 1114), FULL),
    **dict.fromkeys((1036, 1290, 1792), READ_ONLY),
}


def outage(error: BaseException | None) -> Outage | None:
    """Which outage an error comes from; None where it is another failure."""
    if not isinstance(error, Error):
        return None
    number = error.args[0] if error.args else None
    if isinstance(error, InterfaceError) and number == 0:  # a connection that was closed under our feet
        return AWAY
    return _OUTAGES.get(number) if isinstance(number, int) else None
