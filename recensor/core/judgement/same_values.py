"""What the shape of a circuit makes one value, read at several points: one row of them, and which of them is odd.

One voltage lies across what shares two nodes, one current runs through a chain, and one point is the same to every
meter.
"""

from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.circuit import Setup, Target, loops
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.sanity_readings import Amount, SanityReadings, mean_of, readings_of
from recensor.core.quantity import VOLTAGE
from recensor.core.record import Run
from recensor.core.sentences import say

# One of two cannot be odd.
_FEWEST_TO_BE_ODD = 3


class Shared(StrEnum):
    """Why several readings are to be one value."""

    VOLTAGE = "one voltage"
    CURRENT = "one current"
    METERS = "one point, several meters"


@dataclass(frozen=True)
class SamePoint:
    """One of the points: a part or two nodes, or a meter's name, and what was read there in the common direction.

    `digit` is the last digit as it was typed, `at` the part beside which a loop was opened for it, where that matters.
    """

    name: str
    read: Amount
    digit: float
    at: str = ""

    @property
    def words(self) -> str:
        """The point as a heading names it."""
        return say("judgement.read_beside", part=self.name, at=self.at) if self.at else self.name


@dataclass(frozen=True)
class SameValue:
    """Readings that are to be one, in SI units; `target` is the first of them.

    `holds` is whether they are, by the run's own rule, None where that cannot be said; `odd` is the place of the one
    point that does not go with the others, which go with each other.
    """

    shared: Shared
    setup: str
    target: Target
    points: tuple[SamePoint, ...]
    holds: bool | None
    odd: int | None

    @property
    def names(self) -> tuple[str, ...]:
        """The points by name, each once."""
        return tuple(dict.fromkeys(point.name for point in self.points))

    @property
    def mean(self) -> float:
        """The mean of the points; without the odd one where there is one."""
        kept = [point.read.value for k, point in enumerate(self.points) if k != self.odd]
        return sum(kept) / len(kept)

    @property
    def apart(self) -> Amount:
        """How far the largest lies above the smallest, and what of that the meters explain."""
        return _apart([point.read for point in self.points])

    @property
    def indexes(self) -> tuple[int, ...]:
        """The readings that it rests on."""
        return readings_of(*(point.read for point in self.points))


def same_values(run: Run, measurements: Measurements) -> Iterator[SameValue]:
    """Every value of a run that was read at two points or more, or by two meters."""
    bench = SanityReadings(run, measurements)
    for setup in run.sheet.setups.values():
        yield from same_voltages(bench, setup)
        yield from same_currents(bench, setup)
    yield from _by_several_meters(bench)


def same_voltages(bench: SanityReadings, setup: Setup) -> Iterator[SameValue]:
    """Each voltage of a setup that was read at several points which share two nodes, wires counted as one node."""
    merged = bench.merged(setup)
    across: dict[tuple[str, str], list[tuple[SamePoint, Target]]] = defaultdict(list)
    for measurement in _read_in(bench.measurements, setup):
        target = measurement.target
        if not target.is_across or target.measurand is not VOLTAGE:
            continue
        red, black = merged.top(target.red), merged.top(target.black)
        if red != black:
            known = mean_of(measurement)
            turned = known if red < black else known.times(-1.0)
            parts = target.parts_read(bench.sheet)
            name = " ∥ ".join(parts) or say("judgement.from_node_to_node", red=target.red, black=target.black)
            across[min(red, black), max(red, black)].append((SamePoint(name, turned, measurement.resolution), target))
    for read in across.values():
        yield from _held(bench, Shared.VOLTAGE, setup, read)


def same_currents(bench: SanityReadings, setup: Setup) -> Iterator[SameValue]:
    """Each current of a setup that was read at several points of one chain."""
    through: dict[str, list[Measurement]] = defaultdict(list)
    for measurement in _read_in(bench.measurements, setup):
        if measurement.target.is_through:
            through[measurement.target.part].append(measurement)
    for branch in loops.branches(setup.joined(bench.sheet.parts)):
        read: list[tuple[SamePoint, Target]] = []
        for passage in branch.passages:
            turned = passage.forward == bench.sheet.parts[passage.part].kind.is_source
            for measurement in through[passage.part]:
                target, known = measurement.target, mean_of(measurement)
                turned_so = known.times(-1.0) if turned else known
                read.append((SamePoint(passage.part, turned_so, measurement.resolution, target.at or ""), target))
        ordered = list(setup.connections)
        read.sort(key=lambda pair: ordered.index(pair[0].name))
        yield from _held(bench, Shared.CURRENT, setup, read)


def _read_in(measurements: Measurements, setup: Setup) -> Iterator[Measurement]:
    """What was read in a setup, and is in no row of a table."""
    for measurement in measurements.by_target.values():
        target = measurement.target
        if target.in_circuit and (target.setup, target.step) == (setup.name, None) and measurement.mean is not None:
            yield measurement


def _by_several_meters(bench: SanityReadings) -> Iterator[SameValue]:
    """Each point that was read by several meters, by the last of each."""
    measurements = bench.measurements
    newest: dict[Target, dict[str, SamePoint]] = defaultdict(dict)
    for k, reading in enumerate(measurements.run.readings):
        taken = measurements.taken(k) if measurements.standings[k].was_read else None
        if taken is not None and reading.target.step is None and not reading.target.is_leads:
            known = Amount(taken.value, taken.spread, (k,))
            turned = reading.target.reversed_against(measurements.by_target[reading.target.key].target)
            meter = measurements.meters.name(reading) or ""
            digit = float(reading.value.resolution or 0)
            newest[reading.target.key][meter] = SamePoint(meter, known.times(-1.0) if turned else known, digit)
    for key, by_meter in newest.items():
        target = measurements.by_target[key].target
        points = [(point, target) for point in by_meter.values()]
        yield from _held(bench, Shared.METERS, bench.sheet.setups.get(target.setup or ""), points)


def _held(
    bench: SanityReadings, shared: Shared, setup: Setup | None, read: Sequence[tuple[SamePoint, Target]]
) -> Iterator[SameValue]:
    """The row of what was read, where that is more than one number."""
    if len(read) < 2:
        return
    target, points = read[0][1], tuple(point for point, _ in read)
    own = bench.read(target)
    if own and own.value * points[0].read.value < 0:  # all with the sign that the first has by itself
        points = tuple(replace(point, read=point.read.times(-1.0)) for point in points)
    read_at = [point.read for point in points]
    holds = _are_one(bench, read_at)
    odd = odd_one(range(len(points)), lambda some: _are_one(bench, [read_at[k] for k in some]))
    yield SameValue(shared, setup.name if setup else "", target, points, holds, odd)


def odd_one(places: Sequence[int], are_one: Callable[[Sequence[int]], bool | None]) -> int | None:
    """The one place without which the others are one; None where all are, and for no such place or more than one.

    Of fewer than three nobody knows which is right.
    """
    if len(places) < _FEWEST_TO_BE_ODD or are_one(places) is not False:
        return None
    found = [k for k in places if are_one([other for other in places if other != k])]
    return found[0] if len(found) == 1 else None


def _apart(read: Sequence[Amount]) -> Amount:
    return max(read, key=lambda amount: amount.value) - min(read, key=lambda amount: amount.value)


def _are_one(bench: SanityReadings, read: Sequence[Amount]) -> bool | None:
    most, least = max(read, key=lambda amount: amount.value), min(read, key=lambda amount: amount.value)
    return bench.are_equal(most, least, max(abs(known.value) for known in read))
