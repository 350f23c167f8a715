"""Values worked out by hand: checked like a reading, and against the readings they are said to come from."""

import math
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.figures import rounded
from recensor.core.judgement.calculated import Calculations
from recensor.core.judgement.verdicts import Judged, Read, judged
from recensor.core.record import Claim, Combination, Run


@dataclass(frozen=True)
class ClaimAssessment:
    """A claim judged against the calculated values; `follows` is None when its own terms cannot tell."""

    index: int
    claim: Claim
    judged: Judged
    own_terms: float | None
    follows: bool | None
    reason: str


def assess_claims(run: Run, calculations: Calculations) -> list[ClaimAssessment]:
    """Judge every claim, in order."""
    return [_assess(index, claim, run, calculations) for index, claim in enumerate(run.claims)]


def _assess(index: int, claim: Claim, run: Run, calculations: Calculations) -> ClaimAssessment:
    value = None if claim.value.over_range else float(claim.value)
    resolution = float(claim.value.resolution or 0)
    read = Read(value, uncertainty.resolution_uncertainty(resolution), claim.target.measurand)
    compared = judged(read, *calculations.both(claim.target), run.sheet.judge)
    own = _own_terms(claim, run)
    if own is None or value is None:
        return ClaimAssessment(index, claim, compared, own, None, "")
    follows = abs(value - own) <= resolution * (1 + 1e-9)
    said = f"{claim.combined} of its own terms is {rounded(own, resolution, claim.target.unit)}"
    return ClaimAssessment(
        index, claim, compared, own, follows, f"{said}: the claim {'follows' if follows else 'does not follow'}."
    )


def _own_terms(claim: Claim, run: Run) -> float | None:
    readings = [run.readings[k] for k in claim.sources]
    if claim.combined is None or not readings or any(r.value.over_range or r.struck for r in readings):
        return None
    values = [float(r.value) for r in readings]
    if claim.combined is Combination.SUM:
        return math.fsum(values)
    if claim.combined is Combination.PARALLEL:
        return 1.0 / math.fsum(1.0 / value for value in values) if all(value > 0 for value in values) else None
    return values[0] / values[1] if len(values) == 2 and values[1] else None
