"""Accounts that go out, and archives of them that arrive in pieces."""

import uuid

from recensor.core.errors import Refused
from recensor.jobs import queue
from recensor.jobs.models import Job, JobFile, kept_by
from recensor.jobs.services import MOST_KEPT, new_job, no_room, refuse_too_many
from recensor.people.models import User
from recensor.web.transactions import atomic_with_retry

# What one person sends at once, in bytes; a file is sent in pieces, each no longer than one request may be.
MOST_SENT, PIECE = 100_000_000, 2_000_000

_Kind, _State = Job.Kind, Job.State


@atomic_with_retry
def ask_account(person: User, key: uuid.UUID | None = None) -> Job:
    """Ask for all that a person has, as an archive. Pressed twice it is one job. Raises `Refused`."""
    job, is_new = new_job(person, key, kind=_Kind.ACCOUNT, title="All that is mine")
    if is_new:
        queue.enqueue(job)
    return job


@atomic_with_retry
def begin_sending(person: User, name: str, size: int, key: uuid.UUID | None = None) -> Job:
    """An archive is about to arrive in pieces. Raises `Refused` for one that is too large."""
    if not 0 < size <= MOST_SENT:
        raise Refused(f"The file has {size / 1e6:.1f} MB; at most {MOST_SENT / 1e6:.0f} MB are taken.")
    if kept_by(person) + size > MOST_KEPT:
        raise no_room()
    job, _ = new_job(person, key, kind=_Kind.BRING, title=f"Bring in {name[:100]}", state=_State.ARRIVING,
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
        raise no_room()
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
        refuse_too_many(now.person)
        now.state = _State.WAITING
        now.save(update_fields=["state"])
        queue.enqueue(now)
