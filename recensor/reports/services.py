"""What a person can do about reports."""

from collections.abc import Collection

from recensor.bench.models import Run
from recensor.people.models import User
from recensor.reports.content import ReportSection
from recensor.reports.models import SectionChoice
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def choose(person: User, run: Run, sections: Collection[ReportSection]) -> None:
    """Remember the sections for reports of the run's experiment."""
    kept = [section.value for section in ReportSection if section in sections]
    found = SectionChoice.objects.select_for_update().filter(person=person, experiment=run.experiment_id).first()
    choice = found or SectionChoice(person=person, experiment_id=run.experiment_id)
    choice.sections = kept
    choice.save()
