"""Where what is said of a meter contradicts itself, or what such meters can be.

The bounds are common practice, no source: displays count to a few hundred at least, a voltmeter loads with tens of
kilohms at most, an ammeter drops no more than a few volts.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from recensor.core.figures import plainly
from recensor.core.meters.profile import Profile, Range
from recensor.core.quantity import CURRENT, VOLTAGE, Measurand

_FEWEST_COUNTS, _MOST_COUNTS = 200, 20_000_000
_LEAST_INPUT, _MOST_DROP = 1e4, 3.0


@dataclass(frozen=True)
class Contradiction:
    """What does not go together. `row` is the place of a range among its function's; None where it is of none."""

    measurand: Measurand | None
    row: int | None
    field: str
    text: str

    @property
    def place(self) -> str:
        """Its place in a document, below the meter's name."""
        if self.measurand is None:
            return self.field
        return f"functions.{self.measurand}" + ("" if self.row is None else f"[{self.row}].{self.field}")


def contradictions(profile: Profile) -> list[Contradiction]:
    """All that does not go together in a profile, in its order; empty where nothing speaks against it."""
    found = [
        contradiction
        for measurand, ranges in profile.ranges.items()
        for contradiction in _of_function(profile, measurand, ranges)
    ]
    shared = {taken.jack for taken in profile.ranges.get(VOLTAGE, ()) if taken.jack and profile.fuses.get(taken.jack)}
    for jack in sorted(shared):
        found.append(Contradiction(None, None, "jacks", f"the {jack} jack has a fuse and reads volts"))
    if not profile.over_range:
        found.append(Contradiction(None, None, "over_range", "say what it shows beyond its range, such as OL"))
    return found


def _of_function(profile: Profile, measurand: Measurand, ranges: tuple[Range, ...]) -> Iterator[Contradiction]:
    for row, taken in enumerate(ranges):
        for field, text in _of_range(profile, measurand, taken):
            yield Contradiction(measurand, row, field, text)
    for row, (smaller, larger) in enumerate(pairwise(ranges), 1):
        if larger.full == smaller.full:
            yield Contradiction(measurand, row, "full", "there are two ranges of this full scale")
        elif larger.step < smaller.step:
            yield Contradiction(measurand, row, "step", "a larger range has no smaller digit")


def _of_range(profile: Profile, measurand: Measurand, taken: Range) -> Iterator[tuple[str, str]]:
    full, counts = plainly(taken.full, measurand.unit), taken.full / taken.step
    if not _FEWEST_COUNTS <= counts <= _MOST_COUNTS:
        yield (
            "step",
            f"{full} in steps of {plainly(taken.step, measurand.unit)} is {counts:.0f} counts; no display is so",
        )
    if taken.accuracy.digits >= counts:
        yield "accuracy", f"{taken.accuracy.digits} digits are more than the whole of its {counts:.0f} counts"
    if profile.fuses and taken.jack and taken.jack not in profile.fuses:
        yield "jack", f"there is no jack {taken.jack}"
    fuse = profile.fuses.get(taken.jack or "")
    if measurand is CURRENT and fuse and taken.full > fuse * (1 + 1e-9):
        yield "jack", f"{full} is more than the {plainly(fuse, 'A')} fuse of the {taken.jack} jack"
    if measurand is VOLTAGE and taken.input_resistance and taken.input_resistance < _LEAST_INPUT:
        yield "input", f"{plainly(taken.input_resistance, 'Ω')} would load every circuit; usual is 10 MΩ"
    if measurand is CURRENT and taken.burden and taken.burden * taken.full > _MOST_DROP:
        drop = plainly(float(f"{taken.burden * taken.full:.3g}"), "V")
        yield "burden", f"{plainly(taken.burden, 'Ω')} drops {drop} at {full}: usual is a fraction of a volt"
    for field, size, of in (("input", taken.input_resistance, VOLTAGE), ("burden", taken.burden, CURRENT)):
        if size and measurand is not of:
            yield field, f"only a {of} range has it"
