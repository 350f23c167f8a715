"""How every stage of the work stands, and which point comes next."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

from recensor.core import plan
from recensor.core.circuit import Target
from recensor.core.judgement import Assessment, Outcome
from recensor.core.plan import Stage
from recensor.core.record import Run
from recensor.ledger.marks import UNREAD, Mark


@dataclass(frozen=True)
class StageSign:
    """A stage in the strip: how what was read there stands, whether it is now, how much is left to read.

    `is_waived`: nothing was read there, and nothing is to be.
    """

    name: str
    power: str
    is_now: bool
    mark: Mark
    left: int
    is_waived: bool = False

    @property
    def words(self) -> str:
        """How it stands, in words."""
        to_do = f"{self.left} to do" if self.left else ""
        stands = "" if self.mark is UNREAD else self.mark.word
        otherwise = "now" if self.is_now else "not measured" if self.is_waived else "to do"
        return ", ".join(filter(None, (stands, to_do))) or otherwise


def stages(run: Run, points: Sequence[Target], assessment: Assessment, chosen: Target | None) -> Iterator[StageSign]:
    """How each stage stands; the verdict is open once everything is read."""
    now = plan.stage_of(chosen, run.sheet) if chosen is not None else Stage.VERDICT
    to_read = set(unread(run, points, assessment))
    by_stage: dict[Stage, list[int]] = {}
    for k, target in enumerate(points):
        by_stage.setdefault(plan.stage_of(target, run.sheet), []).append(k)
    for stage in Stage:
        here = by_stage.get(stage, [])
        if not here and stage is not Stage.VERDICT:
            continue
        mark = _stands(assessment, [points[k] for k in here])
        left = sum(k in to_read for k in here)
        waived = bool(here) and not left and mark is UNREAD
        yield StageSign(stage.value, stage.power, stage is now, mark, left, waived)


_WORST = (Outcome.OUTSIDE, Outcome.UNDECIDED, Outcome.AGREES)


def _stands(assessment: Assessment, points: Sequence[Target]) -> Mark:
    """The worst that was said of the points; of none that was read, unread."""
    outcomes = {target_assessment.judged.outcome for target in points if (target_assessment := assessment.of(target))}
    worst = next((outcome for outcome in _WORST if outcome in outcomes), None)
    if worst is None:
        return Mark(Outcome.NEUTRAL, "read") if outcomes else UNREAD
    return Mark(worst, worst.value)


def unread(run: Run, points: Sequence[Target], assessment: Assessment) -> list[int]:
    """The points that the sheet asks for and that nothing counts at yet."""
    asked = {target.key for target in run.sheet.wanted}
    return [k for k, target in enumerate(points) if target.key in asked and not assessment.is_read(target)]


def next_point(
    run: Run,
    points: Sequence[Target],
    assessment: Assessment,
    ways: Sequence[int],
    after: Target | None = None,
    asked_about: Collection[Target] = (),
) -> Target | None:
    """The point to read next in the order of the `ways`, looking on from the one that was just read.

    Those that something is `asked_about`, by their keys, come last. None once everything is read.
    """
    stages = [plan.read_at(target, run.sheet) for target in points]
    last = None if after is None else [point.key for point in points].index(after.key)
    left = unread(run, points, assessment)
    left = [k for k in left if points[k].key not in asked_about] or left
    found = plan.next_in(ways, left, last, stages)
    return None if found is None else points[found]
