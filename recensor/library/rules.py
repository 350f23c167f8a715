"""Who may do what in the library: a kit is kept, and an experiment changed, by its owner; everyone signed in looks."""

import rules

from recensor.library.models import Experiment, Kit
from recensor.people.models import User


@rules.predicate
def owns_kit(person: User, kit: Kit | None) -> bool:
    """A kit is kept by one person."""
    return kit is not None and kit.owner_id == person.pk


rules.add_perm("library.keep_kit", owns_kit)


@rules.predicate
def owns_experiment(person: User, experiment: Experiment | None) -> bool:
    """An experiment is changed by one person; everyone who is signed in may look at it, follow it and copy it."""
    return experiment is not None and experiment.owner_id == person.pk


rules.add_perm("library.change_experiment", owns_experiment)
