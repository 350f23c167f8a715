"""What is done at the bench itself, between readings: power switched, everything put back."""

import uuid

from django.utils import timezone

from recensor.core.circuit import Target
from recensor.core.plan import State
from recensor.people.models import User
from recensor.runs import mapping, queries
from recensor.runs.bench_state import bench_of, proved, state_of
from recensor.runs.models import BenchMove, RunRow
from recensor.web.transactions import atomic_with_retry

_Kind = BenchMove.Kind


@atomic_with_retry
def switch(run: RunRow, author: User, target: Target | None, key: uuid.UUID | None, *, on: bool) -> None:
    """Power was switched. On: what the card of `target` says to do before it was done too.

    Pressed twice, or where it stands so already, nothing more is done.
    """
    loaded = queries.load_locked(run, author)
    bench = bench_of(run, loaded, loaded.judged(), author)
    state = state_of(loaded, bench)
    if state.powered == on or _is_done(run, key):
        return
    steps = bench.steps(proved(run, state), target) if target is not None else []
    states = [step.state for step in steps if step.reads is None and step.state.powered == on]
    if on:
        after = states[-1] if states else state._replace(powered=True)
    else:
        after = states[0] if states else state._replace(powered=False)
    _append(run, author, _Kind.POWER_ON if on else _Kind.POWER_OFF, after, key)


@atomic_with_retry
def put_back(run: RunRow, author: User, key: uuid.UUID | None) -> None:
    """Everything is put back, the red lead in the voltage jack, the dial on volts. Pressed twice it is said once."""
    loaded = queries.load_locked(run, author)
    bench = bench_of(run, loaded, loaded.judged(), author)
    left = bench.put_back(state_of(loaded, bench))
    if left and not _is_done(run, key):
        _append(run, author, _Kind.PUT_BACK, left[-1].state, key)


def _is_done(run: RunRow, key: uuid.UUID | None) -> bool:
    return key is not None and BenchMove.objects.filter(run=run, key=key).exists()


def _append(run: RunRow, author: User, kind: BenchMove.Kind, state: State, key: uuid.UUID | None) -> None:
    row = BenchMove(run=run, kind=kind, state=mapping.state_tree(state), author=author, time=timezone.now())
    if key is not None:
        row.key = key
    row.save()
