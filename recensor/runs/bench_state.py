"""The bench of a run as it stands: which meter, which boards, how circuits are opened, and what was last done at it."""

from dataclasses import replace

from django.utils import timezone

from recensor.core import plan
from recensor.core.judgement import Assessment
from recensor.core.plan import Bench, State, Way
from recensor.core.quantity import CURRENT
from recensor.core.record import Reading
from recensor.people.models import User
from recensor.runs import mapping, queries
from recensor.runs.models import BenchMove, ReadingRow, RunRow
from recensor.runs.queries import RunSnapshot


def bench_of(run: RunRow, loaded: RunSnapshot, assessment: Assessment, person: User) -> Bench:
    """The bench as the plan takes it, with what stands on its boards."""
    bench = plan.bench_of(queries.with_boards_of(run, loaded).core, assessment, Way(person.opens_by))
    return replace(bench, sheet=loaded.core.sheet, sealed=loaded.is_sealed)


def state_of(loaded: RunSnapshot, bench: Bench) -> State:
    """How the bench stands: as it was left by what was last said to be done, or by the reading that was taken since.

    Whatever stands in the books was read with the bench as it must be for it; what is still asked about says nothing.
    """
    state = mapping.state_of(loaded.moved_state) if loaded.moved_state else State()
    last = _last_reading(loaded)
    if last is None:
        return state
    built = (r.target.setup for r in reversed(loaded.core.readings) if _shows_what_is_built(r))
    return bench.during(last.target, state._replace(setup=next(built, state.setup)))


def _shows_what_is_built(reading: Reading) -> bool:
    return reading.struck is None and reading.target.in_circuit


def is_powered(loaded: RunSnapshot) -> bool:
    """Whether the supply is on, as far as was said or read."""
    last = _last_reading(loaded)
    if last is None:
        return bool(loaded.moved_state and loaded.moved_state["powered"])
    return plan.stage_of(last.target, loaded.core.sheet).power == "ON"


def _last_reading(loaded: RunSnapshot) -> Reading | None:
    """The last reading that says how the bench stood, where nothing was said to be done at the bench since."""
    readings, moved = loaded.core.readings, loaded.moved_time
    for pk, reading in zip(reversed(loaded.reading_ids), reversed(readings), strict=True):
        if reading.struck is None and not (reading.counted is False and pk in loaded.asked_about):
            is_before = moved is not None and reading.time is not None and reading.time <= moved
            return None if is_before else reading
    return None


def was_on(run: RunRow, setup: str) -> bool:
    """Whether power came on in a setup before, with the supply connected."""
    moves = BenchMove.objects.filter(run_id=run.pk, kind=BenchMove.Kind.POWER_ON, state__setup=setup)
    return moves.filter(state__connected=True).exists()


def proved(run: RunRow, state: State) -> State:
    """The state with the meter proved, where it read a current today: once a day is enough for each meter."""
    if state.proved:
        return state
    today = timezone.localtime().replace(hour=0, minute=0, second=0, microsecond=0)
    read = ReadingRow.objects.filter(quantity=CURRENT, time__gte=today, look=False).exclude(value=None)
    read = read.exclude(value=0)
    read = read.filter(meter_id=run.meter_id) if run.meter_id else read.filter(run_id=run.pk)
    return state._replace(proved=True) if read.exists() else state
