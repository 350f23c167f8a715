"""What would explain a run, as the bench and its own page show it."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from recensor.bench.ledger import Rows, account_in_setup, books, shown
from recensor.bench.models import Run
from recensor.bench.queries import LoadedRun
from recensor.bench.rows import token_of
from recensor.core import plan
from recensor.core.circuit import MEASURED, NOMINAL, Basis, PartAlone, Target, TouchedLeads
from recensor.core.faults import Cause, Explanation, Family, FaultKind, coincidences, explain
from recensor.core.figures import rounded, signed_percent
from recensor.core.judgement import AccountVerdict, Assessment, Judged, Outcome, TargetAssessment, budget, what_decides
from recensor.core.quantity import Quantity, as_ratio
from recensor.drawing.deviations import Deviation, Deviations, deviations
from recensor.web.marks import Mark

# Readings of these come first in the order of trouble.
_TROUBLE = (Outcome.OUTSIDE, Outcome.UNDECIDED, Outcome.AGREES, Outcome.NEUTRAL, Outcome.UNREAD)

# A cause of at least this share, in %, is named in the rows that it explains.
_NAMES_IT = 50

# So many places of one kind are named, and the others counted.
_FEW = 3

# Of a sealed run only where something is wrong is told, and nothing of what it should read.
_SEALED = {
    Family.CIRCUIT: "Something is wrong with {what}, as it is built: look there.",
    Family.INSTRUMENT: "The meter seems to be what is wrong: look at its jack, range and fuse.",
    Family.BOOK: "{what} does not look like what a meter showed there: read it again.",
}


@dataclass(frozen=True)
class ToldReading:
    """A reading that a cause explains or leaves: its words, and the point where it stands."""

    words: str
    point: int


@dataclass(frozen=True)
class ToldCause:
    """A cause in words. `predicts` is what it says of the next reading; `mend` the words of its button."""

    text: str
    name: str
    percent: int
    share: str
    explains: tuple[ToldReading, ...]
    leaves: tuple[ToldReading, ...]
    same: str
    predicts: str
    token: str
    mend: str


@dataclass(frozen=True)
class Told:
    """What is said of a run's causes. `place` is where the reading that settles it is taken, `settles` what it is."""

    causes: tuple[ToldCause, ...]
    is_explained: bool
    nothing_wrong: str
    none_of_these: str
    settles: str
    place: str
    otherwise: str
    left_out: int

    @property
    def first(self) -> ToldCause | None:
        """The one to name."""
        return self.causes[0] if self.causes else None


def is_worth_asking(assessment: Assessment) -> bool:
    """Whether anything does not fit, or could not be told: else no cause is looked for while readings come in."""
    outcomes = {found.judged.outcome for found in assessment.targets.values()}
    accounts = {account.verdict for account in assessment.laws}
    return bool(
        outcomes & {Outcome.OUTSIDE, Outcome.UNDECIDED} or accounts & {AccountVerdict.OUT, AccountVerdict.CLOSE}
    )


def told(loaded: LoadedRun, explanation: Explanation) -> Told:
    """The causes of a run in words."""
    is_sealed, settling = loaded.is_sealed, explanation.next
    place, settles, otherwise = "", "", ""
    if settling:
        place = token_of(settling.target)
        settles = plan.in_a_sentence(plan.title(settling.target, loaded.core.sheet))
        rival = explanation.rival
        if rival and not is_sealed:
            otherwise = f"{_predicted(rival.predicts, settling.target)} if it is {rival.name}"
    return Told(
        tuple(_told(loaded, cause, explanation, is_sealed=is_sealed) for cause in explanation.causes),
        explanation.is_explained,
        _percent(explanation.nothing_wrong),
        _percent(explanation.none_of_these),
        settles,
        place,
        otherwise,
        explanation.left_out,
    )


