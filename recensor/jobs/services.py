"""Jobs that are asked for, within what one person may have in hand and keep."""

import uuid

from django.db.models import Q
from django.utils import timezone

from recensor.core.errors import Refused
from recensor.jobs import queue
from recensor.jobs.models import Job, kept_by
from recensor.people.models import User

# What one person has in hand at once, in jobs, and keeps, in bytes.
MOST_OPEN, MOST_KEPT = 3, 300_000_000


def new_job(person: User, key: uuid.UUID | None, **what: object) -> tuple[Job, bool]:
    """A new job, or the one that a press made already. Raises `Refused` where there is no room for one more."""
    User.objects.select_for_update().only("pk").get(pk=person.pk)
    if key and (known := Job.objects.filter(person=person, key=key).first()):
        return known, False
    refuse_too_many(person)
    if kept_by(person) >= MOST_KEPT:
        raise no_room()
    return Job.objects.create(person=person, key=key, **what), True


def cancel(job: Job) -> None:
    """Nothing more of it is done; what was made so far can still be had."""
    queue.end(job, Job.State.CANCELLED)


def drop(job: Job) -> None:
    """Take a job away with its files; whoever is at a step of it keeps nothing of that."""
    job.delete()


def clear() -> int:
    """Take away the jobs whose files are kept no longer; how many."""
    long_ago = timezone.now() - Job.KEPT
    is_old = Q(ended__lt=long_ago) | Q(ended=None, created__lt=long_ago)
    return Job.objects.exclude(state__in=Job.OPEN).filter(is_old).delete()[0]


def refuse_too_many(person: User) -> None:
    """Raises `Refused` where a person has as many jobs in hand as they may."""
    if person.jobs.filter(state__in=Job.OPEN).count() >= MOST_OPEN:
        raise Refused(f"{MOST_OPEN} are in hand already; wait for one of them, or cancel it.")


def no_room() -> Refused:
    """Why nothing more is kept for a person."""
    return Refused(f"Your archives take {MOST_KEPT / 1e6:.0f} MB, and there is no room for more; take some away first.")
