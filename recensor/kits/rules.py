"""Who may do what with kits: one is kept by its owner; everyone signed in looks."""

import rules

from recensor.kits.models import Kit
from recensor.people.models import User


@rules.predicate
def owns_kit(person: User, kit: Kit | None) -> bool:
    """A kit is kept by one person."""
    return kit is not None and kit.owner_id == person.pk


rules.add_perm("kits.keep_kit", owns_kit)
