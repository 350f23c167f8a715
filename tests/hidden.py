"""Runs on a bench with hidden true values, read by a meter that is exact to a number of digits."""

from collections.abc import Mapping, Sequence

import numpy as np

from recensor.core.circuit import Sheet, Target
from recensor.core.meters import EXACT
from recensor.core.quantity import parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter

# No bench meter shows less, in volts, amperes or ohms (common practice, no source).
FINEST_SHOWN = 1e-8


def off_by(sheet: Sheet, factors: Sequence[float]) -> dict[str, float]:
    """True values: each part off its nominal one by its own factor."""
    return {
        name: float(part.nominal) * factor
        for (name, part), factor in zip(sheet.parts.items(), factors, strict=False)
        if part.nominal is not None
    }


def true_value(target: Target, sheet: Sheet, true: Mapping[str, float]) -> float:
    """What an ideal meter would show at a target of any setup, in SI units."""
    return SimulatedBench(sheet, true, SimulatedMeter(EXACT, np.random.default_rng(1))).true_value(target)


def honest(sheet: Sheet, true: Mapping[str, float], digits: int = 5, slip: tuple[int, float] | None = None) -> Run:
    """One reading at every asked point, rounded to a meter's digits; a `slip` multiplies one of them."""
    readings = []
    for k, target in enumerate(sheet.asked):
        value = true_value(target, sheet, true) * (slip[1] if slip and slip[0] == k else 1.0)
        shown = f"{value:.{digits - 1}e}" if abs(value) >= FINEST_SHOWN else "0.0000"
        readings.append(Reading(target, parse(shown, target.unit)))
    return Run(sheet, tuple(readings), meters={"exact": EXACT})
