"""A meter whose errors are drawn over the whole of its specification."""

from collections.abc import Hashable

import numpy as np

from recensor.core.meters import Precision, Profile, Range, ranges_of, shown_at
from recensor.core.quantity import Measurand, Quantity


class SimulatedMeter:
    """One instrument of a kind: its gains are drawn once and stay, its digits err anew in every reading.

    A gain is off by up to the percent of its range's accuracy, a reading by up to its digits more; both anywhere
    between their limits with equal probability. The errors of an exact meter are none.
    """

    def __init__(self, profile: Profile, draw: np.random.Generator) -> None:
        self.profile = profile
        self._draw = draw
        self._gains: dict[Hashable, float] = {}

    def show(self, value: float, measurand: Measurand, taken: Range | None = None) -> tuple[Quantity, Range]:
        """What the display shows of a true value in the SI unit, and the range that was taken.

        Without a range it is the smallest that does not show over-range; the largest where all do.
        """
        for one in [taken] if taken else ranges_of(self.profile, measurand):
            shown = shown_at(self._with_errors(value, measurand, one), measurand, one, self.profile.over_range[0])
            if not shown.over_range:
                return shown, one
        return shown, one

    def _with_errors(self, value: float, measurand: Measurand, taken: Range) -> float:
        known = self._precision(value, measurand, taken)
        place = (measurand, taken.full)
        if place not in self._gains:
            self._gains[place] = known.accuracy.ratio * float(self._draw.uniform(-1.0, 1.0))
        digits = known.accuracy.digits * known.step * float(self._draw.uniform(-1.0, 1.0))
        return value * (1.0 + self._gains[place]) + digits

    def _precision(self, value: float, measurand: Measurand, taken: Range) -> Precision:
        return self.profile.precision(measurand, value, taken.step, taken.full if self.profile.ranges else None)
