"""The plan of a run: what is still to be read, in an order that is safe and needs few moves, step by step."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from recensor.core import safety
from recensor.core.circuit import Target, asking_everything
from recensor.core.judgement import Assessment, assess
from recensor.core.meters import ORDINARY_HANDHELD
from recensor.core.plan.drift import sources_to_read_again
from recensor.core.plan.opening import Way
from recensor.core.plan.order import Order, followed, in_order, read_at
from recensor.core.plan.state import State
from recensor.core.plan.steps import Bench, Step
from recensor.core.quantity import Measurand
from recensor.core.record import Run
from recensor.core.sentences import say


@dataclass(frozen=True)
class Plan:
    """Steps to take one after the other; the moves of all, and those that the order of asking would need.

    `refused` says why there are no steps where there may be none; `left_out` is what this meter must not read,
    `waived` what is left out on purpose.
    """

    steps: tuple[Step, ...] = ()
    moves: int = 0
    moves_as_asked: int = 0
    refused: str = ""
    left_out: tuple[Target, ...] = ()
    waived: tuple[Target, ...] = ()


def plan(
    run: Run,
    assessment: Assessment | None = None,
    *,
    start: State | None = None,
    after: Target | None = None,
    order: Order = Order.VOLTS_FIRST,
    way: Way = Way.LINK,
) -> Plan:
    """The plan of what a run has still to read; of what is usually read where its sheet asks for nothing.

    It goes on from what was read last, `after`, as the bench does. Above 60 V DC it has no steps, unless the run is
    simulated.

    Examples
    --------
    >>> from recensor.core.circuit import asking_everything, one_line
    >>> planned = plan(Run(asking_everything(one_line.read("9V: 1k + 2k2"))))
    >>> [step.state.powered for step in planned.steps if step.reads][:4], planned.moves <= planned.moves_as_asked
    ([False, False, False, True], True)
    """
    if not run.simulated and safety.caution(run.sheet) is safety.Caution.PAPER_ONLY:
        limit = f"{safety.PAPER_ONLY_ABOVE:.0f} V DC"
        return Plan(refused=say("plan.more_than_between_two", limit=limit))
    if not run.sheet.asked:
        run, assessment = replace(run, sheet=asking_everything(run.sheet)), None
    assessment = assessment or assess(run)
    bench, state = bench_of(run, assessment, way), start or State()
    unread = [target for target in run.sheet.wanted if not assessment.is_read(target)]
    left = [target for target in unread if not bench.setting(target).is_beyond]
    planned = _in_order(left, after, run, order, bench)
    planned += sources_to_read_again(run, assessment, planned)
    steps = walk(bench, state, planned)
    beyond = tuple(target for target in unread if bench.setting(target).is_beyond)
    waived = tuple(run.sheet.not_measured(assessment.targets))
    return Plan(tuple(steps), _count(steps), _count(walk(bench, state, left)), left_out=beyond, waived=waived)


def _in_order(left: Sequence[Target], after: Target | None, run: Run, order: Order, bench: Bench) -> list[Target]:
    """What is left to be read as it is asked for, on from what was read last."""
    points = list(run.sheet.wanted)
    here = next((k for k, point in enumerate(points) if after is not None and point.key == after.key), None)
    if here is None:
        return [left[k] for k in in_order(left, run.sheet, order, bench)]
    stages = [read_at(target, run.sheet) for target in points]
    unread = [k for k, target in enumerate(points) if target in left]
    return [points[k] for k in followed(in_order(points, run.sheet, order, bench), unread, here, stages)]


def bench_of(run: Run, assessment: Assessment, way: Way = Way.LINK) -> Bench:
    """The bench of a run: its meters, its boards, and what its targets are expected to read.

    In a sealed run nothing is told of what is expected.
    """
    meters = {measurand: run.meter_for(measurand) or ORDINARY_HANDHELD for measurand in Measurand}

    def expected(target: Target) -> float | None:
        calculated = assessment.expected(target)
        return calculated.value if calculated else None

    return Bench(run.sheet, meters, expected, run.boards, way, run.simulated, run.sheet.sealed)


def walk(bench: Bench, start: State, targets: Sequence[Target]) -> list[Step]:
    """The steps through several readings, and what is put back at the end."""
    steps: list[Step] = []
    state = start
    for target in targets:
        steps += bench.steps(state, target)
        state = steps[-1].state
    return [*steps, *bench.put_back(state)] if targets else steps


def _count(steps: Sequence[Step]) -> int:
    return sum(len(step.moves) for step in steps)
