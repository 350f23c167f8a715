"""Who may do what with a kit: everyone who is signed in may look and draw parts, its owner keeps it."""

import rules

from recensor.library.models import Kit
from recensor.people.models import User


@rules.predicate
def owns_kit(person: User, kit: Kit | None) -> bool:
    """A kit is kept by one person."""
    return kit is not None and kit.owner_id == person.pk


rules.add_perm("library.keep_kit", owns_kit)
