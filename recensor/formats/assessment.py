"""An assessment as the JSON tree that ``recensor judge`` prints: full float64, SI units, never NaN."""

from typing import Any

from recensor.core.circuit import MEASURED, NOMINAL
from recensor.core.judgement import Account, Assessment, ClaimAssessment, Judged, TargetAssessment
from recensor.core.uncertainty import expanded
from recensor.formats.sheet import target_tree


def to_tree(assessment: Assessment) -> dict[str, Any]:
    """The whole assessment."""
    return {
        "parts": {
            name: {
                "nominal": part.nominal,
                "measured": part.measured,
                "percent_error": part.percent_error,
                "tolerance_percent": part.tolerance_percent,
                "verdict": part.verdict.value,
                "reason": part.reason,
            }
            for name, part in assessment.parts.items()
        },
        "readings": [
            {
                "index": reading.index,
                "value": reading.judged.value,
                "standing": reading.standing.value,
                **_judged(reading.judged),
            }
            for reading in assessment.readings
        ],
        "targets": [_target(target) for target in assessment.targets.values()],
        "laws": [_account(account) for account in assessment.laws],
        "sanity": [
            {
                "rule": check.rule,
                "setup": check.setup,
                "indexes": list(check.indexes),
                "verdict": "holds" if check.holds else "fails",
                "reason": check.reason,
            }
            for check in assessment.sanity
        ],
        "claims": [_claim(claim) for claim in assessment.claims],
        "faults": [],
        "warnings": [{"at": warning.at, "text": warning.text} for warning in assessment.warnings],
    }


def _judged(judged: Judged) -> dict[str, Any]:
    return {
        "over_range": judged.over_range,
        "calculated": {NOMINAL: judged.nominal.value, MEASURED: judged.measured.value},
        "open": judged.open,
        "percent_error": judged.percent_error,
        "uncertainty": {
            "reading": judged.expanded,
            "calculated": {
                NOMINAL: expanded(judged.nominal.standard),
                MEASURED: expanded(judged.measured.standard),
            },
        },
        "normalised_error": judged.normalised_error,
        "verdict": judged.verdict.value,
        "reason": judged.reason,
    }


def _target(assessed: TargetAssessment) -> dict[str, Any]:
    measurement = assessed.measurement
    return {
        "setup": measurement.target.setup,
        "quantity": measurement.target.measurand.value,
        **target_tree(measurement.target),
        "indexes": list(measurement.indexes),
        "n": measurement.count,
        "mean": measurement.mean,
        "s": measurement.deviation,
        "later": list(measurement.later),
        **_judged(assessed.judged),
    }


def _account(account: Account) -> dict[str, Any]:
    return {
        "law": account.law.value,
        "setup": account.setup,
        **({"at": account.at} if account.at is not None else {"around": list(account.around)}),
        "terms": [
            {"part": term.part, "sign": term.sign, "value": term.value, "from": list(term.sources)}
            for term in account.terms
            if term.value is not None
        ],
        "rises": account.rises,
        "drops": account.drops,
        "residual": account.residual,
        "residual_percent": account.residual_percent,
        "uncertainty": account.expanded,
        "normalised_error": account.normalised_error,
        "missing": [
            {key: value for key, value in target_tree(target).items() if key != "setup"} for target in account.missing
        ],
        "verdict": account.verdict.value,
        "reason": account.reason,
    }


def _claim(assessed: ClaimAssessment) -> dict[str, Any]:
    return {
        "index": assessed.index,
        **target_tree(assessed.claim.target),
        "value": assessed.judged.value,
        **_judged(assessed.judged),
        "from": list(assessed.claim.sources),
        "as": assessed.claim.combined and assessed.claim.combined.value,
        "own_terms": assessed.own_terms,
        "follows": assessed.follows,
        "follows_reason": assessed.reason,
    }