def _told(loaded: LoadedRun, cause: Cause, explanation: Explanation, *, is_sealed: bool) -> ToldCause:
    predicts = ""
    if cause.next and not is_sealed:
        predicts = _predicted(cause.predicts, cause.next)
    text, name = cause.text, _name(cause, explanation)
    if is_sealed:
        what = " and ".join(dict.fromkeys(_target_words(loaded, target) for target in cause.targets[:3]))
        text = name = _SEALED[cause.kind.family].format(what=what)
    return ToldCause(
        text=text,
        name=name,
        percent=round(100 * cause.score),
        share=_percent(cause.score),
        explains=tuple(_readings(loaded, cause.explains)),
        leaves=tuple(_readings(loaded, cause.leaves)),
        same="" if is_sealed else _same(loaded, cause),
        predicts=predicts,
        token=cause.token,
        mend="" if is_sealed or cause.mend is None else cause.mend.words,
    )


def _name(cause: Cause, explanation: Explanation) -> str:
    """It in a few words, with the other one where two explain it together."""
    two = [one.name for one in explanation.causes if one.together and one.score == cause.score]
    return " and ".join(two) if cause.together else cause.name


def _same(loaded: LoadedRun, cause: Cause) -> str:
    """What else it could be, kind by kind."""
    named: dict[FaultKind, list[str]] = {}
    for kind, place in cause.same:
        named.setdefault(kind, []).append(place)
    said = [f"{kind} ({_places(loaded, places)})" for kind, places in named.items()]
    return f"{', '.join(said)}{f' and {cause.more} more' if cause.more else ''}"


def _places(loaded: LoadedRun, places: Sequence[str]) -> str:
    """The first few of them in words, and how many more."""
    words = "; ".join(_target_words(loaded, place) for place in places[:_FEW])
    return f"{words} and {len(places) - _FEW} more" if len(places) > _FEW else words


def _predicted(prediction: tuple[float, float] | None, target: Target) -> str:
    if prediction is None:
        return "over-range"
    value, spread = prediction
    return f"{rounded(value, 2.0 * spread, target.unit)} ± {rounded(2.0 * spread, 2.0 * spread, target.unit)}"


def _readings(loaded: LoadedRun, indexes: Iterable[int]) -> Iterator[ToldReading]:
    for k in indexes:
        reading = loaded.core.readings[k]
        words = f"{shown(reading)}, {plan.in_a_sentence(plan.title(reading.target, loaded.core.sheet))}"
        yield ToldReading(words, loaded.point_at(reading.target))


def _target_words(loaded: LoadedRun, place: str) -> str:
    """What a place of the run document is called on the page."""
    if place.startswith("readings["):
        return next(one.words for one in _readings(loaded, [int(place[9:-1])]))
    what, *rest = place.split(".")
    if what == "leads":
        return f"{rest[0]}, {('first', 'second')[rest[1] == '2']} lead"
    return rest[0] if rest else place


def _percent(share: float) -> str:
    """A share in %: no certainty is claimed."""
    if share > 0.99:
        return "over 99 %"
    return "under 1 %" if share < 0.01 else f"{100 * share:.0f} %"


@dataclass(frozen=True)
class Stands:
    """The verdict of a row of the ledger, whose reading a cause may explain."""

    point: int
    mark: Mark
    by: str


def rows_explained(loaded: LoadedRun, assessment: Assessment, causes: Told) -> list[Stands]:
    """The verdicts of all that is outside: explained by the first cause, or as they stand."""
    rows, first = Rows(loaded.core, loaded.points, assessment), causes.first
    explained = (
        {one.point for one in first.explains} if first and causes.is_explained and first.percent >= _NAMES_IT else set()
    )
    found = []
    for point, target in enumerate(loaded.points):
        assessed = assessment.of(target)
        if assessed and assessed.judged.outcome is Outcome.OUTSIDE:
            found.append(Stands(point, rows.row(point).mark, first.name if first and point in explained else ""))
    return found


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


def causes_page(run: Run, loaded: LoadedRun) -> dict[str, Any]:
    """What the page of a run's causes shows."""
    assessment = loaded.judged()
    causes = told(loaded, explain(assessment))
    state = books(loaded.core, loaded.points, assessment)
    ordered = sorted(
        (t for t in assessment.targets.values() if not isinstance(t.measurement.target, TouchedLeads)),
        key=lambda t: (_TROUBLE.index(t.judged.outcome), -abs(_error(t, assessment) or 0.0)),
    )
    is_sealed = loaded.is_sealed
    rows = [*(_uncertain(loaded, assessment, one) for one in ordered), *_accounts(loaded, assessment)]
    rows.sort(key=lambda row: _TROUBLE.index(row.mark.outcome))
    found = None if is_sealed else coincidences(assessment)
    return {
        "run": run,
        "line": overview(loaded, assessment, state, causes),
        "state": state,
        "told": causes,
        "chart": None if is_sealed else _chart(loaded, assessment, ordered),
        "rows": [] if is_sealed else rows,
        "is_sealed": is_sealed,
        "coincidences": found,
        "chance": f"1 in {1.0 / max(found.chance, 1e-9):,.0f}".replace(",", " ") if found else "",
    }


