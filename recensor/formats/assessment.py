"""An assessment as the JSON tree that ``recensor judge`` prints: full float64, SI units, never NaN."""

from typing import Any

from recensor.core.judgement import Account, Assessment, TargetAssessment
from recensor.core.judgement.claims import ClaimAssessment
from recensor.core.judgement.verdicts import Comparison
from recensor.core.record import MEASURED, NOMINAL
from recensor.core.uncertainty import expanded
from recensor.formats.run_document import target_tree


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
            {"index": reading.index, "value": reading.comparison.value, **_comparison(reading.comparison)}
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


def _comparison(comparison: Comparison) -> dict[str, Any]:
    return {
        "over_range": comparison.over_range,
        "calculated": {NOMINAL: comparison.nominal.value, MEASURED: comparison.measured.value},
        "open": comparison.open,
        "percent_error": comparison.percent_error,
        "uncertainty": {
            "reading": comparison.uncertainty,
            "calculated": {
                NOMINAL: expanded(comparison.nominal.uncertainty),
                MEASURED: expanded(comparison.measured.uncertainty),
            },
        },
        "normalised_error": comparison.normalised_error,
        "verdict": str(comparison.verdict),
        "reason": comparison.reason,
    }


def _target(assessed: TargetAssessment) -> dict[str, Any]:
    measurement = assessed.measurement
    return {
        "setup": measurement.target.setup,
        "quantity": measurement.target.quantity,
        **target_tree(measurement.target),
        "indexes": list(measurement.indexes),
        "n": measurement.count,
        "mean": measurement.mean,
        "s": measurement.deviation,
        **_comparison(assessed.comparison),
    }


def _account(account: Account) -> dict[str, Any]:
    return {
        "law": account.law,
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
        "uncertainty": account.uncertainty,
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
        "value": assessed.comparison.value,
        **_comparison(assessed.comparison),
        "from": list(assessed.claim.sources),
        "as": assessed.claim.combined,
        "own_terms": assessed.own_terms,
        "follows": assessed.follows,
        "follows_reason": assessed.reason,
    }
