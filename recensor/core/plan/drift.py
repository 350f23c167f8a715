"""Which sources are to be read once more: where what they may have drifted since would change a verdict."""

from collections.abc import Sequence

from recensor.core.circuit import JudgedBy, Setup, Target, loaded_target
from recensor.core.judgement import Assessment, TargetAssessment
from recensor.core.quantity import as_ratio
from recensor.core.record import Run

# What a source drifts by between two readings of it (common practice, no source).
DRIFT = 0.01


def sources_to_read_again(run: Run, assessment: Assessment, still: Sequence[Target] = ()) -> list[Target]:
    """Sources that were read under load, since when points were read that 1 % of drift would judge otherwise.

    Not those that are among what is `still` to be read.
    """
    open_keys = {target.key for target in still}
    targets: list[Target] = []
    for setup in run.sheet.setups.values():
        for name in setup.driving(run.sheet.parts):
            target = loaded_target(setup, run.sheet, name)
            read = assessment.of(target)
            if read is None or target.key in open_keys:
                continue
            last = max((*read.measurement.indexes, *read.measurement.earlier))
            if any(
                _hangs_on(target_assessment, run) for target_assessment in _read_since(last, setup, target, assessment)
            ):
                targets.append(target)
    return targets


def _read_since(last: int, setup: Setup, target: Target, assessment: Assessment) -> list[TargetAssessment]:
    return [
        target_assessment
        for key, target_assessment in assessment.targets.items()
        if key.setup == setup.name
        and key != target.key
        and not key.is_part_alone
        and not key.needs_dead_circuit
        and target_assessment.measurement.indexes[0] > last
    ]


def _hangs_on(assessment: TargetAssessment, run: Run) -> bool:
    """Whether the verdict on a target is another one where its source gives 1 % more or less."""
    judge, judged = run.sheet.judge, assessment.judged
    calculated = judged.measured if judged.measured.value is not None else judged.nominal
    if judged.value is None or not calculated.value:
        return False
    off, room = abs(judged.value - calculated.value), DRIFT * abs(calculated.value)
    error = judged.normalised_error[judge.against] or judged.normalised_error[judge.against.other]
    if judge.by is JudgedBy.UNCERTAINTY and error:
        return any(abs(off - edge * off / abs(error)) < room for edge in (1.0, 1.5))
    limit = as_ratio(judge.limit) * abs(calculated.value)
    return any(abs(off - edge) < room for edge in (limit, limit + (judged.expanded or 0.0)))
