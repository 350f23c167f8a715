"""Who may do what with experiments: one is changed by its owner; everyone signed in looks."""

import rules

from recensor.experiments.models import Experiment
from recensor.people.models import User


@rules.predicate
def owns_experiment(person: User, experiment: Experiment | None) -> bool:
    """An experiment is changed by one person; everyone who is signed in may look at it, follow it and copy it."""
    return experiment is not None and experiment.owner_id == person.pk


rules.add_perm("experiments.change_experiment", owns_experiment)