def overview(loaded: LoadedRun, assessment: Assessment, state: Mark, causes: Told) -> str:
    """The state of a run in one line: what is read, what is outside, what is out, and what is likely."""
    wanted = loaded.core.sheet.asked or tuple(loaded.points)
    read = sum(target.key in assessment.targets for target in wanted)
    outside = sum(t.judged.outcome is Outcome.OUTSIDE for t in assessment.targets.values())
    said = [f"{read} of {len(wanted)} read"]
    if outside:
        said.append(f"{outside} outside")
    if not outside or "out" in state.reason.split():
        said.append(state.reason)
    if causes.first:
        said.append(f"likely: {causes.first.name}" if causes.is_explained else "no single cause explains it")
    return " · ".join(dict.fromkeys(said))


def _error(found: TargetAssessment, assessment: Assessment) -> float | None:
    """The percent error by what judges."""
    basis = _basis(found, assessment)
    error = found.judged.percent_error[basis]
    return found.judged.percent_error[basis.other] if error is None else error


def _basis(found: TargetAssessment, assessment: Assessment) -> Basis:
    """What judges a reading: of a part by itself its nominal value."""
    alone = isinstance(found.measurement.target, PartAlone)
    return NOMINAL if alone else assessment.against.run.sheet.judge.against


def _calculated(found: TargetAssessment, assessment: Assessment) -> float:
    """The size of the value that it is judged against, in the SI unit; 0 where there is none."""
    basis = _basis(found, assessment)
    values = {NOMINAL: found.judged.nominal.value, MEASURED: found.judged.measured.value}
    return abs(values[basis] or values[basis.other] or 0.0)


def _chart(loaded: LoadedRun, assessment: Assessment, ordered: Iterable[TargetAssessment]) -> Deviations | None:
    """The deviation of every reading with a percent error, in order of trouble."""
    found = []
    for one in ordered:
        error, calculated = _error(one, assessment), _calculated(one, assessment)
        if error is None or not calculated:
            continue
        expanded = 100.0 * (one.judged.expanded or 0.0) / calculated
        mark = Mark(one.judged.outcome, one.judged.verdict.value)
        name = plan.title(one.measurement.target, loaded.core.sheet)
        found.append(Deviation(_short(name), error, expanded, mark.word, mark.sign, mark.kind))
    return deviations(found, 100.0 * as_ratio(assessment.against.run.sheet.judge.limit)) if found else None


def _short(name: str) -> str:
    return name if len(name) <= 28 else f"{name[:27]}…"


def _uncertain(loaded: LoadedRun, assessment: Assessment, one: TargetAssessment) -> Uncertain:
    judged, target = one.judged, one.measurement.target
    error = _error(one, assessment)
    by_uncertainty = _normalised(judged, assessment)
    return Uncertain(
        name=plan.title(target, loaded.core.sheet),
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


def _accounts(loaded: LoadedRun, assessment: Assessment) -> Iterator[Uncertain]:
    """The loops and nodes that are closed."""
    for account in assessment.laws:
        made = budget.of_account(account)
        if made is None:
            continue
        share, size = account.residual_percent, abs(account.normalised_error or 0.0)
        yield Uncertain(
            name=account_in_setup(account, loaded.core.sheet),
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
    tolerance = sheet.parts[target.part].tolerance if isinstance(target, PartAlone) else None
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
    said = "within" if size <= 1.0 else "just beyond" if size <= 1.5 else "beyond"
    return f"|E| = {size:.2g}, {said}"


def _worst(assessment: Assessment, target: Target) -> str:
    """The limits that tolerances allow at the very worst, of a calculated value."""
    found = budget.worst_case(assessment, target)
    return f"{rounded(found[0], None, target.unit)} to {rounded(found[1], None, target.unit)}" if found else ""
