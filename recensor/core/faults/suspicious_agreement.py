"""Coincidences that are too many: readings that look worked out rather than read.

Every one of them happens honestly, and its chance is told: a total equals the sum of its parts in a third or more of
honest benches, since one gain is in all of them. Something is only said where several come together and all of that
has less than one chance in a thousand.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from recensor.core.judgement import Account, Assessment
from recensor.core.quantity import VOLTAGE
from recensor.core.sentences import say
from recensor.core.uncertainty import resolution_uncertainty

# Below this chance something is said, and of no fewer coincidences.
UNLIKELY, FEWEST = 1e-3, 2


@dataclass(frozen=True)
class Coincidence:
    """Something that happens honestly with this chance; `indexes` of the readings concerned."""

    text: str
    chance: float
    indexes: tuple[int, ...]


@dataclass(frozen=True)
class Coincidences:
    """Several of them with the chance of all together."""

    found: tuple[Coincidence, ...]
    chance: float


def coincidences(assessment: Assessment) -> Coincidences | None:
    """What is too exact to be chance, neutrally told; None in all but one honest run in a thousand."""
    found = [*_sums(assessment), *_alike(assessment), *_as_calculated(assessment)]
    told = [coincidence for coincidence in found if coincidence.chance < 1.0]
    if len(told) < FEWEST:
        return None
    together = combined([coincidence.chance for coincidence in told])
    return Coincidences(tuple(told), together) if together < UNLIKELY else None


def combined(chances: Sequence[float]) -> float:
    """The chance of several independent findings of these chances, or of any more unlikely (Fisher's method).

    Examples
    --------
    >>> round(combined([0.1, 0.1]), 4), round(combined([0.5]), 4)
    (0.0561, 0.5)
    """
    half = -sum(math.log(max(chance, 1e-300)) for chance in chances)
    term = whole = 1.0
    for k in range(1, len(chances)):
        term *= half / k
        whole += term
    return math.exp(-half) * whole


def _sums(assessment: Assessment) -> Iterator[Coincidence]:
    """Loops whose drops add up to the source to the last digit."""
    for account in assessment.laws:
        if account.law is VOLTAGE and account.residual is not None and account.expanded and len(account.terms) > 2:
            digit = _coarsest(account, assessment)
            if abs(account.residual) < 0.5 * digit:
                chance = _within(0.5 * digit, account.expanded / 2.0)
                around = " · ".join(account.around)
                indexes = tuple(k for term in account.terms for k in term.sources)
                yield Coincidence(say("faults.loop_closes_last_digit", around=around), chance, indexes)


def _coarsest(account: Account, assessment: Assessment) -> float:
    readings = assessment.against.run.readings
    return max(float(readings[k].value.resolution or 0) for term in account.terms for k in term.sources)


def _within(half: float, standard: float) -> float:
    """The chance of a normal deviation to lie within ± `half`."""
    return math.erf(half / (standard * math.sqrt(2.0))) if standard else 1.0


def _alike(assessment: Assessment) -> Iterator[Coincidence]:
    """Trials that are the same though they were written finer than the meter steps."""
    run, measurements = assessment.against.run, assessment.against.measurements
    for target_assessment in assessment.targets.values():
        indexes = target_assessment.measurement.indexes
        if len(indexes) < 2 or len(set(target_assessment.measurement.values)) > 1:
            continue
        reading = run.readings[indexes[0]]
        resolution, precision = float(reading.value.resolution or 0), measurements.meters.of(reading)
        step = math.sqrt(max(precision.by_digits**2 - resolution_uncertainty(resolution) ** 2, 0.0))
        if resolution and step > 3.0 * resolution:
            chance = min(1.0, resolution / (step * math.sqrt(2.0 * math.pi))) ** (len(indexes) - 1)
            words = target_assessment.measurement.target.words
            text = say("faults.trials_same_digit_finer", indexes=len(indexes), words=words)
            yield Coincidence(text, chance, indexes)


def _as_calculated(assessment: Assessment) -> Iterator[Coincidence]:
    """Readings that are just what is calculated from nominal values, among all that could have been."""
    measurements = assessment.against.measurements
    chances, same = [], []
    for reading in assessment.readings:
        quantity = assessment.against.run.readings[reading.index]
        calculated, value = reading.judged.nominal, reading.judged.value
        resolution = float(quantity.value.resolution or 0)
        if not reading.standing.stands or value is None or not calculated.value or not resolution:
            continue
        if not quantity.target.in_circuit and not calculated.spread:
            continue
        taken = measurements.taken(reading.index)
        own = taken.spread.standard if taken else 0.0
        spread = math.hypot(own, calculated.standard or 0.0)
        if not spread:
            continue
        chances.append(min(1.0, resolution / (spread * math.sqrt(2.0 * math.pi))))
        if abs(value - calculated.value) <= 0.5 * resolution * (1.0 + 1e-9):
            same.append(reading.index)
    expected = sum(chances)
    if len(same) > 1 and chances:
        chance = at_least(len(same), chances)
        text = say("faults.readings_just_what_calculated", same=len(same), chances=len(chances), expected=expected)
        yield Coincidence(text, chance, tuple(same))


def at_least(count: int, chances: Sequence[float]) -> float:
    """The chance that so many of independent events happen, or more.

    Examples
    --------
    >>> round(at_least(2, [0.5, 0.5]), 4), at_least(0, [0.1])
    (0.25, 1.0)
    """
    exactly = [1.0]
    for chance in chances:
        exactly = [
            (exactly[k] if k < len(exactly) else 0.0) * (1.0 - chance) + (exactly[k - 1] * chance if k else 0.0)
            for k in range(len(exactly) + 1)
        ]
    return min(1.0, math.fsum(exactly[count:]))
