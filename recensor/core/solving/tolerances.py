"""What a circuit would show with other values, and how far its parts' tolerances let it go.

A voltage, current or resistance of such a circuit is a ratio of two functions that are linear in each
single value, so over a box of tolerances it is largest and smallest at corners.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from recensor.core.circuit import CURRENT_SOURCE
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand
from recensor.core.solving.laws import LAWS, Element
from recensor.core.solving.network import Network
from recensor.core.uncertainty import Array

SAMPLES = 10_000
MOST_CORNERS = 12

_TEST_CURRENT = "\0ohmmeter"


@dataclass(frozen=True)
class Variation:
    """A calculated quantity of one part, or the resistance that a source sees, in SI units.

    `now` with the present values, `then` with the changed ones; `worst` the limits that tolerances allow
    around the present ones (None with too many parts for their corners), `deviation` the standard deviation.
    """

    measurand: Measurand
    part: str
    now: float
    then: float
    worst: tuple[float, float] | None
    deviation: float


def vary(
    elements: Sequence[Element],
    reference: str,
    changed: Mapping[str, float],
    tolerances: Mapping[str, float],
    seed: int = 1,
) -> list[Variation]:
    """Every part's voltage and current, and what each voltage source sees, now and with `changed` values.

    `tolerances` are ratios; parts without one stay as they are. Within its tolerance every value is taken as
    equally likely. Raises the errors of `Network`.

    Examples
    --------
    >>> from recensor.core.circuit import RESISTOR, VOLTAGE_SOURCE
    >>> divider = [Element("V1", VOLTAGE_SOURCE, "a", "g", 9.0), Element("R1", RESISTOR, "a", "b", 1000.0),
    ...            Element("R2", RESISTOR, "b", "g", 2000.0)]
    >>> *_, drop, current = vary(divider, "g", {"R2": 1000.0}, {"R1": 0.1})
    >>> drop.part, round(drop.now, 3), drop.then, [round(limit, 3) for limit in drop.worst]
    ('R2', 6.0, 4.5, [5.806, 6.207])
    """
    present = np.array([e.value for e in elements])
    other = np.array([changed.get(e.name, e.value) for e in elements])
    loose = np.array([tolerances.get(e.name, 0.0) for e in elements])
    moving = np.flatnonzero(loose)
    corners = None
    if len(moving) <= MOST_CORNERS:
        signs = np.zeros((2 ** len(moving), len(present)))
        signs[:, moving] = list(product((-1.0, 1.0), repeat=len(moving)))
        corners = present * (1.0 + signs * loose)
    spread = np.random.default_rng(seed).uniform(-1.0, 1.0, (SAMPLES, len(present)))
    samples = present * (1.0 + spread * loose)
    sets = np.vstack([present, other, *([] if corners is None else [corners]), samples])
    first_sample = len(sets) - SAMPLES
    variations = []
    for measurand, part, values in _quantities(elements, reference, sets):
        limits = None if corners is None else (float(values[2:first_sample].min()), float(values[2:first_sample].max()))
        deviation = float(values[first_sample:].std(ddof=1)) if len(moving) else 0.0
        variations.append(Variation(measurand, part, float(values[0]), float(values[1]), limits, deviation))
    return variations


def _quantities(elements: Sequence[Element], reference: str, sets: Array) -> list[tuple[Measurand, str, Array]]:
    solution = Network(elements, reference).solve(sets)
    found = [(RESISTANCE, e.name, seen) for e in elements if (seen := _seen_by(e, elements, sets)) is not None]
    for element in elements:
        found += [
            (VOLTAGE, element.name, np.asarray(solution.drop(element.name))),
            (CURRENT, element.name, np.asarray(solution.current(element.name))),
        ]
    return found


def _seen_by(source: Element, elements: Sequence[Element], sets: Array) -> Array | None:
    """The resistance across a voltage source's terminals with every source taken out, for all value sets."""
    if not source.kind.is_source or not LAWS[source.kind].has_branch or any(e.kind.is_nonlinear for e in elements):
        return None
    kept = [k for k, e in enumerate(elements) if not e.kind.is_source]
    test = Element(_TEST_CURRENT, CURRENT_SOURCE, source.first, source.second, 1.0)
    passive = [*(elements[k] for k in kept), test]
    if source.second not in {node for e in passive[:-1] for node in (e.first, e.second)}:
        return None
    circuit = Network(passive, source.second)
    if not circuit.joined(source.first, source.second):
        return None
    values = np.column_stack([sets[:, kept], np.ones(len(sets))])
    return np.asarray(circuit.solve(values).voltage(source.first, source.second))
