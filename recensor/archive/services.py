"""What a person can ask for in the background, within what they may keep."""

import uuid
from collections.abc import Sequence

from django.db.models import Q
from django.utils import timezone

from recensor.archive import queue
from recensor.archive.models import Job, JobFile, kept_by
from recensor.bench.models import Run
from recensor.core.errors import Refused
from recensor.people.models import User
from recensor.web.transactions import atomic_with_retry

# What one person has in hand at once, in jobs; keeps, in bytes; asks for at once, in runs; and sends, in bytes.
MOST_OPEN, MOST_KEPT, MOST_RUNS, MOST_SENT = 3, 300_000_000, 200, 100_000_000

# A file is sent in pieces, each no longer than one request may be.
PIECE = 2_000_000

_Kind, _State = Job.Kind, Job.State


@atomic_with_retry
def ask_reports(person: User, runs: Sequence[int], ending: str, key: uuid.UUID | None = None) -> Job:
    """Ask for the reports of many runs in one form. Pressed twice it is one job. Raises `Refused`."""
    own = set(Run.objects.filter(owner=person, pk__in=runs[: MOST_RUNS + 1]).values_list("pk", flat=True))
    wanted = [run for run in dict.fromkeys(runs) if run in own]
    if not wanted:
        raise Refused("Choose the runs first.")
    if len(runs) > MOST_RUNS:
        raise Refused(f"{len(runs)} runs are chosen; at most {MOST_RUNS} at once.")
    title = f"{len(wanted)} report{'s' * (len(wanted) > 1)} as {ending[1:].upper()}"
    job, is_new = _asked(person, key, kind=_Kind.REPORTS, title=title, total=len(wanted),
                         wanted={"runs": wanted, "ending": ending})  # fmt: skip
    if is_new:
        queue.enqueue(job)
    return job


@atomic_with_retry
def ask_account(person: User, key: uuid.UUID | None = None) -> Job:
    """Ask for all that a person has, as an archive. Pressed twice it is one job. Raises `Refused`."""
    job, is_new = _asked(person, key, kind=_Kind.ACCOUNT, title="All that is mine")
    if is_new:
        queue.enqueue(job)
    return job


@atomic_with_retry
def begin_sending(person: User, name: str, size: int, key: uuid.UUID | None = None) -> Job:
    """An archive is about to arrive in pieces. Raises `Refused` for one that is too large."""
    if not 0 < size <= MOST_SENT:
        raise Refused(f"The file has {size / 1e6:.1f} MB; at most {MOST_SENT / 1e6:.0f} MB are taken.")
    if kept_by(person) + size > MOST_KEPT:
        raise _no_room()
    job, _ = _asked(person, key, kind=_Kind.BRING, title=f"Bring in {name[:100]}", state=_State.ARRIVING,
                    wanted={"size": size})  # fmt: skip
    return job


@atomic_with_retry
def take_piece(job: Job, number: int, content: bytes) -> None:
    """Keep a piece of an archive that arrives; the same one sent again is kept once. Raises `Refused`."""
    now = Job.objects.select_for_update().get(pk=job.pk)
    if now.state != _State.ARRIVING or now.files.filter(number=number).exists():
        return
    if not content or len(content) > PIECE or now.size + len(content) > now.wanted["size"]:
        raise Refused("This piece is none of the file that was announced.")
    if kept_by(now.person) + len(content) > MOST_KEPT:
        raise _no_room()
    if number != now.files.count():
        raise Refused(f"Piece {now.files.count()} comes next, not {number}.")
    JobFile.objects.create(job=now, number=number, content=content)
    now.size += len(content)
    now.state = _State.ASKED if now.size == now.wanted["size"] else _State.ARRIVING
    now.save(update_fields=["size", "state"])


@atomic_with_retry
def start_import(job: Job) -> None:
    """An archive that has arrived is wanted. Pressed twice it is brought once. Raises `Refused`."""
    now = Job.objects.select_for_update().get(pk=job.pk)
    if now.state == _State.ARRIVING:
        raise Refused("The file has not arrived in whole; send it again.")
    if now.state == _State.ASKED:
        _refuse_too_many(now.person)
        now.state = _State.WAITING
        now.save(update_fields=["state"])
        queue.enqueue(now)


def cancel(job: Job) -> None:
    """Nothing more of it is done; what was made so far can still be had."""
    queue.end(job, _State.CANCELLED)


def drop(job: Job) -> None:
    """Take a job away with its files; whoever is at a step of it keeps nothing of that."""
    job.delete()


def clear() -> int:
    """Take away the jobs whose files are kept no longer; how many."""
    long_ago = timezone.now() - Job.KEPT
    is_old = Q(ended__lt=long_ago) | Q(ended=None, created__lt=long_ago)
    return Job.objects.exclude(state__in=Job.OPEN).filter(is_old).delete()[0]


def _asked(person: User, key: uuid.UUID | None, **what: object) -> tuple[Job, bool]:
    """A new job, or the one that a press made already. Raises `Refused` where there is no room for one more."""
    User.objects.select_for_update().only("pk").get(pk=person.pk)
    if key and (known := Job.objects.filter(person=person, key=key).first()):
        return known, False
    _refuse_too_many(person)
    if kept_by(person) >= MOST_KEPT:
        raise _no_room()
    return Job.objects.create(person=person, key=key, **what), True


def _refuse_too_many(person: User) -> None:
    if person.jobs.filter(state__in=Job.OPEN).count() >= MOST_OPEN:
        raise Refused(f"{MOST_OPEN} are in hand already; wait for one of them, or cancel it.")


def _no_room() -> Refused:
    return Refused(f"Your archives take {MOST_KEPT / 1e6:.0f} MB, and there is no room for more; take some away first.")
