"""The queue over the database: one step of a job is one task, so that a worker that ends loses no more than that."""

import logging
from datetime import timedelta

from django.db.models import F, Q
from django.utils import timezone
from django_q.tasks import async_task

from recensor.core.errors import Refused
from recensor.jobs.models import Job, JobFile
from recensor.jobs.steps import step_of
from recensor.people.models import User
from recensor.web.failures import outage
from recensor.web.transactions import atomic_with_retry

_LOG = logging.getLogger(__name__)

# A worker has a step for so long; then another may take it. Begun so often without an end, it is given up.
CLAIM = timedelta(minutes=4)
MOST_TRIES = 3


def enqueue(job: Job) -> None:
    """Put the next step of a job into the queue."""
    put("recensor.jobs.queue.step", job.pk)


def put(function: str, *arguments: object) -> None:
    """Put a call into the queue that is nobody's job. What it does must be harmless when done twice, or cut off."""
    async_task(function, *arguments)


def wake(*, alone: bool = False) -> int:
    """Put every open job that no worker is at into the queue once more; how many.

    For a worker that begins, after one that ended in the middle of a step: a step too many finds nothing to do. One
    that is `alone` takes up at once what was claimed, since nobody is at it.
    """
    if alone:
        Job.objects.filter(state__in=Job.OPEN).update(claimed=None)
    left = list(Job.objects.filter(_unclaimed(), state__in=Job.OPEN))
    for job in left:
        enqueue(job)
    return len(left)


def take_up(person: User) -> None:
    """Put a person's jobs into the queue, once, of which whoever was at them has gone."""
    for job in Job.objects.filter(person=person, state__in=Job.OPEN, claimed__lt=timezone.now()):
        if Job.objects.filter(pk=job.pk, claimed=job.claimed).update(claimed=None):
            enqueue(job)


def step(job_id: int) -> None:
    """Do one step of a job, and put the next one into the queue. Called by a worker."""
    now = timezone.now()
    mine = Job.objects.filter(_unclaimed(), pk=job_id, state__in=Job.OPEN)
    if not mine.update(claimed=now + CLAIM, state=Job.State.WORKING, tries=F("tries") + 1):
        return  # cancelled, done, or somebody else is at it
    job = Job.objects.select_related("person").get(pk=job_id)
    try:
        made = _made(job)
    except Refused as error:
        end(job, Job.State.FAILED, error.message)
    except Exception as error:
        if outage(error):
            raise  # once the claim has run out it is begun again
        _LOG.exception("A step of job %s, %s, failed.", job.pk, job.kind)
        end(job, Job.State.FAILED, "Something went wrong here; it is in the log, and nothing of yours was changed.")
    else:
        _keep(job, made)


def end(job: Job, state: Job.State, why: str = "") -> None:
    """End a job that is not ended yet."""
    open_ones = Job.objects.filter(pk=job.pk, state__in=(*Job.OPEN, Job.State.ARRIVING, Job.State.ASKED))
    open_ones.update(state=state, why=why[:500], ended=timezone.now(), claimed=None)


def given_up(job: Job) -> str:
    """Why the step that is next is not begun once more; empty where it is."""
    too_often = job.tries > MOST_TRIES
    return f"It was begun {MOST_TRIES} times and never ended: it takes too long, or too much." if too_often else ""


def _unclaimed() -> Q:
    return Q(claimed=None) | Q(claimed__lt=timezone.now())


def _made(job: Job) -> JobFile | None:
    if not job.person.is_active:
        raise Refused("The account was closed.")
    return step_of(job)(job)


@atomic_with_retry
def _keep(job: Job, made: JobFile | None) -> None:
    """Keep what a step made, unless the job was cancelled or done meanwhile; then comes the next, or it is done."""
    now = Job.objects.select_for_update().filter(pk=job.pk, state=Job.State.WORKING).first()
    if now is None or now.made != job.made:
        return
    if made is not None:
        made.save()
        now.size += len(made.content)
    now.made += 1
    now.tries, now.claimed = 0, None
    if now.made >= now.total:
        now.state, now.ended = Job.State.DONE, timezone.now()
    else:
        enqueue(now)
    now.save()
