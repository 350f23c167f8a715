"""What is asked for and not to be read in this run: left out on purpose, at any time, and taken up again."""

from dataclasses import replace

from recensor.core import lengths
from recensor.core.circuit import Target
from recensor.core.errors import Refused
from recensor.core.plan import stage_of
from recensor.experiments.models import SheetRow
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActRow, RunRow, RunSheet
from recensor.runs.services.append import append_act
from recensor.runs.services.start import follow
from recensor.web.transactions import atomic_with_retry


@atomic_with_retry
def leave_out(run: RunRow, author: User, target: Target | None = None, *, with_step: bool = False) -> None:
    """Leave a measurement out that is asked for, perhaps with all of its step, or all that are not read yet.

    Nothing is unsealed by it, and reading one ends it. Raises `Refused` where nothing is left to be left out.
    """
    loaded = queries.load_locked(run)
    sheet, assessment = loaded.core.sheet, loaded.judged()
    left = [one for one in sheet.wanted if not assessment.is_read(one)]
    step = stage_of(target, sheet) if target and with_step else None
    gone = {one.key for one in left if target is None or one.key == target.key or stage_of(one, sheet) is step}
    if not gone:
        raise Refused("This is not among what is still to be read.")
    words = target.words if target and not step else f"{len(gone)} measurement{'s' * (len(gone) > 1)}"
    _follow(run, author, sheet.waived | gone, loaded, f"left out: {words}")


@atomic_with_retry
def take_up_again(run: RunRow, author: User) -> None:
    """All that was left out is to be read after all. Raises `Refused` where nothing is left out."""
    loaded = queries.load_locked(run)
    if not loaded.core.sheet.waived:
        raise Refused("Nothing is left out.")
    _follow(run, author, frozenset(), loaded, "what was left out is to be read")


def _follow(run: RunRow, author: User, waived: frozenset[Target], loaded: queries.RunSnapshot, reason: str) -> None:
    act = append_act(run, author, ActRow.Kind.CHANGE, reason[: lengths.REASON])
    changed = replace(loaded.core.sheet, waived=waived)
    follow(run, author, SheetRow.of(changed, author), RunSheet.Kind.CORRECTION, act)
