"""Values worked out by hand: checked like a reading, and against the readings they are said to come from."""

import math
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.judgement.calculated import Calculator
from recensor.core.judgement.verdicts import Comparison, Read, compare
from recensor.core.quantity import rounded
from recensor.core.record import MEASURED, NOMINAL, Claim, Run


@dataclass(frozen=True)
class ClaimAssessment:
    """A claim's comparison with the calculated values; `follows` is None when its own terms cannot tell."""

    index: int
    claim: Claim
    comparison: Comparison
    own_terms: float | None
    follows: bool | None
    reason: str


def assess_claims(run: Run, calculator: Calculator) -> list[ClaimAssessment]:
    """Judge every claim, in order."""
    return [_assess(index, claim, run, calculator) for index, claim in enumerate(run.claims)]


def _assess(index: int, claim: Claim, run: Run, calculator: Calculator) -> ClaimAssessment:
    value = None if claim.value.over_range else float(claim.value)
    resolution = float(claim.value.resolution or 0)
    read = Read(value, uncertainty.resolution_uncertainty(resolution), claim.target.quantity, claim.target.unit)
    nominal, measured = (calculator.calculated(claim.target, basis) for basis in (NOMINAL, MEASURED))
    comparison = compare(read, nominal, measured, run.judge)
    own = _own_terms(claim, run)
    if own is None or value is None:
        return ClaimAssessment(index, claim, comparison, own, None, "")
    follows = abs(value - own) <= resolution * (1 + 1e-9)
    said = f"{claim.combined} of its own terms is {rounded(own, resolution, claim.target.unit)}"
    return ClaimAssessment(
        index, claim, comparison, own, follows, f"{said}: the claim {'follows' if follows else 'does not follow'}."
    )


def _own_terms(claim: Claim, run: Run) -> float | None:
    readings = [run.readings[k] for k in claim.sources]
    if claim.combined is None or not readings or any(r.value.over_range or r.struck for r in readings):
        return None
    values = [float(r.value) for r in readings]
    if claim.combined == "sum":
        return math.fsum(values)
    if claim.combined == "parallel":
        return 1.0 / math.fsum(1.0 / v for v in values) if all(v > 0 for v in values) else None
    return values[0] / values[1] if len(values) == 2 and values[1] else None
