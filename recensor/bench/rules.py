"""Who may do what at the bench."""

import rules

from recensor.bench.models import Run
from recensor.people.models import User


@rules.predicate
def owns_run(person: User, run: Run | None) -> bool:
    """A run is its owner's alone."""
    return run is not None and run.owner_id == person.pk


rules.add_perm("bench.view_run", owns_run)
rules.add_perm("bench.record_in_run", owns_run)
