"""Signing a run off: it is closed then, and what is changed from there on is a revision that names the one before."""

import uuid
from dataclasses import replace

from django.utils import timezone

from recensor.core.errors import Refused
from recensor.core.record import SignedAs
from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActRow, Revision, RunRow, SignatureRow
from recensor.runs.services.append import append_act, is_done
from recensor.runs.services.keep_assessment import keep_assessment
from recensor.web.refusals import ConflictError
from recensor.web.transactions import atomic_with_retry

# With the words that name the revision before, it is one reason of an act.
LONGEST_WHY = 120


@atomic_with_retry
def sign(run: RunRow, signer: User, signed_as: SignedAs, seen: str) -> SignatureRow:
    """Put a name under a run: the performer's closes it, a reviewer's stands beside it. Signed twice it is once.

    `seen` is the checksum that the signer was shown. Raises `Refused` where somebody signs as what they are not, or a
    question is open, and `ConflictError` where the run is not any more what was shown.
    """
    loaded = queries.load_locked(run, closed_too=True)
    _refuse_another(run, signer, signed_as)
    if run.closed is None:
        if loaded.questions:
            raise Refused("A question about a reading is still open; answer it at the bench first.")
        revision = _signed_off(run, loaded, seen)
    else:
        revision = run.revisions.get(number=run.revisions.count())
        if revision.checksum != seen:
            raise _changed()
    row = SignatureRow(revision=revision, signer=signer, signed_as=signed_as, time=timezone.now())
    return row.append_once(revision=revision, signer=signer)


def _refuse_another(run: RunRow, signer: User, signed_as: SignedAs) -> None:
    performed = signer.pk == run.owner_id
    if signed_as is SignedAs.PERFORMER and not performed:
        raise Refused(f"This run is {run.owner}'s: somebody else signs it as its reviewer.")
    if signed_as is SignedAs.REVIEWER and performed:
        raise Refused("A reviewer is somebody else than the performer.", place="name")
    if signed_as is SignedAs.REVIEWER and run.closed is None:
        raise Refused("The performer signs first; the reviewer then signs the same data.")


def _signed_off(run: RunRow, loaded: queries.RunSnapshot, seen: str) -> Revision:
    core, now = queries.unsigned(run, loaded), timezone.now()
    digits = checksum(run_document.to_tree(core))
    if digits != seen:
        raise _changed()
    number, document = run.revisions.count() + 1, run_document.write(core)
    run_document.read(document)  # what is signed can be read again, or it is not signed
    revision = Revision(run=run, number=number, document=document, checksum=digits, time=now)
    revision.save()
    keep_assessment(revision, replace(core, by_size=run.owner.drops_by_size))
    run.closed = now
    run.save(update_fields=["closed"])
    return revision


def _changed() -> ConflictError:
    return ConflictError("Something was changed since this page was shown. Look at it once more, then sign.")


@atomic_with_retry
def revise(run: RunRow, author: User, why: str, key: uuid.UUID | None = None) -> None:
    """Open a revision of a run that is signed off; its history names the one before. Pressed twice it is one.

    Raises `Refused` without a reason, and where the run is open already.
    """
    queries.lock(run, closed_too=True)
    if is_done(run, key):
        return
    last = run.revisions.last()
    if run.closed is None or last is None:
        raise Refused("This run is open already.")
    why = why.strip()
    if not 0 < len(why) <= LONGEST_WHY:
        raise Refused(f"Say why it is opened again, in 1 to {LONGEST_WHY} characters.", place="why")
    before = f"revision {last.number} is {printed(last.checksum)}"
    append_act(run, author, ActRow.Kind.REVISE, f"revision {last.number + 1}, {why}; {before}", key=key)
    run.closed = None
    run.save(update_fields=["closed"])
