"""What would explain a run: the race in words; what each cause explains, leaves, and what corrects it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

import numpy as np

from recensor.core.circuit import Target
from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.claims import claims_that_do_not_follow
from recensor.core.faults.context import fault_context
from recensor.core.faults.correction import Correction, Restated
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.model.prediction import FaultModel
from recensor.core.faults.next_measurement import NextMeasurement, Prediction, are_told_apart, next_measurement
from recensor.core.faults.nonlinear import NonlinearCause, nonlinear_causes
from recensor.core.faults.ranking import MISFIT, ORDINARY, Indistinguishable, Ranking, Scored, rank
from recensor.core.figures import rounded, stated, to_four_figures
from recensor.core.judgement import AccountVerdict, Assessment, Outcome, Verdict, Warned, assess
from recensor.core.quantity import CURRENT, OHM, VOLTAGE
from recensor.core.record import RecordError, Run, check
from recensor.core.sentences import say, several
from recensor.core.solving import NetworkError
from recensor.core.uncertainty import COVERAGE_FACTOR

# Something is said only where a cause is so many times likelier than that nothing is wrong.
ODDS = 10.0

# How many causes are told, and the least share that is worth a word; of names that come to the same, how many.
MOST_CAUSES, _LEAST_SHARE, _MOST_NAMES = 5, 0.01, 5

# The next reading is to decide between the causes, and so many that come to the same as each by what was read.
_BESIDE = 3


@dataclass(frozen=True)
class Cause:
    """One cause.

    Attributes
    ----------
    targets : what is concerned, as places of a run document.
    value : what was fitted or is proposed, in the SI `unit`, with its expanded uncertainty; None where there is none.
    explains, leaves : indexes of readings that do not fit by themselves: those that do with it, and the others.
    score : its share of all weight, nothing wrong included.
    same : other kinds and targets that come to the same by what was read; `more` counts those that are not listed.
    predicts : what it predicts at the next reading; None for over-range, or no reading.
    fits : how many of all readings fit with it, out of `of`.
    """

    kind: FaultKind
    targets: tuple[str, ...]
    value: float | None
    uncertainty: float | None
    unit: str
    explains: tuple[int, ...]
    leaves: tuple[int, ...]
    score: float
    text: str
    same: tuple[tuple[FaultKind, str], ...] = ()
    more: int = 0
    correction: Correction | None = None
    next: Target | None = None
    predicts: Prediction = None
    fits: int = 0
    of: int = 0
    together: bool = False

    @property
    def token(self) -> str:
        """What names it among the causes of its run."""
        return f"{self.kind}:{','.join(self.targets)}"

    @property
    def written(self) -> str:
        """Its value with its unit, down to the digits that mean something; empty where there is none."""
        return _written(self.value, self.uncertainty, self.unit)

    @property
    def name(self) -> str:
        """It in a few words: what is concerned, its kind and its value."""
        words = _named(self.kind, self.targets)
        return f"{words}, {self.written}" if self.written else words


@dataclass(frozen=True)
class Rival:
    """What the next reading tells from the first cause: another, in a few words, and what that predicts there."""

    name: str
    predicts: Prediction


@dataclass(frozen=True)
class Explanation:
    """What can be said of why a run does not fit.

    `nothing_wrong` and `none_of_these` are shares of all weight; `is_explained` whether the first cause stands by
    itself, rather than being the best of what leaves something. `left_out` counts hypotheses that there was no room to
    weigh.
    """

    causes: tuple[Cause, ...] = ()
    nothing_wrong: float = 1.0
    none_of_these: float = 0.0
    is_explained: bool = True
    next: NextMeasurement | None = None
    rival: Rival | None = None
    left_out: int = 0

    @property
    def warnings(self) -> tuple[Warned, ...]:
        """What is to be said of the search itself."""
        if not self.left_out:
            return ()
        return (Warned("readings", say("faults.causes_or_parts_left", left_out=self.left_out)),)


def explain(assessment: Assessment) -> Explanation:
    """What would explain a judged run. Pure; a run that says nothing has no causes.

    Nothing is said while nothing is wrong: a cause must be `ODDS` times as likely.
    """
    claims = tuple(_of_claim(one) for one in claims_that_do_not_follow(assessment))
    nonlinear, fine = nonlinear_causes(assessment)
    if nonlinear:
        straight = _explain(assessment, claims)
        causes = (*straight.causes, *(_of_nonlinear(cause) for cause in nonlinear))
        return replace(straight, causes=causes[:MOST_CAUSES], nothing_wrong=min(straight.nothing_wrong, fine))
    return _explain(assessment, claims)


def _of_nonlinear(cause: NonlinearCause) -> Cause:
    """A cause in a circuit with lamps or diodes."""
    return Cause(
        cause.kind,
        (cause.target,),
        None,
        None,
        "",
        cause.explains,
        cause.leaves,
        cause.score,
        cause.words,
        same=cause.same,
    )


def _explain(assessment: Assessment, claims: tuple[Cause, ...]) -> Explanation:
    """What would explain what was read in circuits of straight parts, beside claims that do not follow."""
    try:
        context = fault_context(assessment)
        if context is None:
            return Explanation(claims[:MOST_CAUSES])
        ranking = rank(context)
    except NetworkError:  # values too far apart to be counted with: nothing can be said of them
        return Explanation(claims[:MOST_CAUSES])
    fine = float(np.logaddexp(ranking.nothing.log, ranking.ordinary.log))
    best = max((e.log for e in ranking.entries), default=-math.inf)
    nothing = ranking.share(fine)
    if max(best, ranking.none_of_these.log) - fine < math.log(ODDS):
        disturbed = _disturbance(ranking)
        return Explanation((*claims, *disturbed)[:MOST_CAUSES], nothing, left_out=ranking.left_out)
    none = ranking.share(ranking.none_of_these.log)
    told = [e for k, e in enumerate(ranking.entries) if k == 0 or ranking.share(e.log) >= _LEAST_SHARE]
    told = told[:MOST_CAUSES]
    next_reading, rival = _next(ranking, told)
    named: dict[str, Cause] = {}  # what is told with one is not told again with another
    for k, entry in enumerate(told):
        for cause in _causes(ranking, entry, next_reading, k):
            named.setdefault(cause.token, cause)
    causes = list(named.values())
    explained = best >= ranking.none_of_these.log
    return Explanation(
        (*claims, *causes)[:MOST_CAUSES], nothing, none, explained, next_reading, rival, ranking.left_out
    )


def _next(ranking: Ranking, told: Sequence[Indistinguishable]) -> tuple[NextMeasurement | None, Rival | None]:
    """The reading that tells the leading causes apart, and from that nothing is wrong; the first one's likeliest rival.

    What comes to the same by what was read so far may be told apart by it as well.
    """
    weighed = [*(entry.leader for entry in told), *(scored for entry in told for scored in entry.others[:_BESIDE])]
    fine = ranking.share(float(np.logaddexp(ranking.nothing.log, ranking.ordinary.log)))
    hypotheses = [(scored.candidates, ranking.share(scored.log)) for scored in weighed]
    best = next_measurement(ranking.context, [*hypotheses, ((ORDINARY,), max(fine, 1e-3))])
    if best is None:
        return None, None
    apart = [k for k in range(len(weighed)) if are_told_apart(best.predictions[0], best.predictions[k])]
    if not apart:
        return best, None
    other = max(apart, key=lambda k: weighed[k].log)
    name = " and ".join(_named(candidate.kind, candidate.targets) for candidate in weighed[other].candidates)
    return best, Rival(name, best.predictions[other])


def _named(kind: FaultKind, targets: Sequence[str]) -> str:
    """A kind with the parts that are concerned."""
    parts = dict.fromkeys(t.split(".")[1] for t in targets if not t.startswith(("readings", "claims")))
    return f"{' and '.join(parts)}: {kind}" if parts else str(kind)


def _causes(
    ranking: Ranking, entry: Indistinguishable, next_reading: NextMeasurement | None, place: int
) -> list[Cause]:
    """An entry as causes: one, or two together."""
    leader = entry.leader
    score, misfitting = ranking.share(entry.log), _misfitting(ranking)
    leaves = tuple(k for k in misfitting if not _fits(ranking.context, leader, k))
    explains = tuple(k for k in misfitting if k not in leaves)
    fits, of = _fitting(ranking.context, leader)
    causes, slot = [], 0
    predicts = next_reading.predictions[place] if next_reading else None
    same, more = _same(entry)
    for candidate in leader.candidates:
        value, spread, unit = _value(ranking.context.model, leader, candidate, slot)
        slot += candidate.fitted
        expanded = None if spread is None else COVERAGE_FACTOR * spread
        written = _written(value, expanded, unit)
        correction = _with_value(candidate.correction, value, unit, written)
        words = candidate.words.filled(written)
        consequence = "" if len(leader.candidates) > 1 else _consequence(ranking.context.run, correction, fits, of)
        causes.append(
            Cause(
                candidate.kind,
                candidate.targets,
                value,
                expanded,
                unit,
                explains,
                leaves,
                score,
                several(words, consequence),
                same=same,
                more=more,
                correction=correction,
                next=next_reading.target if next_reading else None,
                predicts=predicts,
                fits=fits,
                of=of,
                together=len(leader.candidates) > 1,
            )
        )
    if len(causes) > 1:
        together = say("faults.together_fit", fits=fits, of=of)
        causes = [
            replace(c, text=several(say("faults.and_other", first=c.text, other=other.text), together))
            for c, other in zip(causes, reversed(causes), strict=True)
        ]
    return causes


def _value(
    model: FaultModel, weighed: Scored, candidate: Candidate, slot: int
) -> tuple[float | None, float | None, str]:
    """What was fitted with its standard deviation, or what is proposed.

    What a part is comes to its own deviation and the fitted one together.
    """
    number = candidate.number
    if number is None or not candidate.fitted:
        return candidate.value, None, candidate.unit
    weights = np.zeros(len(weighed.at))
    weights[model.own_places().start + slot] = 1.0
    fitted = weighed.own[slot][0]
    if number.part is not None:
        p = model.names.parts.index(number.part)
        weights[p] = 1.0
        fitted += float(weighed.spreads[p] * weighed.at[p])
    weights *= weighed.spreads
    spread = math.sqrt(max(float(weights @ weighed.covariance @ weights), 0.0))
    return number.of(fitted), number.spread(fitted, spread), number.unit


def _written(value: float | None, expanded: float | None, unit: str) -> str:
    """A value down to the digits that mean something; empty where there is none."""
    if value is None:
        return ""
    if not unit:
        return f"{value:.3g}"
    return stated(Decimal(f"{value:.6g}"), unit) if expanded is None else rounded(value, expanded, unit)


def _with_value(correction: Correction | None, value: float | None, unit: str, written: str) -> Correction | None:
    """A correction with the value that was fitted."""
    if not isinstance(correction, Restated) or value is None:
        return correction
    return replace(
        correction, words=correction.words.filled(written), value=correction.value or to_four_figures(value, unit)
    )


def _consequence(run: Run, correction: Correction | None, fits: int, of: int) -> str:
    """What the books would say with it."""
    after = correction.applied(run) if correction else run
    if after == run:
        return say("faults.with_that_readings_fit", fits=fits, of=of)
    try:
        check(after)
    except RecordError:
        return say("faults.with_that_readings_fit", fits=fits, of=of)
    return say("faults.with_that", outcome=outcome_in_words(assess(after)))


def outcome_in_words(assessment: Assessment) -> str:
    """How the books stand, in a few words: how many agree, and what the accounts say.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> outcome_in_words(assess(Run(one_line.read("9V: 1k + 2k"))))
    'nothing is judged'
    """
    outcomes = [t.judged.outcome for t in assessment.targets.values()]
    agree = outcomes.count(Outcome.AGREES)
    of = sum(outcome in (Outcome.AGREES, Outcome.OUTSIDE, Outcome.UNDECIDED) for outcome in outcomes)
    if not of:
        return say("faults.nothing_judged")
    texts = [say("faults.agree", agree=agree, of=of)]
    for law, word, words in ((VOLTAGE, "loop", "loops"), (CURRENT, "node", "nodes")):
        verdicts = [account.verdict for account in assessment.laws if account.law is law]
        closed = sum(v in (AccountVerdict.BALANCES, AccountVerdict.CLOSE) for v in verdicts)
        out = verdicts.count(AccountVerdict.OUT)
        if out:
            texts.append(say("faults.out", count=out, of=closed + out, words=words))
        elif closed:
            texts.append(
                say("faults.balances", word=word)
                if closed == 1
                else say("faults.all_balance", closed=closed, words=words)
            )
    return (
        texts[0] if len(texts) == 1 else say("faults.clauses_and_last", texts=", ".join(texts[:-1]), texts_2=texts[-1])
    )


def _misfitting(ranking: Ranking) -> tuple[int, ...]:
    """The readings that do not fit while nothing is said to be wrong: outside; else far from what all others say."""
    context = ranking.context
    outside = {
        r.index
        for r in context.assessment.readings
        if r.judged.outcome is Outcome.OUTSIDE or r.judged.verdict is Verdict.OUTSIDE
    }
    away = np.abs(ranking.nothing.misfits) > MISFIT
    odd = {int(context.observed.indexes[k]) for k in np.flatnonzero(away)} if not outside else set()
    over = {
        over_range.index
        for over_range, fits in zip(context.observed.over_range, ranking.nothing.over_fits, strict=True)
        if not fits
    }
    return tuple(sorted(outside | odd | over))


def _fits(context: FaultContext, weighed: Scored, index: int) -> bool:
    """Whether a reading fits with a hypothesis; one that is said to be no reading of this point does."""
    places = np.flatnonzero(context.observed.indexes == index)
    if len(places):
        return bool(abs(weighed.misfits[places[0]]) <= MISFIT)
    over = [
        fits
        for over_range, fits in zip(context.observed.over_range, weighed.over_fits, strict=True)
        if over_range.index == index
    ]
    return all(over)


def _fitting(context: FaultContext, weighed: Scored) -> tuple[int, int]:
    """How many readings fit, and how many there are."""
    fits = int((np.abs(weighed.misfits) <= MISFIT).sum()) + sum(weighed.over_fits)
    return fits, context.observed.count + len(context.observed.over_range)


def _same(entry: Indistinguishable) -> tuple[tuple[tuple[FaultKind, str], ...], int]:
    """Other names of what was read."""
    leader = entry.leader.candidates
    others = [candidate for other in entry.others for candidate in other.candidates]
    names = [[one] for candidate in leader for one in candidate.also]
    for candidate in others:
        names += [[(candidate.kind, target) for target in candidate.targets], *([one] for one in candidate.also)]
    said, told, count = {(c.kind, target) for c in leader for target in c.targets}, list[tuple[FaultKind, str]](), 0
    for name in names:
        new = [place for place in name if place not in said]
        said.update(new)
        count += bool(new)
        if count <= _MOST_NAMES:
            told += new
    return tuple(told), max(0, count - _MOST_NAMES)


def _disturbance(ranking: Ranking) -> list[Cause]:
    """An ordinary meter's own disturbance, where it explains a verdict that is outside."""
    context, ordinary = ranking.context, ranking.ordinary
    outside = [t for t in context.assessment.targets.values() if t.judged.verdict is Verdict.OUTSIDE]
    if not outside or ordinary.log - ranking.nothing.log < math.log(ODDS):
        return []
    causes = []
    for measurand, kind, words in (
        (CURRENT, FaultKind.AMMETER_RESISTANCE, say("faults.ammeters_own_resistance_lowers")),
        (VOLTAGE, FaultKind.VOLTMETER_LOADING, say("faults.voltmeters_input_loads_what")),
    ):
        indexes = tuple(
            k for t in outside if t.measurement.target.measurand is measurand for k in t.measurement.indexes
        )
        if indexes and all(_fits(context, ordinary, k) for k in indexes):
            fits, of = _fitting(context, ordinary)
            share, targets = ranking.share(ordinary.log), tuple(map(reading_at, indexes))
            text = several(words, say("faults.with_that_readings_fit", fits=fits, of=of))
            causes.append(Cause(kind, targets, None, None, OHM, indexes, (), share, text, fits=fits, of=of))
    return causes


def _of_claim(claim: tuple[int, str]) -> Cause:
    index, text = claim
    return Cause(FaultKind.CLAIM, (f"claims[{index}]",), None, None, "", (), (), 1.0, text)
