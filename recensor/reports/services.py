"""What a person can do about reports."""

from collections.abc import Collection

from recensor.bench.models import Run
from recensor.people.models import User
from recensor.reports.content import Section
from recensor.reports.models import Choice
from recensor.web.transactions import together


@together
def choose(person: User, run: Run, sections: Collection[Section]) -> None:
    """Remember the sections for reports of the run's experiment."""
    kept = [section.value for section in Section if section in sections]
    found = Choice.objects.select_for_update().filter(person=person, experiment=run.experiment_id).first()
    choice = found or Choice(person=person, experiment_id=run.experiment_id)
    choice.sections = kept
    choice.save()
