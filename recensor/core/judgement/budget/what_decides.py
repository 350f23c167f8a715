"""What would decide an undecided reading: a finer range of its meter, finer digits, or more trials."""

import math

from recensor.core.circuit import Target
from recensor.core.figures import plainly, rounded
from recensor.core.judgement.assess import Assessment, TargetAssessment
from recensor.core.judgement.measurements import Measurement
from recensor.core.judgement.verdicts import Verdict
from recensor.core.meters import Accuracy
from recensor.core.quantity import as_ratio
from recensor.core.sentences import say
from recensor.core.uncertainty import COVERAGE_FACTOR, resolution_uncertainty, scatter_uncertainty

# More trials than this are asked of nobody.
_MOST_TRIALS = 30


def what_decides(assessment: Assessment, target: Target) -> str:
    """A sentence on what would decide a reading that is undecided; empty where it is not, or nothing is known to.

    Undecided is what is good to no better than the limit, or lies within its own uncertainty of it.
    """
    target_assessment = assessment.of(target)
    if target_assessment is None or target_assessment.judged.verdict is not Verdict.UNDECIDED:
        return ""
    room, measurement, value = (
        _room(assessment, target_assessment),
        target_assessment.measurement,
        target_assessment.measurement.mean,
    )
    if room <= 0.0 or value is None:
        return ""
    if measurement.scatters and (trials := _trials(measurement, room)):
        return say("judgement.about_trials_would_decide", trials=trials)
    run = assessment.against.run
    reading = run.readings[measurement.indexes[0]]
    profile = run.profile_of(reading)
    precision = assessment.against.measurements.meters.of(reading)
    for taken in profile.ranges.get(target.measurand, ()) if profile else ():
        finer = taken.step < (precision.apart or math.inf)
        if finer and abs(value) < taken.full and _expanded(value, taken.accuracy, taken.step) <= room:
            return say("judgement.read_in_range_would", full=plainly(taken.full, target.unit))
    if profile and profile.ranges:
        return say("judgement.no_range_meter_decides")
    return _by_digits(value, room, precision.gain, target)


def _room(assessment: Assessment, target_assessment: TargetAssessment) -> float:
    """How good a reading must be to be on one side of the limit for sure."""
    judge, judged = assessment.against.run.sheet.judge, target_assessment.judged
    calculated = {c for c in (judged.measured.value, judged.nominal.value) if c}
    if not calculated or judged.value is None:
        return 0.0
    should = judged.measured.value or judged.nominal.value or 0.0
    limit = as_ratio(judge.limit) * abs(should)
    return min(limit, abs(abs(judged.value - should) - limit))


def _expanded(value: float, accuracy: Accuracy, step: float) -> float:
    own = math.hypot(accuracy.ratio * value, accuracy.digits * step) / math.sqrt(3.0)
    return COVERAGE_FACTOR * math.hypot(own, resolution_uncertainty(step))


def _trials(measurement: Measurement, room: float) -> int:
    """How many trials of this scatter are as good as that; 0 where so many are asked of nobody."""
    deviation = measurement.deviation or 0.0
    counts = range(measurement.count + 1, _MOST_TRIALS + 1)
    return next((n for n in counts if COVERAGE_FACTOR * scatter_uncertainty(deviation, n) <= room), 0)


def _by_digits(value: float, room: float, gain: float, target: Target) -> str:
    """The digit that would do, of a meter that nobody described."""
    left = (room / COVERAGE_FACTOR) ** 2 - (gain * value) ** 2 / 3.0
    if left <= 0.0:
        return say("judgement.kind_meter_cannot_decide")
    step = math.sqrt(left / (4.0 / 3.0 + 1.0 / 12.0))
    digit = 10.0 ** math.floor(math.log10(step))
    return say("judgement.read_or_finer_would", digit=rounded(digit, digit * 10.0, target.unit))
