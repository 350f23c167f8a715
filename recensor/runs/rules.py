"""Who may do what at the bench."""

import rules

from recensor.people.models import User
from recensor.runs.models import RunRow


@rules.predicate
def owns_run(person: User, run: RunRow | None) -> bool:
    """A run is its owner's alone."""
    return run is not None and run.owner_id == person.pk


rules.add_perm("runs.view", owns_run)
rules.add_perm("runs.record", owns_run)
