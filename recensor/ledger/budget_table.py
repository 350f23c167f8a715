"""A run in order of trouble: how far each reading is off, and what makes it uncertain."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from recensor.core import plan
from recensor.core.circuit import MEASURED, NOMINAL, Basis, Target
from recensor.core.figures import rounded, signed_percent
from recensor.core.judgement import Assessment, Judged, Outcome, TargetAssessment, budget, what_decides
from recensor.core.quantity import Quantity, as_ratio
from recensor.drawing.deviations import Deviation, Deviations, deviations
from recensor.ledger import account_in_setup
from recensor.ledger.marks import Mark

# Readings of these come first in the order of trouble.
_TROUBLE = (Outcome.OUTSIDE, Outcome.UNDECIDED, Outcome.AGREES, Outcome.NEUTRAL, Outcome.UNREAD)


@dataclass(frozen=True)
class Uncertain:
    """A reading or an account with what its uncertainty, and that of its calculation, is made of."""

    name: str
    percent: str
    by_percent: str
    by_uncertainty: str
    made_of: tuple[tuple[str, budget.Budget | None], ...]
    unit: str
    worst: str
    decides: str
    reason: str
    mark: Mark

    @property
    def budgets(self) -> list[tuple[str, str, list[tuple[str, str, int]]]]:
        """Title, U, and the contributions: words, standard uncertainty, and share of the variance in %."""
        found = []
        for what, one in self.made_of:
            if one is not None:
                bars = [
                    (c.words, rounded(c.standard, c.standard, self.unit), round(100 * c.share))
                    for c in one.contributions
                ]
                title = f"{what} {rounded(one.value, one.expanded or None, self.unit)}"
                found.append((title, rounded(one.expanded, one.expanded or None, self.unit), bars))
        return found


def rows(assessment: Assessment) -> list[Uncertain]:
    """All readings, loops and nodes, the worst first."""
    uncertains = [
        *(_uncertain(assessment, target_assessment) for target_assessment in _in_order(assessment)),
        *_accounts(assessment),
    ]
    return sorted(uncertains, key=lambda row: _TROUBLE.index(row.mark.outcome))


def _in_order(assessment: Assessment) -> list[TargetAssessment]:
    """The readings, the worst first."""
    return sorted(
        (t for t in assessment.targets.values() if not t.measurement.target.is_leads),
        key=lambda t: (_TROUBLE.index(t.judged.outcome), -abs(_error(t, assessment) or 0.0)),
    )


def _error(target_assessment: TargetAssessment, assessment: Assessment) -> float | None:
    """The percent error by what judges."""
    basis = _basis(target_assessment, assessment)
    error = target_assessment.judged.percent_error[basis]
    return target_assessment.judged.percent_error[basis.other] if error is None else error


def _basis(target_assessment: TargetAssessment, assessment: Assessment) -> Basis:
    """What judges a reading: of a part by itself its nominal value."""
    alone = target_assessment.measurement.target.is_part_alone
    return NOMINAL if alone else assessment.against.run.sheet.judge.against


def _calculated(target_assessment: TargetAssessment, assessment: Assessment) -> float:
    """The size of the value that it is judged against, in the SI unit; 0 where there is none."""
    basis = _basis(target_assessment, assessment)
    values = {NOMINAL: target_assessment.judged.nominal.value, MEASURED: target_assessment.judged.measured.value}
    return abs(values[basis] or values[basis.other] or 0.0)


def chart(assessment: Assessment) -> Deviations | None:
    """The deviation of every reading with a percent error, in order of trouble."""
    found = []
    for target_assessment in _in_order(assessment):
        error, calculated = _error(target_assessment, assessment), _calculated(target_assessment, assessment)
        if error is None or not calculated:
            continue
        expanded = 100.0 * (target_assessment.judged.expanded or 0.0) / calculated
        mark = Mark(target_assessment.judged.outcome, target_assessment.judged.verdict.value)
        name = plan.title(target_assessment.measurement.target, assessment.against.run.sheet)
        found.append(Deviation(_short(name), error, expanded, mark.word, mark.sign, mark.kind))
    return deviations(found, 100.0 * as_ratio(assessment.against.run.sheet.judge.limit)) if found else None


def _short(name: str) -> str:
    return name if len(name) <= 28 else f"{name[:27]}…"


def _uncertain(assessment: Assessment, target_assessment: TargetAssessment) -> Uncertain:
    judged, target = target_assessment.judged, target_assessment.measurement.target
    error = _error(target_assessment, assessment)
    by_uncertainty = _normalised(judged, assessment)
    return Uncertain(
        name=plan.title(target, assessment.against.run.sheet),
        percent="" if error is None else signed_percent(error),
        by_percent=_by_percent(error, target, assessment),
        by_uncertainty=by_uncertainty,
        made_of=(
            ("Read", budget.of_reading(assessment, target)),
            ("Calculated", budget.of_calculated(assessment, target)),
        ),
        unit=target.unit,
        worst=_worst(assessment, target),
        decides=what_decides(assessment, target),
        reason=judged.reason,
        mark=Mark(judged.outcome, judged.verdict.value),
    )


def _accounts(assessment: Assessment) -> Iterator[Uncertain]:
    """The loops and nodes that are closed."""
    for account in assessment.laws:
        made = budget.of_account(account)
        if made is None:
            continue
        share, size = account.residual_percent, abs(account.normalised_error or 0.0)
        yield Uncertain(
            name=account_in_setup(account, assessment.against.run.sheet),
            percent="" if share is None else signed_percent(share),
            by_percent="" if share is None else _beside(share, assessment.against.run.sheet.judge.limit),
            by_uncertainty=_by_uncertainty(size),
            made_of=(("Leaves", made),),
            unit=account.law.unit,
            worst="",
            decides="",
            reason=account.reason,
            mark=Mark(account.verdict.outcome, account.verdict.value),
        )


def _by_percent(error: float | None, target: Target, assessment: Assessment) -> str:
    """What the limit alone says; of a part by itself its tolerance."""
    if error is None:
        return ""
    sheet = assessment.against.run.sheet
    tolerance = sheet.parts[target.part].tolerance if target.is_part_alone else None
    return _beside(error, tolerance or sheet.judge.limit)


def _beside(error: float, limit: Quantity) -> str:
    """An error in % beside its limit."""
    return f"{'within' if abs(error) <= float(limit) else 'beyond'} {limit.value:f} %"


def _normalised(judged: Judged, assessment: Assessment) -> str:
    """What the uncertainty alone says."""
    errors: Mapping[Any, float | None] = judged.normalised_error
    basis = assessment.against.run.sheet.judge.against
    found = errors[basis] if errors[basis] is not None else errors[basis.other]
    if found is None:
        return ""
    return _by_uncertainty(abs(found))


def _by_uncertainty(size: float) -> str:
    """A normalised error beside what it may be."""
    text = "within" if size <= 1.0 else "just beyond" if size <= 1.5 else "beyond"
    return f"|E| = {size:.2g}, {text}"


def _worst(assessment: Assessment, target: Target) -> str:
    """The limits that tolerances allow at the very worst, of a calculated value."""
    found = budget.worst_case(assessment, target)
    return f"{rounded(found[0], None, target.unit)} to {rounded(found[1], None, target.unit)}" if found else ""
