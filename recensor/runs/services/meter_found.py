"""A run's meter is as it was found to be: one act, of which one reading with that meter bears the line."""

import uuid
from collections.abc import Sequence

from recensor.core.meters import Profile
from recensor.core.record import Reading
from recensor.meters.services import keep_found
from recensor.people.models import User
from recensor.runs.models import ActLine, ActRow, RunRow
from recensor.runs.services.append import append_act, append_line


def judge_with(
    run: RunRow, author: User, profile: Profile, reading_id: int, reason: str, key: uuid.UUID | None = None
) -> None:
    """Judge all that was read with the meter of a reading as that was found to be."""
    act = append_act(run, author, ActRow.Kind.METER, reason, key=key, profile=keep_found(author, profile))
    append_line(act, reading_id, ActLine.Effect.BY_PROFILE)


def read_with(readings: Sequence[Reading], meter: str | None) -> int | None:
    """The place of the last reading with a meter; where none names it, of one that names none. None without such."""
    for name in dict.fromkeys((meter, None)):
        places = [place for place, reading in enumerate(readings) if reading.meter == name]
        if places:
            return places[-1]
    return None
