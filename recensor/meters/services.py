"""What a person can do with meters."""

from recensor.meters.models import Meter
from recensor.people.models import User


def meter_named(owner: User, name: str) -> Meter | None:
    """The owner's meter of a name, made when it is named for the first time; None where none is named."""
    return Meter.objects.get_or_create(owner=owner, name=name)[0] if name else None
