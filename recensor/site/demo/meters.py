"""The demo's meters: a profile of the workshop's own, and the instruments of the benches. Made up for it."""

from collections.abc import Iterable
from dataclasses import replace
from datetime import date

from recensor.core.meters import SHIPPED
from recensor.meters import services
from recensor.meters.models import Meter, ProfileRow
from recensor.people.models import User

PROFILE, METER = "Workshop handheld", "DMM-7"


def load(author: User, owner: User) -> None:
    """Write the profile and keep one instrument of it, unless they are there."""
    if owner.meters.filter(name=METER).exists():
        return
    like = SHIPPED["4000-count automatic"]
    row = services.keep_profile(author, replace(like, name=PROFILE, fuses={**like.fuses, "mA": 0.5}))
    services.keep_meter(owner, None, METER, "WS-017", date(2026, 3, 2), row)


def remove(people: Iterable[User]) -> None:
    """Take these people's instruments and profiles away, but for those that somebody has read with."""
    Meter.objects.filter(owner__in=people, runs=None, readings=None).delete()
    profiles = ProfileRow.objects.filter(author__in=people, meters=None, readings=None)
    while profiles.filter(replaced_by=None).exists():  # the newest first: it points to the one before it
        profiles.filter(replaced_by=None).delete()
