"""Notes and conclusions: kept as they are written, and never over what somebody else wrote meanwhile."""

from django.utils import timezone

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import RunRow, RunText
from recensor.web.refusals import ConflictError
from recensor.web.transactions import atomic_with_retry


class MeanwhileError(ConflictError):
    """Another text was kept since the person's own was begun; `text` is that one."""

    def __init__(self, text: RunText) -> None:
        super().__init__(f"{text.author} wrote here meanwhile. Both texts are below: nothing is lost.")
        self.text = text


@atomic_with_retry
def write_text(run: RunRow, author: User, kind: str, text: str, found: int | None) -> RunText | None:
    """Keep a text; written twice it is kept once. Raises `Refused` for one too long, and `MeanwhileError`.

    `found` is the key of the text that the person saw when they began; None where there was none.
    """
    if len(text) > lengths.PROSE:
        raise Refused(f"The text is {len(text)} characters long; keep it under {lengths.PROSE}.")
    queries.lock(run)
    last = queries.last_text(run, kind)
    if (last.text if last else "") == text:
        return last
    if last is not None and last.pk != found:
        raise MeanwhileError(last)
    run_text = RunText(run=run, kind=kind, text=text, found=last, author=author, time=timezone.now())
    run_text.save()
    return run_text
