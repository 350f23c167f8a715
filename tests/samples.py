"""How many cases a test draws: some of them in ``./test``, all of them in ``make whole``."""

import os
from typing import TypeVar

T = TypeVar("T")

WHOLE = bool(os.environ.get("RECENSOR_WHOLE"))


def samples(here: T, whole: T) -> T:
    """The cases (or how many) `here`, where every change is checked; the `whole` where somebody has the time."""
    return whole if WHOLE else here
