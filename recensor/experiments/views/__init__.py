"""The experiments' pages: parse, call one service or query, render."""

from recensor.experiments.models import Experiment
from recensor.people.requests import SignedIn
from recensor.web.access import object_view

CHANGE = "experiments.change_experiment"


def is_sealed(request: SignedIn, experiment: Experiment) -> bool:
    """Whether this person is not to see what is calculated: it is sealed, and they are not its owner."""
    return experiment.sealed and not request.user.has_perm(CHANGE, experiment)


def of_experiment():
    """Sign-in, and the experiment; a request that changes it needs its owner."""
    return object_view(lambda: Experiment.objects.select_related("owner"), "experiment", change=CHANGE)
