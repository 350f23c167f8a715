"""Who may do what with accounts."""

import rules

from recensor.people.models import User


@rules.predicate
def is_supervisor(person: User) -> bool:
    """A supervisor makes accounts and closes them. It opens nobody's books."""
    return person.is_supervisor


rules.add_perm("people.keep_people", is_supervisor)
