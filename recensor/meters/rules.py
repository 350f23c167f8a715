"""Who may do what with meters and profiles: an instrument is its owner's, a profile everybody's to look at and copy."""

import rules

from recensor.meters.models import Meter, ProfileRow
from recensor.people.models import User


@rules.predicate
def owns_meter(person: User, meter: Meter | None) -> bool:
    """An instrument is kept by one person."""
    return meter is not None and meter.owner_id == person.pk


@rules.predicate
def wrote_profile(person: User, profile: ProfileRow | None) -> bool:
    """A profile is changed by whoever wrote it."""
    return profile is not None and profile.author_id == person.pk


rules.add_perm("meters.keep_meter", owns_meter)
rules.add_perm("meters.change_profile", wrote_profile)
