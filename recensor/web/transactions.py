"""All of an act or nothing of it, begun again where others held what it needed."""

import random
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import ParamSpec, TypeVar

from django.db import OperationalError, connection, transaction

Taken = ParamSpec("Taken")
Given = TypeVar("Given")

# MariaDB gave a lock to somebody else: a deadlock it ended, or a wait that took too long.
_OTHERS_CAME_FIRST = {1213, 1205}
_TRIES, _WAIT = 5, 0.05


def atomic_with_retry(act: Callable[Taken, Given]) -> Callable[Taken, Given]:
    """Run a function in one transaction; one that the database ended for a deadlock is run again, a few times.

    Within another transaction it is part of that one, and begun again only with it.
    """

    @wraps(act)
    def whole(*taken: Taken.args, **named: Taken.kwargs) -> Given:
        for left in reversed(range(_TRIES)):
            try:
                with transaction.atomic():
                    return act(*taken, **named)
            except OperationalError as error:
                if not left or connection.in_atomic_block or error.args[0] not in _OTHERS_CAME_FIRST:
                    raise
                time.sleep(_WAIT * random.uniform(0.5, 1.5))  # so that two do not meet again  # noqa: S311
        raise AssertionError("a last try returns or raises")

    return whole


@contextmanager
def consistent_read() -> Iterator[None]:
    """All that is read within is as it was at one moment, while others go on working.

    Within another transaction it is part of that one, and as much of one moment.
    """
    if connection.in_atomic_block:
        yield
        return
    with connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT")
        yield
