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
from recensor.core.sentences import say

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
        found.append(Contradiction(None, None, "jacks", say("meters.jack_fuse_and_reads", jack=jack)))
    if not profile.over_range:
        found.append(Contradiction(None, None, "over_range", say("meters.say_what_shows_beyond")))
    return found


def _of_function(profile: Profile, measurand: Measurand, ranges: tuple[Range, ...]) -> Iterator[Contradiction]:
    for row, taken in enumerate(ranges):
        for field, text in _of_range(profile, measurand, taken):
            yield Contradiction(measurand, row, field, text)
    for row, (smaller, larger) in enumerate(pairwise(ranges), 1):
        if larger.full == smaller.full:
            yield Contradiction(measurand, row, "full", say("meters.two_ranges_full_scale"))
        elif larger.step < smaller.step:
            yield Contradiction(measurand, row, "step", say("meters.larger_range_no_smaller"))


def _of_range(profile: Profile, measurand: Measurand, taken: Range) -> Iterator[tuple[str, str]]:
    full, counts = plainly(taken.full, measurand.unit), taken.full / taken.step
    if not _FEWEST_COUNTS <= counts <= _MOST_COUNTS:
        yield (
            "step",
            say("meters.in_steps_counts_no", full=full, step=plainly(taken.step, measurand.unit), counts=counts),
        )
    if taken.accuracy.digits >= counts:
        yield "accuracy", say("meters.digits_more_than_whole", digits=taken.accuracy.digits, counts=counts)
    if profile.fuses and taken.jack and taken.jack not in profile.fuses:
        yield "jack", say("meters.no_jack", jack=taken.jack)
    fuse = profile.fuses.get(taken.jack or "")
    if measurand is CURRENT and fuse and taken.full > fuse * (1 + 1e-9):
        yield "jack", say("meters.range_beyond_its_fuse", full=full, fuse=plainly(fuse, "A"), jack=taken.jack)
    if measurand is VOLTAGE and taken.input_resistance and taken.input_resistance < _LEAST_INPUT:
        yield "input", say("meters.would_load_every_circuit", input_resistance=plainly(taken.input_resistance, "Ω"))
    if measurand is CURRENT and taken.burden and taken.burden * taken.full > _MOST_DROP:
        drop = plainly(float(f"{taken.burden * taken.full:.3g}"), "V")
        yield "burden", say("meters.drops_at_usual_fraction", burden=plainly(taken.burden, "Ω"), drop=drop, full=full)
    for field, size, of in (("input", taken.input_resistance, VOLTAGE), ("burden", taken.burden, CURRENT)):
        if size and measurand is not of:
            yield field, say("meters.only_range", of=of)
