"""The reading that settles it: where the leading hypotheses disagree most for the least work of hands.

The value of a reading is the entropy that it takes from what is believed of the hypotheses (Lindley, 1956, "On a
measure of the information provided by an experiment", from memory).
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Target
from recensor.core.faults.candidate import Candidate, FaultContext
from recensor.core.faults.model.evidence import refined
from recensor.core.faults.model.observations import observe
from recensor.core.faults.model.prediction import FaultModel
from recensor.core.figures import to_four_figures
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Reading
from recensor.core.solving import OPEN_OHMS
from recensor.core.uncertainty import Array

# Work of hands for one reading (common practice, no source): a voltage takes two touches; a resistance of the circuit
# takes the supply off and on; for a current the loop is opened; a part by itself is taken out and put back.
_MOVES_VOLTS, _MOVES_OHMS, _MOVES_AMPS, _MOVES_ALONE = 1.0, 3.0, 4.0, 4.0

# So many points of a Gauss–Hermite rule for each hypothesis.
_NODES = 60

_AT, _WEIGHTS = np.polynomial.hermite_e.hermegauss(_NODES)
_WEIGHTS = _WEIGHTS / _WEIGHTS.sum()

# Less than this, in nats, is not worth a reading.
_WORTH = 0.05

_MOST_POINTS = 60

# A reading tells two hypotheses apart where they predict it so many standard deviations from each other.
_APART = 2.0

# In SI units, with its standard deviation; None for over-range.
Prediction = tuple[float, float] | None


@dataclass(frozen=True)
class NextMeasurement:
    """A point to read next: what each of the hypotheses predicts there.

    `gain` is the entropy taken away, in nats.
    """

    target: Target
    predictions: tuple[Prediction, ...]
    gain: float


def next_measurement(
    context: FaultContext, hypotheses: Sequence[tuple[tuple[Candidate, ...], float]]
) -> NextMeasurement | None:
    """The best point to read next, given hypotheses with their shares; None where no reading would tell."""
    targets = _readable(context)
    shares = np.array([share for _, share in hypotheses])
    if len(hypotheses) < 2 or not targets or shares.sum() <= 0:
        return None
    means, variances, limits = _predicted(context, [some for some, _ in hypotheses], targets)
    over = np.abs(means) > limits
    gains = np.array(
        [information(shares / shares.sum(), means[:, k], variances[:, k], over[:, k]) for k in range(len(targets))]
    )
    worth = gains / np.array([_moves(target) for target in targets])
    best = int(np.argmax(worth))
    if gains[best] < _WORTH:
        return None
    said = [
        None if over[h, best] else (float(means[h, best]), float(np.sqrt(variances[h, best])))
        for h in range(len(hypotheses))
    ]
    return NextMeasurement(targets[best], tuple(said), float(gains[best]))


def information(shares: Array, means: Array, variances: Array, over: NDArray[np.bool_]) -> float:
    """The mutual information, in nats, of a reading and the hypotheses that predict it so: shapes (hypotheses,).

    What is over-range is one outcome for all that say so.

    Examples
    --------
    >>> even, apart = np.array([0.5, 0.5]), np.array([0.0, 100.0])
    >>> round(information(even, apart, np.ones(2), np.zeros(2, bool)), 4)  # certainty: one bit
    0.6931
    """
    shown = ~over
    found = 0.0
    beyond = float(shares[over].sum())
    if beyond > 0.0:
        found -= beyond * math.log(beyond)
    if not shown.any():
        return max(0.0, found)
    p, m, v = shares[shown], means[shown], np.maximum(variances[shown], 1e-30)
    at = m[:, None] + np.sqrt(v)[:, None] * _AT
    logs = -0.5 * ((at[:, :, None] - m) ** 2 / v + np.log(v))
    mixed = np.logaddexp.reduce(logs + np.log(np.maximum(p, 1e-300)), axis=2)
    own = logs[np.arange(len(p)), :, np.arange(len(p))]
    found += float((p[:, None] * _WEIGHTS * (own - mixed)).sum())
    return max(0.0, found)


def _readable(context: FaultContext) -> list[Target]:
    """The points that can be read, or read again."""
    targets: list[Target] = []
    for point in context.observed.points:
        target = point.target
        if point.left_in or target.is_leads:
            continue
        if target.setup is None or target.setup in context.setups or target.is_part_alone:
            targets.append(target)
    return targets[:_MOST_POINTS]


def are_told_apart(one: Prediction, other: Prediction) -> bool:
    """Whether a reading would tell which of two predictions holds; over-range is far from any number."""
    if one is None or other is None:
        return one is not other
    return abs(one[0] - other[0]) >= _APART * math.hypot(one[1], other[1])


def _pretended(context: FaultContext, target: Target) -> Reading:
    """A reading as it may be written: with the digits of the last one there, unless that is of another size."""
    should = abs(context.should(target) or 1.0)
    before = [reading for reading in context.observed.readings if reading.target == target]
    if before and 0.5 * should <= abs(float(before[-1].value)) <= 2.0 * should:
        return before[-1]
    return Reading(target, to_four_figures(max(should, 1e-9), target.unit))


def _predicted(
    context: FaultContext, hypotheses: Sequence[tuple[Candidate, ...]], targets: Sequence[Target]
) -> tuple[Array, Array, Array]:
    """What each hypothesis predicts at each point, with its variance, and beyond what a display shows over-range."""
    pretended = [_pretended(context, target) for target in targets]
    observed = observe(context.run, context.observed.measurements, points=context.observed.points, asked=pretended)
    model = FaultModel(observed)
    batch = model.batch(len(hypotheses))
    for h, candidates in enumerate(hypotheses):
        for candidate in candidates:
            for change in candidate.changes:
                change.write(batch, h, 0)
    evidence = refined(model, batch)
    asked = slice(context.observed.count, None)
    limits = np.array([OPEN_OHMS if t.measurand is RESISTANCE else np.inf for t in targets])
    return evidence.predicted.shown[:, asked], (evidence.by_unknowns + evidence.predicted.variances)[:, asked], limits


def _moves(target: Target) -> float:
    if target.is_part_alone:
        return _MOVES_ALONE
    if target.is_through:
        return _MOVES_AMPS
    return _MOVES_OHMS if target.measurand is RESISTANCE else _MOVES_VOLTS
