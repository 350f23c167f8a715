"""What would explain a run: the ranking in words; what each cause explains, leaves, and what corrects it."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from recensor.core.faults.after_correction import (
    AfterCorrection,
    anything_outside,
    is_outside_reading,
    outcome_in_words,
)
from recensor.core.faults.candidate import Candidate, FaultContext, reading_at
from recensor.core.faults.cause import Cause, Explanation, Rival, named, value_written
from recensor.core.faults.claims import claims_that_do_not_follow
from recensor.core.faults.context import fault_context
from recensor.core.faults.correction import Correction
from recensor.core.faults.fault_kinds import Family, FaultKind
from recensor.core.faults.next_measurement import NextMeasurement, are_told_apart, next_measurement
from recensor.core.faults.ranking import Indistinguishable, Ranking, rank
from recensor.core.faults.weighing import MISFIT, ORDINARY, Scored
from recensor.core.figures import rounded
from recensor.core.judgement import Assessment, Verdict
from recensor.core.quantity import CURRENT, OHM, VOLTAGE
from recensor.core.sentences import say, several
from recensor.core.solving import NetworkError
from recensor.core.uncertainty import COVERAGE_FACTOR

# Something is said only where a cause is so many times likelier than that nothing is wrong.
ODDS = 10.0

# How many causes are told, and the least share that is worth a word; of names that come to the same, how many.
MOST_CAUSES, _LEAST_SHARE, _MOST_NAMES = 5, 0.05, 5

# A slip of the pen is named beside a reading that does not fit where it has at least so much of its weight.
_WORTH_NAMING = 0.01

# The next reading is to decide between the causes, and so many that come to the same as each by what was read.
_BESIDE = 3

# So many readings that do not fit are named, and the others counted.
_FEW = 3


def explain(assessment: Assessment) -> Explanation:
    """What would explain a judged run. Pure; a run that says nothing has no causes.

    Nothing is said while nothing is wrong: a cause must be `ODDS` times as likely. What does not fit, and is explained
    by nothing, is itself what is told.
    """
    claims = tuple(_of_claim(one) for one in claims_that_do_not_follow(assessment))
    is_outside = bool(claims) or anything_outside(assessment)
    return replace(_explain(assessment, claims, is_outside=is_outside), is_outside=is_outside)


def _explain(assessment: Assessment, claims: tuple[Cause, ...], *, is_outside: bool) -> Explanation:
    """What would explain what was read, beside claims that do not follow."""
    try:
        context = fault_context(assessment)
        if context is None or not (is_outside or _is_anything_odd(context)):
            return Explanation(claims[:MOST_CAUSES])
        ranking = rank(context)
    except NetworkError:  # values too far apart to be counted with: nothing can be said of them
        return Explanation(claims[:MOST_CAUSES])
    return _Telling(ranking, claims).explanation()


def _is_anything_odd(context: FaultContext) -> bool:
    """Whether any reading is far from what all others say of it: else there is nothing to remark upon."""
    return bool(context.observed.over_range or (np.abs(context.odd) > MISFIT).any())


class _Telling:
    """A ranking in words."""

    def __init__(self, ranking: Ranking, claims: tuple[Cause, ...]) -> None:
        self.ranking = ranking
        self.context: FaultContext = ranking.context
        self.claims = claims
        self.misfitting = self._misfitting()
        self.ranking = ranking.without_idle(self._explains)

    def explanation(self) -> Explanation:
        """What is told: causes that are likely, explain something and make nothing worse; else what does not fit."""
        ranking = self.ranking
        best = max((e.log for e in ranking.entries), default=-math.inf)
        nothing, none = ranking.share(ranking.fine), ranking.share(ranking.none)
        if max(best, ranking.none) - ranking.fine < math.log(ODDS):
            odd = max((ranking.nothing, ranking.ordinary), key=lambda one: one.log)
            causes = self._disturbance() or self._unexplained(odd, nothing, outside_only=True)
            return Explanation((*self.claims, *causes)[:MOST_CAUSES], nothing, none, left_out=ranking.left_out)
        told = [
            entry
            for entry in ranking.entries
            if ranking.share(entry.log) >= _LEAST_SHARE and self._explains(entry.leader) and self._is_better(entry)
        ][:MOST_CAUSES]
        next_reading, rival = self._next(told)
        named_once: dict[str, Cause] = {}  # what is told with one is not told again with another
        for k, entry in enumerate(told):
            for cause in self._causes(entry, next_reading, k):
                named_once.setdefault(cause.token, cause)
        if ranking.none_of_these and (not told or ranking.none > told[0].log or none >= _LEAST_SHARE):
            unexplained = self._unexplained(ranking.none_of_these, none, outside_only=False)
            is_first = not told or ranking.none > told[0].log
            causes = [*unexplained, *named_once.values()] if is_first else [*named_once.values(), *unexplained]
        else:
            causes = list(named_once.values())
        return Explanation(
            (*self.claims, *causes)[:MOST_CAUSES],
            nothing,
            none,
            next=next_reading,
            rival=rival,
            left_out=ranking.left_out,
        )

    def _misfitting(self) -> tuple[int, ...]:
        """The readings that do not fit while nothing is wrong: outside; else far from what all others say."""
        context, nothing = self.context, self.ranking.nothing
        outside = {r.index for r in context.assessment.readings if is_outside_reading(r.judged)}
        away = np.abs(nothing.misfits) > MISFIT
        odd = {int(context.observed.indexes[k]) for k in np.flatnonzero(away)} if not outside else set()
        over = {
            over_range.index
            for over_range, fits in zip(context.observed.over_range, nothing.over_fits, strict=True)
            if not fits
        }
        return tuple(sorted(outside | odd | over))

    def _explains(self, weighed: Scored) -> bool:
        return any(self._fits(weighed, index) for index in self.misfitting)

    def _fits(self, weighed: Scored, index: int) -> bool:
        """Whether a reading fits with a hypothesis; one that is said to be no reading of this point does.

        One that stays mildly odd does where it comes near with it.
        """
        place = self._place(index)
        if place is not None:
            if place in weighed.excuses.mild:
                return weighed.comes_near(place, self.ranking.nothing)
            return weighed.fits_at(place)
        over = [
            fits
            for over_range, fits in zip(self.context.observed.over_range, weighed.over_fits, strict=True)
            if over_range.index == index
        ]
        return all(over)

    def _fitting(self, weighed: Scored) -> tuple[int, int]:
        """How many readings fit, and how many there are."""
        observed = self.context.observed
        fits = sum(map(weighed.fits_at, range(observed.count))) + sum(weighed.over_fits)
        return fits, observed.count + len(observed.over_range)

    def _is_better(self, entry: Indistinguishable) -> bool:
        """Whether with its correction no less agrees than now."""
        return AfterCorrection.of(self.context.assessment, self._corrections(entry.leader)).is_better

    def _corrections(self, weighed: Scored) -> list[Correction | None]:
        return [correction for _, _, _, correction in self._fitted(weighed)]

    def _fitted(self, weighed: Scored) -> Iterator[tuple[Candidate, float | None, float | None, Correction | None]]:
        """Each hypothesis with its value, the expanded uncertainty of it, and its correction by that value."""
        slot = 0
        for candidate in weighed.candidates:
            value, spread = self._value(weighed, candidate, slot)
            slot += candidate.fitted
            expanded = None if spread is None else COVERAGE_FACTOR * spread
            written = value_written(value, expanded, _unit(candidate))
            correction = candidate.correction
            if correction is not None and value is not None:
                correction = correction.with_value(value, _unit(candidate), written)
            yield candidate, value, expanded, correction

    def _value(self, weighed: Scored, candidate: Candidate, slot: int) -> tuple[float | None, float | None]:
        """What was fitted with its standard deviation, or what is proposed.

        What a part is comes to its own deviation and the fitted one together.
        """
        number, model = candidate.number, self.context.model
        if number is None or not candidate.fitted:
            return candidate.value, None
        weights = np.zeros(len(weighed.at))
        weights[model.own_places().start + slot] = 1.0
        fitted = weighed.own[slot][0]
        if number.part is not None:
            p = model.names.parts.index(number.part)
            weights[p] = 1.0
            fitted += float(weighed.spreads[p] * weighed.at[p])
        weights *= weighed.spreads
        spread = math.sqrt(max(float(weights @ weighed.covariance @ weights), 0.0))
        return number.of(fitted), number.spread(fitted, spread)

    def _next(self, told: Sequence[Indistinguishable]) -> tuple[NextMeasurement | None, Rival | None]:
        """The reading that tells the leading causes apart, and from nothing wrong; and the first one's likeliest rival.

        What comes to the same by what was read so far may be told apart by it as well.
        """
        ranking = self.ranking
        weighed = [*(entry.leader for entry in told), *(one for entry in told for one in entry.others[:_BESIDE])]
        hypotheses = [(scored.candidates, ranking.share(scored.log)) for scored in weighed]
        fine = ranking.share(ranking.fine)
        best = next_measurement(self.context, [*hypotheses, ((ORDINARY,), max(fine, 1e-3))]) if weighed else None
        if best is None:
            return None, None
        apart = [k for k in range(len(weighed)) if are_told_apart(best.predictions[0], best.predictions[k])]
        if not apart:
            return best, None
        other = max(apart, key=lambda k: weighed[k].log)
        name = " and ".join(named(candidate.kind, candidate.targets) for candidate in weighed[other].candidates)
        return best, Rival(name, best.predictions[other])

    def _causes(self, entry: Indistinguishable, next_reading: NextMeasurement | None, place: int) -> list[Cause]:
        """An entry as causes: one, or two together."""
        leader = entry.leader
        leaves = tuple(k for k in self.misfitting if not self._fits(leader, k))
        explains = tuple(k for k in self.misfitting if k not in leaves)
        fits, of = self._fitting(leader)
        same, more = _same(entry)
        consequences = AfterCorrection.of(self.context.assessment, self._corrections(leader))
        are_two = len(leader.candidates) > 1
        causes = []
        for candidate, value, expanded, correction in self._fitted(leader):
            words = candidate.words.filled(value_written(value, expanded, _unit(candidate)))
            then = "" if are_two else self._then(leader, consequences)
            causes.append(
                Cause(
                    candidate.kind,
                    candidate.targets,
                    value,
                    expanded,
                    _unit(candidate),
                    explains,
                    leaves,
                    self.ranking.share(entry.log),
                    several(words, then),
                    same=same,
                    more=more,
                    agreeing=tuple(k for k in explains if k not in consequences.outside),
                    correction=correction,
                    next=next_reading.target if next_reading else None,
                    predicts=next_reading.predictions[place] if next_reading else None,
                    fits=fits,
                    of=of,
                    together=are_two,
                )
            )
        if are_two:
            together = say("faults.together_fit", fits=fits, of=of)
            causes = [
                replace(c, text=several(say("faults.and_other", first=c.text, other=other.text), together))
                for c, other in zip(causes, reversed(causes), strict=True)
            ]
        return causes

    def _then(self, leader: Scored, consequences: AfterCorrection) -> str:
        """What the books would say with it; where the meter is part of it, with what that does."""
        fits, of = self._fitting(leader)
        if consequences.after is None:
            return say("faults.with_that_readings_fit", fits=fits, of=of)
        left = [index for index in self.misfitting if index in consequences.outside and self._fits(leader, index)]
        outcome = say("faults.with_that", outcome=outcome_in_words(consequences.after))
        disturbed = next((k for k in map(self._place, left) if k is not None and self._meter_turns(leader, k)), None)
        if disturbed is None:
            return outcome
        ohms = self.context.model.meter_ohms(leader.at, disturbed)
        key = "ammeter" if self.context.observed.measurands[disturbed] is CURRENT else "voltmeter"
        meter = say(f"faults.{key}_as_well", value=rounded(ohms, 0.1 * ohms, OHM))
        return several(outcome, meter, say("faults.with_both_readings_fit", fits=fits, of=of))

    def _place(self, index: int) -> int | None:
        places = np.flatnonzero(self.context.observed.indexes == index)
        return int(places[0]) if len(places) else None

    def _meter_turns(self, leader: Scored, place: int) -> bool:
        """Whether a reading fits only with what the meter does to its circuit."""
        apart = abs(float(leader.values[place] - leader.there[place]))
        return apart > MISFIT * float(leader.scales[place]) and self.context.observed.target(place).in_circuit

    def _disturbance(self) -> list[Cause]:
        """An ordinary meter's own disturbance, where it explains a verdict that is outside."""
        context, ordinary = self.context, self.ranking.ordinary
        outside = [t for t in context.assessment.targets.values() if t.judged.verdict is Verdict.OUTSIDE]
        if not outside or ordinary.log - self.ranking.nothing.log < math.log(ODDS):
            return []
        causes = []
        for measurand, kind, words in (
            (CURRENT, FaultKind.AMMETER_RESISTANCE, say("faults.ammeters_own_resistance_lowers")),
            (VOLTAGE, FaultKind.VOLTMETER_LOADING, say("faults.voltmeters_input_loads_what")),
        ):
            indexes = tuple(
                k for t in outside if t.measurement.target.measurand is measurand for k in t.measurement.indexes
            )
            if indexes and all(self._fits(ordinary, k) for k in indexes):
                fits, of = self._fitting(ordinary)
                share, targets = self.ranking.share(ordinary.log), tuple(map(reading_at, indexes))
                text = several(words, say("faults.with_that_readings_fit", fits=fits, of=of))
                causes.append(Cause(kind, targets, None, None, OHM, indexes, (), share, text, fits=fits, of=of))
        return causes

    def _unexplained(self, weighed: Scored, share: float, *, outside_only: bool) -> list[Cause]:
        """The readings that do not fit what the others say: themselves what is found; the farthest off first."""
        observed = self.context.observed
        places = sorted(weighed.excuses.places, key=lambda k: -abs(weighed.misfits[k]))
        if outside_only and not set(observed.indexes[places].tolist()) & set(self.misfitting):
            return []
        if not places:
            return []
        indexes = tuple(int(observed.indexes[k]) for k in places)
        texts = []
        for k in places[:_FEW]:
            there = float(weighed.there[k])
            own = math.hypot(float(weighed.scales[k]), 1e-3 * abs(there))
            others = rounded(there, COVERAGE_FACTOR * own, observed.target(k).unit)
            texts.append(say("faults.does_not_fit", said=self.context.said(k), fits=others))
        if len(places) > _FEW:
            texts.append(say("faults.more_do_not_fit", count=len(places) - _FEW))
        texts.append(say("faults.read_again"))
        first, spread = places[0], float(weighed.scales[places[0]])
        fits, of = self._fitting(weighed)
        return [
            Cause(
                FaultKind.UNEXPLAINED,
                tuple(map(reading_at, indexes)),
                None,
                None,
                "",
                (),
                indexes,
                share,
                several(*texts),
                same=self._slips(indexes),
                next=observed.target(first),
                predicts=(float(weighed.shown[first]), spread),
                fits=fits,
                of=of,
            )
        ]

    def _slips(self, indexes: Sequence[int]) -> tuple[tuple[FaultKind, str], ...]:
        """What may have been written of these readings otherwise than it was shown, though it is not likely enough."""
        places, found = set(map(reading_at, indexes)), dict[tuple[FaultKind, str], None]()
        for entry in self.ranking.entries:
            if self.ranking.share(entry.log) < _WORTH_NAMING:
                continue
            for scored in (entry.leader, *entry.others):
                for one in scored.candidates:
                    if one.kind.family is Family.BOOK and places.issuperset(one.targets):
                        found.update(dict.fromkeys((one.kind, target) for target in one.targets))
        return tuple(found)[:_MOST_NAMES]


def _unit(candidate: Candidate) -> str:
    return candidate.number.unit if candidate.number and candidate.fitted else candidate.unit


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


def _of_claim(claim: tuple[int, str]) -> Cause:
    index, text = claim
    return Cause(FaultKind.CLAIM, (f"claims[{index}]",), None, None, "", (), (), 1.0, text)
