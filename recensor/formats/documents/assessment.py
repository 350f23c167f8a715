"""An assessment as the JSON tree that ``recensor judge`` prints: full float64, SI units, never NaN."""

import json
from collections.abc import Iterable, Iterator
from typing import Any

from recensor.core.circuit import MEASURED, NOMINAL
from recensor.core.faults import Cause, Explanation
from recensor.core.judgement import (
    Account,
    Assessment,
    ClaimAssessment,
    Judged,
    PartAssessment,
    SanityCheck,
    SetupsCompared,
    TargetAssessment,
)
from recensor.core.sweeps import FittedLine, assess_lines
from recensor.core.uncertainty import expanded
from recensor.formats.documents.sheet import target_tree

# How a rule that follows from the circuit's shape stands, in a document.
HOLDS, FAILS = "holds", "fails"


def verdict_of(check: SanityCheck) -> str:
    """How a rule stands, in a document's word."""
    return HOLDS if check.holds else FAILS


def to_tree(assessment: Assessment, explanation: Explanation) -> dict[str, Any]:
    """The whole assessment, with what would explain it."""
    members = _members(assessment, explanation)
    return {key: value if isinstance(value, dict) else list(value) for key, value in members.items()}


def lines(assessment: Assessment, explanation: Explanation) -> Iterator[str]:
    """The whole assessment as JSON text, line by line, a line for each part, reading, account and so on.

    Nothing is held but the line, so that long runs take no more room than what was judged.
    """
    yield "{"
    members = _members(assessment, explanation)
    for key, value in members.items():
        is_table = isinstance(value, dict)
        yield f"  {json.dumps(key)}: {'{' if is_table else '['}"
        texts = (
            (f"{json.dumps(name, ensure_ascii=False)}: {_text(one)}" for name, one in value.items())
            if isinstance(value, dict)
            else map(_text, value)
        )
        yield from _separated(texts)
        yield f"  {'}' if is_table else ']'}{',' if key != next(reversed(members)) else ''}"
    yield "}"


def _text(tree: object) -> str:
    return json.dumps(tree, ensure_ascii=False, allow_nan=False)


def _separated(texts: Iterable[str]) -> Iterator[str]:
    before = None
    for text in texts:
        if before is not None:
            yield f"    {before},"
        before = text
    if before is not None:
        yield f"    {before}"


def _members(assessment: Assessment, explanation: Explanation) -> dict[str, dict[str, Any] | Iterator[Any]]:
    """The assessment's members, in the order in which they are written; of sweeps and comparisons where there are."""
    sheet = assessment.against.run.sheet
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
            for name, part in _as_one(assessment)
        },
        "readings": (
            {
                "index": reading.index,
                "value": reading.judged.value,
                "standing": reading.standing.value,
                **_judged(reading.judged),
            }
            for reading in assessment.readings
        ),
        "targets": map(_target, assessment.targets.values()),
        "laws": map(_account, assessment.laws),
        "sanity": (
            {
                "rule": check.rule,
                "setup": check.setup,
                "indexes": list(check.indexes),
                "verdict": verdict_of(check),
                "reason": check.reason,
            }
            for check in assessment.sanity
        ),
        "claims": map(_claim, assessment.claims),
        **({"lines": map(_line, assess_lines(assessment))} if sheet.sweeps else {}),
        **({"comparisons": map(_held, assessment.comparisons)} if sheet.compare else {}),
        "faults": map(_cause, explanation.told),
        "warnings": (
            {"at": warning.at, "text": warning.text} for warning in (*assessment.warnings, *explanation.warnings)
        ),
    }


def _as_one(assessment: Assessment) -> Iterator[tuple[str, PartAssessment]]:
    """Every part by its name in a document; a potentiometer by its lower part."""
    halves = assessment.against.run.sheet.potentiometers
    lower = {low: name for name, (_, low) in halves.items()}
    upper = {up for up, _ in halves.values()}
    for name, part in assessment.parts.items():
        if name not in upper:
            yield lower.get(name, name), part


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
        "earlier": list(measurement.earlier),
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


def _line(line: FittedLine) -> dict[str, Any]:
    free, origin, judged = line.with_intercept, line.through_origin, line.judged
    return {
        "sweep": line.sweep.name,
        "n": len(line.points),
        "points": [
            {"step": point.step, "volts": point.volts, "amps": point.amps, "resistance": point.resistance}
            for point in line.points
        ],
        "mean_resistance": line.mean_resistance,
        "with_intercept": free
        and {
            "slope": free.slope,
            "slope_uncertainty": free.slope_error,
            "intercept": free.intercept,
            "intercept_uncertainty": free.intercept_error,
            "r_squared": free.r_squared,
        },
        "through_origin": origin and {"slope": origin.slope, "slope_uncertainty": origin.slope_error},
        "resistance": line.resistance,
        "uncertainty": line.spread and expanded(line.spread.standard),
        "nominal": judged.nominal.value if judged else None,
        "percent_error": judged.percent_error[NOMINAL] if judged else None,
        "verdict": line.verdict,
        "straight": line.straight,
        "stray": line.stray,
        "left_out": [{"step": step, "reason": why} for step, why in line.left_out],
        "reason": line.reason,
    }


def _held(held: SetupsCompared) -> dict[str, Any]:
    return {
        "rule": held.comparison.rule.value,
        "setups": list(held.comparison.setups),
        "targets": [target_tree(target) for target in held.targets],
        "values": list(held.values),
        "calculated_difference": held.calculated_difference,
        "difference": held.difference,
        "uncertainty": held.expanded,
        "verdict": held.verdict,
        "reason": held.reason,
    }


def _cause(cause: Cause) -> dict[str, Any]:
    named = list(cause.targets)
    predicts = cause.predicts[0] if cause.predicts else None
    return {
        "kind": cause.kind.value,
        "target": named[0] if len(named) == 1 else named,
        "value": cause.value,
        "uncertainty": cause.uncertainty,
        "explains": list(cause.explains),
        "leaves": list(cause.leaves),
        "score": cause.score,
        "text": cause.text,
        "next": {"target": target_tree(cause.next), "predicts": predicts} if cause.next else None,
        "same": [{"kind": kind.value, "target": target} for kind, target in cause.same],
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
