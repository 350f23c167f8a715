"""Readings gathered by target: which of them count, their mean, their scatter, and how far they may be off."""

import math
from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from recensor.core import uncertainty
from recensor.core.circuit import PartAlone, Target, TouchedLeads
from recensor.core.judgement.precision import Gain, InGroup, Own, RunMeters, is_common
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Reading, Run
from recensor.core.standing import Standing, grouped
from recensor.core.uncertainty import NO_SPREAD, Spread

# A trial this many times farther from the others than they are from each other is named.
_FAR = 5.0


@dataclass(frozen=True)
class Measurement:
    """A target with its readings that count, all turned to the target's direction, in SI units.

    `mean` is None when every reading was over-range; `spread` is what is uncertain about the mean. `resolution` is
    the last digit as typed; trials no farther `apart` say no more than the meter does of itself. `earlier` are the
    indexes of readings that do not stand any more, or beside what stands; `far` those of trials far from the others;
    `leads` were taken off each, in ohms.
    """

    target: Target
    indexes: tuple[int, ...]
    values: tuple[float, ...]
    resolution: float
    apart: float
    mean: float | None
    deviation: float | None
    spread: Spread
    scatters: bool = False
    earlier: tuple[int, ...] = ()
    far: tuple[int, ...] = ()
    leads: float = 0.0

    @property
    def count(self) -> int:
        """How many readings give the mean; over-range ones do not count."""
        return len(self.values)

    @property
    def standard(self) -> float | None:
        """The mean's standard uncertainty."""
        return None if self.mean is None else self.spread.standard


@dataclass(frozen=True)
class Taken:
    """One reading as a number in the SI unit, the leads taken off, with what is uncertain about it."""

    value: float
    spread: Spread


