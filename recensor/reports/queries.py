"""What reads the rows that a report is written from."""

from dataclasses import replace

from recensor.bench import queries
from recensor.bench.models import Run
from recensor.people.models import User
from recensor.reports.content import FULL, About, Section
from recensor.reports.files import Wanted
from recensor.reports.models import Choice


def chosen_sections(person: User, run: Run) -> frozenset[Section]:
    """What the person last chose for reports of the run's experiment; everything before they chose."""
    kept = Choice.objects.filter(person=person, experiment=run.experiment_id).first()
    return frozenset(Section(one) for one in kept.sections if one in set(Section)) if kept else FULL


def wanted(run: Run, person: User) -> Wanted:
    """A run, with all that its report says."""
    loaded = queries.load(run, person)
    loaded = replace(loaded, core=queries.whole(run, loaded))
    about = About(run.experiment.aim if run.experiment else "", run.owner.get_full_name() or run.owner.username)
    return Wanted(loaded, person.conventions, about, chosen_sections(person, run))
