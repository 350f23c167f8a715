"""What a person can do with meters and profiles: one function for each thing."""

from dataclasses import replace
from datetime import date

from recensor.core import meters as core
from recensor.core.errors import Refused
from recensor.formats.documents.profile import profile_tree
from recensor.meters.models import Meter, ProfileRow
from recensor.meters.queries import library
from recensor.people.models import User
from recensor.web.transactions import atomic_with_retry

# Everybody chooses among them.
MOST_METERS, MOST_PROFILES = 60, 60


def meter_named(owner: User, name: str) -> Meter | None:
    """The owner's meter of a name, made when it is named for the first time; None where none is named."""
    return Meter.objects.select_related("profile").get_or_create(owner=owner, name=name)[0] if name else None


@atomic_with_retry
def keep_meter(
    owner: User, meter: Meter | None, name: str, number: str, calibrated: date | None, profile: ProfileRow | None
) -> Meter:
    """Add an instrument, or change what is known of one. Raises `Refused` for a name that another has."""
    User.objects.select_for_update().only("pk").get(pk=owner.pk)
    if meter is None and owner.meters.count() >= MOST_METERS:
        raise Refused(f"You keep {MOST_METERS} meters already; change one of those.")
    meter = meter or Meter(owner=owner)
    if owner.meters.filter(name=name).exclude(pk=meter.pk).exists():
        raise Refused(f"You have a meter {name} already.", place="name")
    meter.name, meter.number, meter.calibrated, meter.profile = name, number, calibrated, profile
    meter.save()
    return meter


def shipped(owner: User, name: str) -> ProfileRow:
    """The row by which a person's instruments refer to a shipped profile."""
    profile = ProfileRow.objects.filter(author=owner, name=name).exclude(tree__has_key="functions").first()
    return profile or ProfileRow.objects.create(author=owner, name=name, tree=name)


def copy(author: User, profile: core.Profile, name: str) -> ProfileRow:
    """A profile of one's own, at first like another."""
    return keep_profile(author, replace(profile, name=name, instrument=core.Instrument()))


def keep_found(author: User, profile: core.Profile) -> ProfileRow:
    """Keep how one meter was found to be, for the run in which it was found."""
    profile = replace(profile, instrument=core.Instrument())
    return ProfileRow.objects.create(author=author, name=profile.name, tree=profile_tree(profile))


@atomic_with_retry
def keep_profile(author: User, profile: core.Profile, before: ProfileRow | None = None) -> ProfileRow:
    """Keep a profile, instead of what it was `before`: the author's own instruments are of the new one then.

    What was read before stays with the profile that it was read with. Raises `Refused` where `before` was changed
    meanwhile, or nobody could choose among so many.
    """
    User.objects.select_for_update().only("pk").get(pk=author.pk)
    if before is None and library().filter(author=author).count() >= MOST_PROFILES:
        raise Refused(f"You have {MOST_PROFILES} profiles already; change one of those.")
    if before is not None and ProfileRow.objects.filter(replaces=before).exists():
        raise Refused("This profile was changed meanwhile; look at what it says now.")
    row = ProfileRow(author=author, name=profile.name, tree=profile_tree(profile), replaces=before)
    row.save()
    if before is not None:
        author.meters.filter(profile=before).update(profile=row)
    return row
