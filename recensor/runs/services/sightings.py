"""What somebody saw of a lamp or a light diode: kept beside the part, the last one counts."""

import uuid

from django.utils import timezone

from recensor.core.errors import Refused
from recensor.core.record import Light
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import RunRow, Sighting
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def see(run: RunRow, author: User, setup: str, part: str, light: str, key: uuid.UUID | None = None) -> Sighting:
    """Keep what was seen; the same once more takes it back. Raises `Refused` for what does not light there."""
    sheet = queries.load_locked(run).core.sheet
    here = sheet.setups.get(setup)
    if here is None or part not in here.connections or not sheet.parts[part].kind.lights:
        raise Refused("Nothing of this name lights there.")
    if light not in set(Light):
        raise Refused("Say dark, dim or bright.")
    last = run.sightings.filter(setup=setup, part=part).last()
    key = key or uuid.uuid4()
    sighting = run.sightings.filter(key=key).first()
    if sighting:
        return sighting
    text = "" if last and last.light == light else light
    row = Sighting(run=run, setup=setup, part=part, light=text, author=author, time=timezone.now(), key=key)
    row.save()
    return row
