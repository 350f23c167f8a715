"""Sorting a handful of resistors: each reading to its bin, and what a bin's readings say together.

A bin takes what lies within its tolerance. What lies beyond, up to twice the tolerance, is an
out-of-tolerance part of that bin; anything farther from every bin is a stray (our own rule).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from recensor.core import uncertainty
from recensor.core.uncertainty import Array

OUT_UP_TO = 2.0

# Columns of a bin's histogram: the tolerance band in twelve, and one on either side for what lies beyond.
BAND_COLUMNS = 12
COLUMNS = BAND_COLUMNS + 2


class MeterAccuracy(Protocol):
    """How far a meter may be off."""

    def standard_uncertainty(self, values: Array, resolutions: Array) -> Array:
        """Standard uncertainties of readings of these values and last digits, in their unit; shapes (n,)."""


class BinPlace(StrEnum):
    """Where a measured part goes."""

    WITHIN = "within tolerance"
    CANNOT_TELL = "cannot tell"
    OUT = "out of tolerance"
    STRAY = "stray"


@dataclass(frozen=True)
class Placed:
    """One part's place. `bin` is the nearest bin's index; `deviation` from its nominal, as a ratio."""

    place: BinPlace
    bin: int
    deviation: float


@dataclass(frozen=True)
class Bins:
    """The bins of a sorting, in rising order: nominal values in ohms and tolerances as ratios."""

    nominals: tuple[float, ...]
    tolerances: tuple[float, ...]
    accuracy: MeterAccuracy | None = None
    _borders: Array = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        steps = np.log(np.array(self.nominals))
        object.__setattr__(self, "_borders", np.exp((steps[1:] + steps[:-1]) / 2.0))

    def place(self, value: float, resolution: float) -> Placed:
        """Where a part goes that reads `value` ohms.

        Examples
        --------
        >>> Bins((400.0, 1000.0), (0.05, 0.05)).place(450.0, 1.0)
        Placed(place=<BinPlace.STRAY: 'stray'>, bin=0, deviation=0.125)
        """
        places, nearest, deviations = self._places(np.array([value]), np.array([resolution]))
        return Placed(_PLACES[places[0]], int(nearest[0]), float(deviations[0]))

    def _standard_uncertainty(self, values: Array, resolutions: Array) -> Array:
        if self.accuracy is None:
            return np.asarray(uncertainty.resolution_uncertainty(1.0) * resolutions)
        return self.accuracy.standard_uncertainty(values, resolutions)

    def _places(self, values: Array, resolutions: Array) -> tuple[NDArray[np.int64], NDArray[np.int64], Array]:
        """Place numbers, nearest bins and deviations of many readings."""
        nearest = np.searchsorted(self._borders, values)
        nominals, tolerances = np.array(self.nominals)[nearest], np.array(self.tolerances)[nearest]
        deviations = values / nominals - 1.0
        off = np.abs(deviations) - tolerances
        margin = uncertainty.COVERAGE_FACTOR * self._standard_uncertainty(values, resolutions) / nominals
        places = np.select(
            [np.abs(off) <= margin, off < 0, np.abs(deviations) <= OUT_UP_TO * tolerances], [1, 0, 2], default=3
        )
        return places, nearest, deviations


_PLACES = (BinPlace.WITHIN, BinPlace.CANNOT_TELL, BinPlace.OUT, BinPlace.STRAY)


@dataclass(frozen=True)
class BinSummary:
    """What the parts of one bin say together; deviations as ratios of nominal.

    `count` parts went in, of which `undecided` lie at the edge of tolerance; `out` more are out of
    tolerance and enter the histogram alone. `deviation` is the sample standard deviation, None below
    two parts. `scatter` and `meter` are the expanded uncertainties of the mean.
    """

    bin: int
    count: int
    undecided: int
    out: int
    mean: float | None
    deviation: float | None
    scatter: float | None
    meter: float | None
    columns: tuple[int, ...]

    @property
    def is_shifted(self) -> bool:
        """Whether the mean lies farther off nominal than scatter and meter together explain."""
        if self.mean is None or self.scatter is None or self.meter is None:
            return False
        return abs(self.mean) > float(np.hypot(self.scatter, self.meter))


class Tally:
    """Running sums of a sorting: adding or taking back a part costs the same however many there are."""

    def __init__(self, bins: Bins) -> None:
        self.bins = bins
        self.strays = 0
        size = len(bins.nominals)
        self._places = np.zeros((size, 3), np.int64)
        self._columns = np.zeros((size, COLUMNS), np.int64)
        self._sums = np.zeros((size, 3))  # of deviations, their squares, and the meter's relative uncertainty

    def add(self, values: Sequence[float], resolutions: Sequence[float], times: int = 1) -> None:
        """Add readings in ohms; with `times` −1 take them back."""
        if not len(values):
            return
        read, steps = np.array(values, np.float64), np.array(resolutions, np.float64)
        places, nearest, deviations = self.bins._places(read, steps)
        self.strays += times * int((places == 3).sum())
        known = places < 3
        places, nearest, deviations = places[known], nearest[known], deviations[known]
        np.add.at(self._places, (nearest, places), times)
        shares = np.round(deviations / np.array(self.bins.tolerances)[nearest], 9)  # 1050 Ω is 5 % off 1 kΩ, no more
        columns = np.clip(np.floor((shares + 1.0) * BAND_COLUMNS / 2.0).astype(np.int64) + 1, 0, COLUMNS - 1)
        columns = np.where(shares == 1.0, BAND_COLUMNS, columns)
        np.add.at(self._columns, (nearest, columns), times)
        accepted = places < 2
        relative = self.bins._standard_uncertainty(read[known], steps[known]) / np.array(self.bins.nominals)[nearest]
        for k, terms in enumerate((deviations, deviations**2, relative)):
            np.add.at(self._sums[:, k], nearest[accepted], times * terms[accepted])

    @property
    def in_use(self) -> list[int]:
        """The bins that have parts, in order."""
        return [int(k) for k in np.flatnonzero(self._places.any(axis=1))]

    def summary(self, which: int) -> BinSummary:
        """What the parts of one bin say together."""
        within, undecided, out = (int(number) for number in self._places[which])
        count = within + undecided
        total, squares, meter = (float(number) for number in self._sums[which])
        mean = total / count if count else None
        deviation = scatter = None
        if mean is not None and count > 1:
            deviation = float(np.sqrt(max(0.0, squares - count * mean**2) / (count - 1)))
            scatter = uncertainty.expanded(uncertainty.scatter_uncertainty(deviation, count))
        return BinSummary(
            bin=which,
            count=count,
            undecided=undecided,
            out=out,
            mean=mean,
            deviation=deviation,
            scatter=scatter,
            meter=uncertainty.expanded(meter / count) if count else None,
            columns=tuple(int(number) for number in self._columns[which]),
        )
