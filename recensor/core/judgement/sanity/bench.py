"""A run's readings as the sanity rules ask for them."""

from dataclasses import dataclass

from recensor.core import graph
from recensor.core.circuit import Across, JudgedBy, Leads, PartAlone, Setup, Target, loops
from recensor.core.figures import engineering
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.quantity import RESISTANCE, Measurand, as_ratio
from recensor.core.record import Run

_PROBE = "\0probe"


@dataclass(frozen=True)
class SanityCheck:
    """One rule held against readings; `indexes` are the readings it rests on."""

    rule: str
    setup: str
    indexes: tuple[int, ...]
    holds: bool
    reason: str


@dataclass(frozen=True, order=True)
class BestKnown:
    """A part's best known value in ohms, its expanded uncertainty, and the readings it comes from."""

    value: float
    margin: float
    indexes: tuple[int, ...] = ()


class Bench:
    """The readings as the rules ask for them."""

    def __init__(self, run: Run, measurements: Measurements) -> None:
        self.sheet = run.sheet
        self.measurements = measurements

    def read(self, target: Target) -> Measurement | None:
        """A target's measurement, None where it was not read."""
        return self.measurements.read(target)

    def across(self, measurand: Measurand, leads: Leads, setup: Setup) -> Measurement | None:
        """What was read between two nodes."""
        return self.read(Across(measurand, leads, setup.name))

    def resistance(self, name: str, setup: Setup) -> BestKnown | None:
        """What a part is best known to be."""
        part = self.sheet.parts[name]
        if name not in setup.values:
            measured = self.read(PartAlone(name, RESISTANCE))
            if measured:
                return BestKnown(mean(measured), margin_of(measured), measured.indexes)
        value = setup.stated(part)
        if value is None:
            return None
        return BestKnown(float(value), float(value) * as_ratio(part.tolerance) if part.tolerance else 0.0)

    def chains(self, across: Leads, setup: Setup) -> list[tuple[str, ...]] | None:
        """The resistor chains that join two nodes side by side; None when the network is anything else."""
        merged: graph.Groups[str] = graph.Groups()
        for wire in setup.wires(self.sheet.parts):
            merged.join(*setup.connections[wire])
        red, black = merged.top(across[0]), merged.top(across[1])
        connections = {
            name: (merged.top(first), merged.top(second))
            for name, (first, second) in setup.connections.items()
            if not self.sheet.parts[name].kind.drives
        }
        branches = loops.branches({**connections, _PROBE: (red, black)})
        steps = [(branch, [passage.part for passage in branch.passages]) for branch in branches]
        if len(steps) == 1 and _PROBE in steps[0][1]:
            return [tuple(name for name in steps[0][1] if name != _PROBE)]
        chains = [tuple(names) for _, names in steps if names != [_PROBE]]
        direct = all({branch.start, branch.end} == {red, black} for branch, _ in steps)
        return chains if direct and len(chains) == len(steps) - 1 else None

    def close(self, difference: float, scale: float, margin: float) -> bool:
        """Whether two values are one, by the run's own rule."""
        by_percent = as_ratio(self.sheet.judge.limit) * abs(scale) + margin
        return abs(difference) <= (by_percent if self.sheet.judge.by is JudgedBy.PERCENT else margin)


def indexes_of(total: Measurement, known: list[BestKnown]) -> tuple[int, ...]:
    """The readings of a total and of its parts."""
    return tuple(sorted({*total.indexes, *(index for part in known for index in part.indexes)}))


def mean(measurement: Measurement) -> float:
    """The mean of a measurement that has one."""
    return measurement.mean or 0.0


def margin_of(measurement: Measurement) -> float:
    """The expanded uncertainty of its mean."""
    return 2.0 * (measurement.standard or 0.0)


def shown(measurement: Measurement) -> str:
    """The mean of a target's readings with their own digits."""
    return engineering(mean(measurement), measurement.resolution, measurement.target.unit)
