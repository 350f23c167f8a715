"""The correction of a cause in one press: an ordinary act, which is undone like any other."""

import uuid
from dataclasses import replace

from recensor.core import lengths
from recensor.core.circuit import Target, has_place
from recensor.core.errors import Refused
from recensor.core.faults import Cause, Correction, MeterFound, Rebuilt, Reentered, Restated, Struck, explain
from recensor.experiments.models import SheetRow
from recensor.people.models import User
from recensor.runs import queries
from recensor.runs.models import ActLine, ActRow, RunRow, RunSheet
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.append import append_act, append_line, is_done
from recensor.runs.services.correct import made_instead
from recensor.runs.services.meter_found import judge_with, read_with
from recensor.runs.services.start import follow
from recensor.web.transactions import atomic_with_retry

_Kind, _Effect = ActRow.Kind, ActLine.Effect


@atomic_with_retry
def correct_cause(run: RunRow, author: User, token: str, key: uuid.UUID | None) -> tuple[str, Target | None]:
    """Carry out the correction of one of the causes that explain a run. Pressed twice it is done once.

    Which it is, in words, and what is read again where something is done by hand.

    Raises `Refused` where the run is explained otherwise by now, or nothing is to be given away yet.
    """
    loaded = queries.with_boards_of(run, queries.load_locked(run, author))
    if is_done(run, key):
        return "", None
    if loaded.is_sealed:
        raise Refused("This run is sealed: what corrects it is told once every point has been read.")
    causes = explain(loaded.judged()).causes
    cause = next((one for one in causes if one.token == token and one.correction is not None), None)
    if cause is None or cause.correction is None:
        raise Refused("By what has been read since, this is not the cause any more. Look again.")
    _carry_out(run, author, loaded, cause, cause.correction, key)
    return cause.correction.words, _to_read_again(loaded, cause, cause.correction)


def _to_read_again(loaded: RunSnapshot, cause: Cause, correction: Correction) -> Target | None:
    """The last reading that a cause explains, in the circuit as it is put right; None where no hand does anything."""
    if not isinstance(correction, Rebuilt) or not cause.explains:
        return None
    was, planned = loaded.core.readings[cause.explains[-1]].target, correction.planned(loaded.core)
    new = next((name for name in planned.setups if name not in loaded.core.sheet.setups), None)
    if new is None or not was.in_circuit:
        return None
    there = was.in_setup(new, planned)
    return there if has_place(there, planned) else None


def _carry_out(
    run: RunRow, author: User, loaded: RunSnapshot, cause: Cause, correction: Correction, key: uuid.UUID | None
) -> None:
    reason = cause.name[: lengths.REASON]
    if isinstance(correction, Reentered):
        _reenter(run, author, loaded, correction, reason, key)
    elif isinstance(correction, Struck):
        act = append_act(run, author, _Kind.STRIKE, reason, key=key)
        for index in correction.indexes:
            append_line(act, loaded.reading_ids[index], _Effect.STRIKE)
    elif isinstance(correction, Restated):
        act = append_act(run, author, _Kind.CHANGE, reason, key=key)
        follow(run, author, SheetRow.of(correction.sheet(loaded.core.sheet), author), RunSheet.Kind.CORRECTION, act)
        _count(loaded, cause, act)
    elif isinstance(correction, MeterFound):
        _, profile = correction.profile(loaded.core)
        place = read_with(loaded.core.readings, correction.meter)
        if place is None:
            raise Refused("Nothing that stands was read with this meter.")
        judge_with(run, author, profile, loaded.reading_ids[place], reason, key)
    elif isinstance(correction, Rebuilt):
        act = append_act(run, author, _Kind.CHANGE, reason, key=key)
        follow(run, author, SheetRow.of(correction.planned(loaded.core), author), RunSheet.Kind.CHANGE, act)
        _count(loaded, cause, act)


def _reenter(
    run: RunRow, author: User, loaded: RunSnapshot, correction: Reentered, reason: str, key: uuid.UUID | None
) -> None:
    """Each reading as it should have been entered; several change places together."""
    several = len(correction.readings) > 1
    act = append_act(run, author, _Kind.SHIFT if several else _Kind.MEND, reason, key=key)
    after = correction.applied(loaded.core)
    for index in correction.readings:
        right = replace(after.readings[index], counted=None, later=False, instead_of=None)
        made_instead(run, author, act, loaded, index, right)


def _count(loaded: RunSnapshot, cause: Cause, act: ActRow) -> None:
    """What the cause explains counts: so the act stands in the order of what undo takes back."""
    last = loaded.last_reading
    for index in cause.explains or (() if last is None else (last,)):
        append_line(act, loaded.reading_ids[index], _Effect.COUNT)
