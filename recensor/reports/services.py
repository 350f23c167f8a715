"""What a person can do about reports."""

import uuid
from collections.abc import Collection, Sequence

from recensor.core.errors import Refused
from recensor.jobs import queue
from recensor.jobs.models import Job
from recensor.jobs.services import new_job
from recensor.people.models import User
from recensor.reports.content import ReportSection
from recensor.reports.models import SectionChoice
from recensor.runs.models import RunRow
from recensor.web.transactions import atomic_with_retry

# So many runs' reports are asked for at once.
MOST_RUNS = 200


@atomic_with_retry
def choose(person: User, run: RunRow, sections: Collection[ReportSection]) -> None:
    """Remember the sections for reports of the run's experiment."""
    kept = [section.value for section in ReportSection if section in sections]
    section_choice = (
        SectionChoice.objects.select_for_update().filter(person=person, experiment=run.experiment_id).first()
    )
    choice = section_choice or SectionChoice(person=person, experiment_id=run.experiment_id)
    choice.sections = kept
    choice.save()


@atomic_with_retry
def ask_reports(person: User, runs: Sequence[int], ending: str, key: uuid.UUID | None = None) -> Job:
    """Ask for the reports of many runs in one form. Pressed twice it is one job. Raises `Refused`."""
    own = set(RunRow.objects.filter(owner=person, pk__in=runs[: MOST_RUNS + 1]).values_list("pk", flat=True))
    wanted = [run for run in dict.fromkeys(runs) if run in own]
    if not wanted:
        raise Refused("Choose the runs first.")
    if len(runs) > MOST_RUNS:
        raise Refused(f"{len(runs)} runs are chosen; at most {MOST_RUNS} at once.")
    title = f"{len(wanted)} report{'s' * (len(wanted) > 1)} as {ending[1:].upper()}"
    job, is_new = new_job(person, key, kind=Job.Kind.REPORTS, title=title, total=len(wanted),
                         wanted={"runs": wanted, "ending": ending})  # fmt: skip
    if is_new:
        queue.enqueue(job)
    return job
