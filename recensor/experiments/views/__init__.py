"""The experiments' pages: parse, call one service or query, render."""

from recensor.experiments.models import Experiment
from recensor.web.access import on

CHANGE = "experiments.change_experiment"


def of_experiment():
    """Sign-in, and the experiment; a request that changes it needs its owner."""
    return on(lambda: Experiment.objects.select_related("owner"), "experiment", change=CHANGE)
