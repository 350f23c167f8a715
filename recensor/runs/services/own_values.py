"""Values that people work out by hand: kept as typed, judged like a reading, and never mixed with one."""

import uuid

from django.utils import timezone

from recensor.core.circuit import Target
from recensor.core.entries import NO_NAMES, names_of, worked_out
from recensor.core.errors import Refused
from recensor.core.quantity import Quantity
from recensor.people.models import User
from recensor.runs import mapping, queries
from recensor.runs.models import OwnValue, RunRow
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def work_out(run: RunRow, author: User, target: Target, value: Quantity, formula: str, key: uuid.UUID) -> OwnValue:
    """Keep what somebody worked out for a target; what was worked out before stays behind it.

    Raises `Refused` for a formula that cannot be worked out, and in a sealed run once the point has been read.
    """
    if value.over_range:
        raise Refused("A value that is worked out is a number.")
    loaded = queries.load_locked(run)
    names = names_of(loaded.core.sheet, loaded.judged(), target.setup) if formula else NO_NAMES
    worked_out(value, formula, target, None, names)
    if loaded.is_sealed and loaded.standing_at(target) is not None:
        raise Refused("In a sealed run a value is worked out before it is read.")
    row = OwnValue(
        run=run,
        **mapping.columns_of(target),
        text=value.text,
        unit=value.beside,
        formula=formula,
        author=author,
        time=timezone.now(),
        key=key,
    )
    return row.append_once(run=run, key=key)