@dataclass(frozen=True)
class Measurements:
    """One measurement for each target that was read, in the order of first reading, by the target's key.

    `standings` has one for each reading of the run; `leads` what the touched probes of a meter read. `groups` are the
    readings of a measurement that was read again, as they were taken together, in order; the last ones stand.
    """

    run: Run
    meters: RunMeters
    by_target: dict[Target, Measurement]
    standings: list[Standing]
    leads: Mapping[str | None, Measurement]
    groups: Mapping[Target, list[list[int]]]

    def of(self, target: Target) -> Measurement | None:
        """The measurement of a target, None where it was not read."""
        return self.by_target.get(target.key)

    def read(self, target: Target) -> Measurement | None:
        """The measurement of a target that has a mean."""
        measurement = self.by_target.get(target.key)
        return measurement if measurement and measurement.mean is not None else None

    def of_part(self, part: PartAlone) -> Measurement | None:
        """What a part by itself was read to be, as circuits are calculated with it.

        Of a part that nobody can tell from others it is the mean of all of them, once they were all read, and may be
        any of theirs.
        """
        group = self.run.sheet.group_of(part.part)
        read = [self.read(replace(part, part=name)) for name in group or (part.part,)]
        found = [measurement for measurement in read if measurement]
        if not group:
            return found[0] if found else None
        return _as_group(part, found) if len(found) == len(group) else None

    def near(self, key: Target, place: float) -> Measurement:
        """A measurement by those of its readings that were taken nearest to a place in the order."""
        standing = self.by_target[key]
        if key not in self.groups:
            return standing
        members = min(self.groups[key], key=lambda group: abs(group[len(group) // 2] - place))
        if tuple(members) == standing.indexes:
            return standing
        off = _leads_off(self.run.readings[members[0]], self.meters, self.leads)
        return gathered(members, standing.target, self.meters, off, standing.indexes)

    def in_setup(self, setup: str) -> Sequence[int]:
        """The places of the readings that were taken in a setup, in order."""
        return self._in_setup.get(setup, ())

    def follows_from(self, *setups: str) -> tuple[object, ...]:
        """All that what is said of some setups can follow from, to be compared with what it was before."""
        run, read = self.run, self._by_setup
        sheet = run.sheet
        return (
            *(sheet.parts, sheet.setups, sheet.sweeps, sheet.potentiometers, sheet.groups, sheet.judge),
            *(run.meters, run.simulated, run.seen),
            *(read.get(setup) for setup in (None, *setups)),
        )

    @cached_property
    def _by_setup(self) -> Mapping[str | None, Sequence[tuple[int, Reading]]]:
        """The readings with their places, by the setup that they are for; those of none too."""
        found: dict[str | None, list[tuple[int, Reading]]] = {}
        for k, reading in enumerate(self.run.readings):
            found.setdefault(reading.target.setup, []).append((k, reading))
        return found

    @cached_property
    def _in_setup(self) -> Mapping[str, Sequence[int]]:
        found: dict[str, list[int]] = {}
        for k, reading in enumerate(self.run.readings):
            target = reading.target
            if target.setup is not None and not target.is_part_alone:
                found.setdefault(target.setup, []).append(k)
        return found

    def taken(self, index: int) -> Taken | None:
        """One reading by itself; None where it was over-range."""
        reading = self.run.readings[index]
        if reading.value.value is None:
            return None
        value, off = self.meters.there(reading), _leads_off(reading, self.meters, self.leads)
        spread = _spread_of(reading, value, self.meters)
        if off and off.mean is not None:
            return Taken(value - off.mean, spread - off.spread)
        return Taken(value, spread)


def _as_group(part: PartAlone, found: Sequence[Measurement]) -> Measurement:
    """What was read of all parts of a group, as one of them: its own is how they differ, and what each may be off."""
    values = [measurement.mean or 0.0 for measurement in found]
    mean, shares = math.fsum(values) / len(values), dict[Hashable, float]()
    own = math.fsum((value - mean) ** 2 for value in values)
    for measurement in found:
        for variable, share in measurement.spread.shares.items():
            if is_common(variable):
                shares[variable] = shares.get(variable, 0.0) + share / len(found)
            else:
                own += share**2
    spread = Spread({InGroup(part.part): math.sqrt(own / len(found)), **shares})
    indexes = tuple(sorted(k for measurement in found for k in measurement.indexes))
    return replace(found[0], target=part, indexes=indexes, mean=mean, spread=spread)


def gather(run: Run) -> Measurements:
    """Gather a run's readings: struck ones and looks are kept apart, of those read again the newest stand."""
    groups: dict[Target, list[int]] = {}
    keys: dict[Target, Target] = {}  # a target is read often, and its key is the same every time
    standings = [Standing.COUNTED] * len(run.readings)
    replaced = {reading.instead_of for reading in run.readings if reading.instead_of is not None}
    for index, reading in enumerate(run.readings):
        if reading.struck is not None:
            standings[index] = Standing.REPLACED if index in replaced else Standing.STRUCK
            continue
        key = keys.get(reading.target)
        if key is None:
            key = keys[reading.target] = reading.target.key
        groups.setdefault(key, []).append(index)
    meters = RunMeters(run)
    again: dict[Target, list[list[int]]] = {}
    for key, members in groups.items():
        taken = _stand(members, meters, standings)
        if len(taken) > 1:
            again[key] = taken
    touched: dict[str | None, list[int]] = {}
    for index in groups.get(TouchedLeads(), ()):
        if standings[index].stands:
            touched.setdefault(meters.name(run.readings[index]), []).append(index)
    leads = {meter: gathered(members, TouchedLeads(), meters) for meter, members in touched.items()}
    leads = {meter: measurement for meter, measurement in leads.items() if measurement.mean is not None}
    measurements: dict[Target, Measurement] = {}
    for key, members in groups.items():
        counted = [k for k in members if standings[k].stands]
        if counted:
            first = run.readings[next(k for k in members if standings[k].was_read)]  # its leads are the measurement's
            earlier = tuple(k for k in members if standings[k].was_read and not standings[k].stands)
            measurements[key] = gathered(counted, first.target, meters, _leads_off(first, meters, leads), earlier)
    return Measurements(run, meters, measurements, standings, leads, again)


def _leads_off(reading: Reading, meters: RunMeters, leads: Mapping[str | None, Measurement]) -> Measurement | None:
    """The lead resistance to be taken off a reading: off every resistance read with that meter but the leads' own."""
    target = reading.target
    if not leads or target.measurand is not RESISTANCE or target.is_leads:
        return None
    return leads.get(meters.name(reading))


def _stand(members: Sequence[int], meters: RunMeters, standings: list[Standing]) -> list[list[int]]:
    """Say of the readings of one target which are looks, and which stand; the groups that the others form, in order."""
    readings = meters.run.readings
    numbers = [k for k in members if not readings[k].value.over_range and readings[k].counted is not False]
    # How far readings of each fineness may be off by their digits, and the smallest value among them.
    smallest: dict[float, float] = {}
    if len({(readings[k].value.resolution, readings[k].range) for k in numbers}) > 1:
        for k in numbers:
            limit, value = meters.of(readings[k]).expanded_digits, abs(float(readings[k].value))
            smallest[limit] = min(value, smallest.get(limit, value))
    for k in members:
        reading = readings[k]
        if reading.counted is not None:
            standings[k] = Standing.COUNTED if reading.counted else Standing.LOOK
        elif reading.value.over_range:
            standings[k] = Standing.LOOK if numbers else Standing.COUNTED
        elif not (reading.later and k != members[0]) and _is_coarse(meters.of(reading).expanded_digits, smallest):
            standings[k] = Standing.LOOK
    counted = [k for k in members if standings[k] is Standing.COUNTED]
    groups, stand = grouped(readings, counted, meters.name)
    for k, standing in stand.items():
        standings[k] = standing
    return groups


def _is_coarse(limit: float, smallest: Mapping[float, float]) -> bool:
    """Whether a reading is a first coarse look beside one that is ten times finer: off by more than that one is."""
    return any(limit > value for finer, value in smallest.items() if 10.0 * finer <= limit)


def _spread_of(reading: Reading, value: float, meters: RunMeters) -> Spread:
    """What is uncertain about one reading, the leads not taken off."""
    precision = meters.of(reading)
    shared = precision.shared(value)
    return Spread({Own(reading.target.key): precision.own(value), **dict.fromkeys(precision.gains, shared)})


def gathered(
    members: Sequence[int],
    target: Target,
    meters: RunMeters,
    leads: Measurement | None = None,
    earlier: tuple[int, ...] = (),
) -> Measurement:
    """The mean of trials and what is uncertain about it. Digits and gain are the same in all, and do not shrink."""
    off = leads.mean if leads and leads.mean is not None else 0.0
    places = [k for k in members if not meters.run.readings[k].value.over_range]
    n = len(places)
    if not n:
        return Measurement(target, tuple(members), (), 0.0, 0.0, None, None, NO_SPREAD, earlier=earlier)
    values, resolutions, gains = [], [], dict[Gain, float]()
    own = apart = 0.0
    for k in places:
        reading = meters.run.readings[k]
        precision, read = meters.of(reading), meters.there(reading)
        read = -read if reading.target.reversed_against(target) else read
        own += precision.own(read)
        share = precision.shared(read)
        for gain in precision.gains:
            gains[gain] = gains.get(gain, 0.0) + share
        apart = max(apart, precision.apart)
        values.append(read - off)
        resolutions.append(float(reading.value.resolution or 0))
    mean = math.fsum(values) / n
    deviation, scatter = None, 0.0
    scatters = n > 1 and max(values) - min(values) > apart * (1 + 1e-9)
    if n > 1:
        deviation = math.sqrt(math.fsum((value - mean) ** 2 for value in values) / (n - 1))
        scatter = uncertainty.scatter_uncertainty(deviation, n) if scatters else 0.0
    spread = Spread({Own(target.key): math.hypot(own / n, scatter), **{g: share / n for g, share in gains.items()}})
    if leads and leads.mean is not None:
        spread -= leads.spread
    return Measurement(
        target,
        tuple(members),
        tuple(values),
        min(resolutions),
        apart,
        mean,
        deviation,
        spread,
        scatters,
        earlier,
        tuple(places[k] for k in _far(values, apart)) if scatters else (),
        off,
    )


def _far(values: Sequence[float], digits: float) -> Iterator[int]:
    """The places of trials that are none: one far from the others, or both of two that lie far apart."""
    if len(values) == 2:
        apart = abs(values[0] - values[1])
        if apart > max(3.0 * digits, 0.05 * max(map(abs, values))):
            yield from (0, 1)
        return
    ordered = sorted(values)
    middle = ordered[len(ordered) // 2]
    k = max(range(len(values)), key=lambda place: abs(values[place] - middle))
    others = [value for place, value in enumerate(values) if place != k]
    mean = math.fsum(others) / len(others)
    if abs(values[k] - mean) > max(_FAR * max(abs(value - mean) for value in others), 2.0 * digits):
        yield k
