"""Acts and their lines: whatever changes how a reading stands, or which sheet a run follows, is one."""

import uuid
from datetime import datetime

from django.utils import timezone

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.meters.models import ProfileRow
from recensor.people.models import User
from recensor.runs.models import ActLine, ActRow, RunRow


def append_act(
    run: RunRow,
    author: User,
    kind: ActRow.Kind,
    reason: str,
    *,
    key: uuid.UUID | None = None,
    undoes: ActRow | None = None,
    time: datetime | None = None,
    profile: ProfileRow | None = None,
) -> ActRow:
    """Append an act; its lines follow. Raises `Refused` for a reason that is too long."""
    if len(reason) > lengths.REASON:
        raise Refused(f"The reason is {len(reason)} characters long; keep it under {lengths.REASON}.")
    act = ActRow(
        run=run,
        kind=kind,
        reason=reason,
        author=author,
        time=time or timezone.now(),
        key=key or uuid.uuid4(),
        undoes=undoes,
        profile=profile,
    )
    act.save()
    return act


def append_line(act: ActRow, reading_id: int, effect: ActLine.Effect, other_id: int | None = None) -> None:
    """What an act does to one reading; `other_id` is the one that stands elsewhere, or instead of it."""
    ActLine(act=act, reading_id=reading_id, effect=effect, other_id=other_id).save()


def is_done(run: RunRow, key: uuid.UUID | None) -> bool:
    """Whether a press has been carried out already."""
    return key is not None and ActRow.objects.filter(run=run, key=key).exists()
