"""Readings as the rules of a circuit's shape ask for them, and what a rule says of them."""

from dataclasses import dataclass

from recensor.core import graph
from recensor.core.circuit import JudgedBy, Leads, PartAlone, Setup, Target, loops
from recensor.core.figures import rounded, with_digits
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.verdicts import BEYOND
from recensor.core.quantity import RESISTANCE, as_ratio
from recensor.core.record import Run
from recensor.core.uncertainty import NO_SPREAD, Spread, tolerance_uncertainty

_PROBE = "\0probe"


@dataclass(frozen=True)
class SanityCheck:
    """One rule held against readings; `indexes` are the readings it rests on.

    `is_of_total`: it is about a resistance that was read across several parts.
    """

    rule: str
    setup: str
    indexes: tuple[int, ...]
    holds: bool
    reason: str
    is_of_total: bool = False


@dataclass(frozen=True)
class Amount:
    """A number with what is uncertain about it, in SI units, and the readings it comes from."""

    value: float = 0.0
    spread: Spread = NO_SPREAD
    indexes: tuple[int, ...] = ()

    def __add__(self, other: "Amount") -> "Amount":
        return Amount(self.value + other.value, self.spread + other.spread, self.indexes + other.indexes)

    def __sub__(self, other: "Amount") -> "Amount":
        return self + other.times(-1.0)

    def __mul__(self, other: "Amount") -> "Amount":
        spread = self.spread.times(other.value) + other.spread.times(self.value)
        return Amount(self.value * other.value, spread, self.indexes + other.indexes)

    def __abs__(self) -> "Amount":
        return self if self.value >= 0 else self.times(-1.0)

    def times(self, factor: float) -> "Amount":
        """It times an exact factor."""
        return Amount(factor * self.value, self.spread.times(factor), self.indexes)

    @property
    def margin(self) -> float:
        """Its expanded uncertainty."""
        return 2.0 * self.spread.standard

    def shown(self, unit: str) -> str:
        """It in words, down to the digits that mean something."""
        return rounded(self.value, self.margin or None, unit)


class SanityReadings:
    """The readings as the rules ask for them."""

    def __init__(self, run: Run, measurements: Measurements) -> None:
        self.sheet = run.sheet
        self.measurements = measurements

    def read(self, target: Target) -> Amount | None:
        """A target as it was read, with the sign it has in the target's direction; None where it was not."""
        measurement = self.measurements.read(target)
        if measurement is None:
            return None
        known = mean_of(measurement)
        return known.times(-1.0) if target.reversed_against(measurement.target) else known

    def resistance(self, name: str, setup: Setup) -> Amount | None:
        """What a part is best known to be; without readings when only its marking says so."""
        part = self.sheet.parts[name]
        if not part.kind.ohmic:
            return None
        if part.kind.differs_by_setup and (as_set := self.read(PartAlone(name, RESISTANCE, setup.name))):
            return as_set
        if part.kind.adjustable_value:
            return None
        if name not in setup.values and (measured := self.measurements.of_part(PartAlone(name, RESISTANCE))):
            return mean_of(measured)
        value = setup.stated(part)
        if value is None:
            return None
        standard = tolerance_uncertainty(float(value), as_ratio(part.tolerance)) if part.tolerance else 0.0
        return Amount(float(value), Spread({part.name: standard}))

    def chains(self, across: Leads, setup: Setup) -> list[tuple[str, ...]] | None:
        """The resistor chains that join two nodes side by side; None when the network is anything else."""
        merged = self.merged(setup)
        red, black = merged.top(across[0]), merged.top(across[1])
        if red == black:
            return None
        connections = {
            name: (merged.top(first), merged.top(second))
            for name, (first, second) in setup.closed.items()
            if not self.sheet.parts[name].kind.is_source and not self.sheet.parts[name].kind.is_wire
        }
        branches = loops.branches({**connections, _PROBE: (red, black)})
        steps = [(branch, [passage.part for passage in branch.passages]) for branch in branches]
        if len(steps) == 1 and _PROBE in steps[0][1]:
            return [tuple(name for name in steps[0][1] if name != _PROBE)]
        chains = [tuple(names) for _, names in steps if names != [_PROBE]]
        direct = all({branch.start, branch.end} == {red, black} for branch, _ in steps)
        return chains if direct and len(chains) == len(steps) - 1 else None

    def merged(self, setup: Setup) -> graph.Groups[str]:
        """The nodes of a setup, those joined by a wire or by a source that is off as one."""
        merged: graph.Groups[str] = graph.Groups()
        for wire in setup.wires(self.sheet.parts):
            merged.join(*setup.connections[wire])
        return merged

    def are_equal(self, first: Amount, second: Amount, scale: float) -> bool | None:
        """Whether two numbers are one, by the run's own rule; None where that cannot be said."""
        apart = first - second
        size, margin = abs(apart.value), apart.margin
        if self.sheet.judge.by is JudgedBy.UNCERTAINTY:
            return _sure(size <= margin, size > BEYOND * margin)
        allowed = as_ratio(self.sheet.judge.limit) * abs(scale)
        return _sure(margin <= allowed and size <= allowed, size > allowed + margin)

    def is_above(self, larger: Amount, smaller: Amount) -> bool | None:
        """Whether one number is above another; None where that cannot be said."""
        above = larger - smaller
        return _sure(above.value > above.margin, above.value < -BEYOND * above.margin)


def _sure(holds: bool, fails: bool) -> bool | None:
    return True if holds else False if fails else None


def mean_of(measurement: Measurement) -> Amount:
    """The mean of a measurement that has one."""
    return Amount(measurement.mean or 0.0, measurement.spread, measurement.indexes)


def shown(measurement: Measurement) -> str:
    """The mean of a target's readings with their own digits."""
    return with_digits(measurement.mean or 0.0, measurement.resolution, measurement.target.unit)


def readings_of(*known: Amount) -> tuple[int, ...]:
    """The readings that numbers come from, in order."""
    return tuple(sorted({index for amount in known for index in amount.indexes}))
