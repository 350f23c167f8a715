"""Who may do what with jobs: one is its person's alone."""

import rules

from recensor.jobs.models import Job
from recensor.people.models import User


@rules.predicate
def asked_for(person: User, job: Job | None) -> bool:
    """Somebody else's job does not exist."""
    return job is not None and job.person_id == person.pk


rules.add_perm("jobs.use_job", asked_for)
