"""What reads the meters' rows."""

from collections.abc import Collection, Mapping
from dataclasses import replace
from functools import lru_cache

from django.db.models import QuerySet

from recensor.core import meters as core
from recensor.formats.documents.profile import read_profile
from recensor.formats.documents.reader import DocumentPlace
from recensor.meters.models import Meter, ProfileRow
from recensor.people.models import User

# The profiles that ship and say something of a real meter.
SHIPPED = tuple(profile for profile in core.SHIPPED.values() if profile.ranges)


# What is known of a kind of meter that nobody described.
_NOT_DESCRIBED = core.Profile("not described")


def library() -> QuerySet[ProfileRow]:
    """Everybody's profiles as they are now.

    What is only the name of a shipped one is not among them, nor how one meter was found to be in a run.
    """
    kinds = ProfileRow.objects.filter(replaced_by=None, tree__has_key="functions").exclude(tree__has_key="found")
    return kinds.select_related("author")


def meters_of(owner: User) -> QuerySet[Meter]:
    """A person's instruments with their profiles."""
    return owner.meters.select_related("profile", "profile__replaced_by")


def names_of(owner: User) -> list[str]:
    """What a person's instruments are called."""
    return list(owner.meters.values_list("name", flat=True))


def with_instruments(
    owner: User, profiles: Mapping[str, core.Profile], named: Collection[str] = ()
) -> dict[str, core.Profile]:
    """Profiles by the names of a person's instruments, with the numbers and the dates of those.

    Of an instrument that is only `named`, and that nobody described, its number and date are known where it has any.
    """
    found = dict(profiles)
    for meter in owner.meters.filter(name__in={*profiles, *named}).order_by("pk"):
        if meter.number or meter.calibrated:
            calibrated = meter.calibrated.isoformat() if meter.calibrated else None
            instrument = core.Instrument(meter.number or None, calibrated)
            found[meter.name] = replace(found.get(meter.name, _NOT_DESCRIBED), instrument=instrument)
    return found


@lru_cache(maxsize=512)
def profile_of(profile_id: int) -> core.Profile:
    """A profile as the core knows it. Rows never change, so each is read once."""
    row = ProfileRow.objects.get(pk=profile_id)
    profile = read_profile(DocumentPlace("profile", row.tree))
    return profile if isinstance(row.tree, str) else replace(profile, name=row.name)
