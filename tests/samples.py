"""How many cases a test draws: some of them in ``./test``, all of them in ``make whole``."""

import os

WHOLE = bool(os.environ.get("RECENSOR_WHOLE"))


def samples(here: int, whole: int) -> int:
    """So many cases `here`, where every change is checked; the `whole` number where somebody has the time."""
    return whole if WHOLE else here
