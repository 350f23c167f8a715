"""A wanted resistance from one part, or from two in series or in parallel, out of a stock."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray


class Arrangement(StrEnum):
    """How the parts are joined."""

    ALONE = "alone"
    SERIES = "in series"
    PARALLEL = "in parallel"


@dataclass(frozen=True)
class Stocked:
    """A value in stock: ohms, tolerance as a ratio, and how many there are; None where nobody counted."""

    value: float
    tolerance: float = 0.0
    count: int | None = None


@dataclass(frozen=True)
class Combination:
    """One way to make the wanted value, in ohms. `error` is a ratio of it; `limits` have all parts at their worst."""

    parts: tuple[Stocked, ...]
    joined: Arrangement
    value: float
    error: float
    limits: tuple[float, float]

    @property
    def tolerance(self) -> float:
        """The combination's own tolerance, as a ratio: the larger distance of a limit from the value."""
        low, high = self.limits
        return max(high - self.value, self.value - low) / self.value


def combinations(wanted: float, stock: Sequence[Stocked], most: int = 12) -> list[Combination]:
    """The best ways to make `wanted` ohms, the smallest error first; equal errors: fewer parts, then tighter limits.

    All pairs are tried, n² of them for n values in stock. A value of which one is left is not paired
    with itself. Raises `ValueError` when `wanted` is not above zero.

    Examples
    --------
    >>> best = combinations(1410.0, [Stocked(470, 0.05), Stocked(4700, 0.05), Stocked(940, 0.01)])[0]
    >>> best.joined.value, round(best.value), round(best.tolerance, 4)
    ('in series', 1410, 0.0233)
    """
    if not wanted > 0:
        raise ValueError("a wanted resistance is above zero")
    at_hand = [stocked for stocked in stock if stocked.count is None or stocked.count > 0]
    values = np.array([stocked.value for stocked in at_hand])
    first, second = np.triu_indices(len(values))
    enough = np.array([stocked.count is None or stocked.count > 1 for stocked in at_hand], dtype=bool)
    pairable = (first != second) | enough[first]
    first, second = first[pairable], second[pairable]
    found = [_combined(wanted, (stocked,), Arrangement.ALONE) for stocked in at_hand]
    for joined in (Arrangement.SERIES, Arrangement.PARALLEL):
        made = _joined(values[first], values[second], joined)
        errors = np.abs(made - wanted)
        nearest = np.argpartition(errors, most)[:most] if len(errors) > most else range(len(errors))
        found += [_combined(wanted, (at_hand[first[k]], at_hand[second[k]]), joined) for k in nearest]
    found.sort(
        key=lambda combination: (round(abs(combination.error), 12), len(combination.parts), combination.tolerance)
    )
    return found[:most]


def _combined(wanted: float, parts: tuple[Stocked, ...], joined: Arrangement) -> Combination:
    value, low, high = (
        _of([stocked.value * (1.0 + side * stocked.tolerance) for stocked in parts], joined)
        for side in (0.0, -1.0, 1.0)
    )
    return Combination(parts, joined, value, (value - wanted) / wanted, (low, high))


def _of(values: Sequence[float], joined: Arrangement) -> float:
    return (
        values[0] if joined is Arrangement.ALONE else float(_joined(np.array(values[0]), np.array(values[1]), joined))
    )


def _joined(first: NDArray[np.float64], second: NDArray[np.float64], joined: Arrangement) -> NDArray[np.float64]:
    return first + second if joined is Arrangement.SERIES else first * second / (first + second)
