"""Whose run a page is about."""

from recensor.runs import queries
from recensor.web.access import object_view


def run_view(permission: str):
    """Sign-in, the run with the sheet it follows, and the permission on it; someone else's run does not exist."""
    return object_view(queries.any_run, "run", look=permission, change=permission, hides=True)
