"""Readings that were taken on paper or elsewhere, taken into a run together: all of them or none."""

import uuid
from collections.abc import Sequence

from django.utils import timezone

from recensor.core import lengths, record
from recensor.core.errors import Refused
from recensor.meters.services import meter_named
from recensor.people.models import User
from recensor.runs import mapping, queries
from recensor.runs.models import ReadingRow, RunRow
from recensor.web.transactions import atomic_with_retry

# A run has no more readings than a bench takes in a long day, many times over; a note is no longer, in characters.
MOST_READINGS, LONGEST_NOTE = 5_000, 200


@atomic_with_retry
def import_readings(run: RunRow, author: User, readings: Sequence[record.Reading], key: uuid.UUID) -> int:
    """Append readings in their order; under one key once. How many. Raises `Refused`, and keeps none then.

    They stand as they are, beside what was read: whoever takes them in has seen what each becomes.
    """
    loaded = queries.load_locked(run)
    if run.readings.filter(key=_numbered(key, 0)).exists():
        return 0
    if len(loaded.core.readings) + len(readings) > MOST_READINGS:
        raise Refused(f"A run has at most {MOST_READINGS} readings; {len(loaded.core.readings)} are in this one.")
    names = {reading.meter for reading in readings if reading.meter}
    if long := next((name for name in names if len(name) > lengths.NAME), None):
        raise Refused(f"A meter's name has at most {lengths.NAME} letters, not {len(long)}: “{long[:40]}…”.")
    if long := next((one.note for one in readings if one.note and len(one.note) > LONGEST_NOTE), None):
        raise Refused(f"A note has at most {LONGEST_NOTE} letters: “{long[:40]}…” has {len(long)}.")
    meters = {name: meter_named(author, name) for name in names}
    now = timezone.now()
    made = []
    for number, reading in enumerate(readings):
        taken, meter = mapping.aware(reading.time, now), meters.get(reading.meter or "")
        made.append(mapping.row_of(reading, run, author, _numbered(key, number), taken, meter))
    ReadingRow.objects.bulk_create(made)
    return len(readings)


def _numbered(key: uuid.UUID, number: int) -> uuid.UUID:
    return uuid.uuid5(key, f"line {number}")
