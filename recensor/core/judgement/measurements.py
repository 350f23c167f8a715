"""Readings gathered by target: which of them count, their mean, their scatter, and how far they may be off."""

import math
from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from recensor.core import uncertainty
from recensor.core.circuit import PartAlone, Target, TouchedLeads
from recensor.core.meters import ORDINARY_HANDHELD, Precision, Profile
from recensor.core.quantity import RESISTANCE, Measurand
from recensor.core.record import Reading, Run
from recensor.core.uncertainty import NO_SPREAD, Spread

# Of the square of a gain's uncertainty this share is each reading's own; the rest is in equal shares the function's
# and the range's, the same in every reading taken with them (our own split, for want of what makers do not say).
_OWN_GAIN = 1.0 / 16.0
_SHARED_GAIN = math.sqrt((1.0 - _OWN_GAIN) / 2.0 / 3.0)

# A trial this many times farther from the others than they are from each other is named.
_FAR = 5.0


class Standing(StrEnum):
    """How a reading stands in the books."""

    COUNTED = "counted"
    LOOK = "look"
    LATER = "later"
    REPLACED = "replaced"
    STRUCK = "struck"


@dataclass(frozen=True)
class Own:
    """The variable of what is a target's own in its readings: digits, scatter, and a share of the gain."""

    target: Target


@dataclass(frozen=True)
class Gain:
    """The variable of a meter's gain for a function, or for one range of it; None is the meter nobody described."""

    meter: str | None
    measurand: Measurand
    range: Hashable = None


@dataclass(frozen=True)
class Measurement:
    """A target with its readings that count, all turned to the target's direction, in SI units.

    `mean` is None when every reading was over-range; `spread` is what is uncertain about the mean. `resolution` is
    the last digit as typed, `digits` how far apart trials may lie and still say no more than the meter does of itself.
    `later` are the indexes of readings taken again after others, `far` those of trials far from the others; `leads`
    were taken off each, in ohms.
    """

    target: Target
    indexes: tuple[int, ...]
    values: tuple[float, ...]
    resolution: float
    digits: float
    mean: float | None
    deviation: float | None
    spread: Spread
    scatters: bool = False
    later: tuple[int, ...] = ()
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

    `standings` has one for each reading of the run; `leads` what the touched probes of a meter read.
    """

    run: Run
    by_target: dict[Target, Measurement]
    standings: list[Standing]
    leads: Mapping[str | None, Measurement]
    assumed: bool

    def of(self, target: Target) -> Measurement | None:
        """The measurement of a target, None where it was not read."""
        return self.by_target.get(target.key)

    def read(self, target: Target) -> Measurement | None:
        """The measurement of a target that has a mean."""
        measurement = self.by_target.get(target.key)
        return measurement if measurement and measurement.mean is not None else None

    def in_setup(self, setup: str) -> Sequence[int]:
        """The places of the readings that were taken in a setup, in order."""
        return self._in_setup.get(setup, ())

    @cached_property
    def _in_setup(self) -> Mapping[str, Sequence[int]]:
        found: dict[str, list[int]] = {}
        for k, reading in enumerate(self.run.readings):
            target = reading.target
            if target.setup is not None and not isinstance(target, PartAlone):
                found.setdefault(target.setup, []).append(k)
        return found

    def taken(self, index: int) -> Taken | None:
        """One reading by itself; None where it was over-range."""
        reading = self.run.readings[index]
        if reading.value.value is None:
            return None
        found = gathered([(index, reading)], reading.target, self.run, _leads_off(reading, self.run, self.leads))
        return Taken(found.mean or 0.0, found.spread)


def gather(run: Run) -> Measurements:
    """Gather a run's readings: struck ones and looks are kept apart, later ones stand beside the earlier."""
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
    for members in groups.values():
        _stand(members, run, standings)
    touched: dict[str | None, list[tuple[int, Reading]]] = {}
    for index in groups.get(TouchedLeads(), ()):
        if standings[index] is Standing.COUNTED:
            touched.setdefault(_meter_name(run.readings[index], run), []).append((index, run.readings[index]))
    leads = {meter: gathered(members, TouchedLeads(), run) for meter, members in touched.items()}
    leads = {meter: measurement for meter, measurement in leads.items() if measurement.mean is not None}
    found: dict[Target, Measurement] = {}
    for key, members in groups.items():
        counted = [(k, run.readings[k]) for k in members if standings[k] is Standing.COUNTED]
        if counted:
            first = counted[0][1]
            later = tuple(k for k in members if standings[k] is Standing.LATER)
            off = _leads_off(first, run, leads)
            found[key] = gathered(counted, first.target, run, off, later)
    return Measurements(run, found, standings, leads, _is_assumed(run))


def _is_assumed(run: Run) -> bool:
    """Whether some reading was taken with a meter that nobody described, in that function at least."""
    return any(
        reading.struck is None
        and not ((profile := run.profile_of(reading)) and profile.reads(reading.target.measurand))
        for reading in run.readings
    )


def _meter_name(reading: Reading, run: Run) -> str | None:
    """The name of a reading's meter; None where nobody described it."""
    if reading.meter is None and len(run.meters) == 1:
        return next(iter(run.meters))
    return reading.meter


def _leads_off(reading: Reading, run: Run, leads: Mapping[str | None, Measurement]) -> Measurement | None:
    """The lead resistance to be taken off a reading: off every resistance read with that meter but the leads' own."""
    target = reading.target
    if not leads or target.measurand is not RESISTANCE or isinstance(target, TouchedLeads):
        return None
    return leads.get(_meter_name(reading, run))


def _stand(members: Sequence[int], run: Run, standings: list[Standing]) -> None:
    """Say of the readings of one target which are looks, and which were taken later."""
    numbers = [k for k in members if not run.readings[k].value.over_range and run.readings[k].counted is not False]
    # How far readings of each fineness may be off by their digits, and the smallest value among them.
    smallest: dict[float, float] = {}
    if len({(run.readings[k].value.resolution, run.readings[k].range) for k in numbers}) > 1:
        kept: dict[Hashable, Precision] = {}
        for k in numbers:
            limit, value = _limit_of(run.readings[k], run, kept), abs(float(run.readings[k].value))
            smallest[limit] = min(value, smallest.get(limit, value))
    begun = False
    for k in members:
        reading = run.readings[k]
        if reading.counted is not None:
            standings[k] = Standing.COUNTED if reading.counted else Standing.LOOK
        elif reading.value.over_range:
            standings[k] = Standing.LOOK if numbers else Standing.COUNTED
        elif smallest and _is_coarse(_limit_of(reading, run, kept), smallest):
            standings[k] = Standing.LOOK
        if standings[k] is Standing.COUNTED:
            if reading.later and begun:
                standings[k] = Standing.LATER
            begun = True


def _is_coarse(limit: float, smallest: Mapping[float, float]) -> bool:
    """Whether a reading is a first coarse look beside one that is ten times finer: off by more than that one is."""
    return any(limit > value for finer, value in smallest.items() if 10.0 * finer <= limit)


def _limit_of(reading: Reading, run: Run, kept: dict[Hashable, Precision]) -> float:
    """The expanded uncertainty of a reading's digits."""
    precision, resolution = _precision(reading, run, kept), float(reading.value.resolution or 0)
    return uncertainty.COVERAGE_FACTOR * math.sqrt(
        (precision.accuracy.digits * precision.step) ** 2 / 3.0 + resolution**2 / 12.0
    )


def _precision(reading: Reading, run: Run, kept: dict[Hashable, Precision]) -> Precision:
    """How far a reading may be off by its meter; `kept` for profiles that do not depend on the value."""
    profile: Profile = run.profile_of(reading) or ORDINARY_HANDHELD
    measurand, digit = reading.target.measurand, float(reading.value.resolution or 0)
    named = float(reading.range) if reading.range else None
    if measurand in profile.ranges and named is None:
        return profile.precision(measurand, float(reading.value), digit, named)
    place = (profile, measurand, digit, named)
    if place not in kept:
        kept[place] = profile.precision(measurand, float(reading.value), digit, named)
    return kept[place]


def gathered(
    members: Sequence[tuple[int, Reading]],
    target: Target,
    run: Run,
    leads: Measurement | None = None,
    later: tuple[int, ...] = (),
) -> Measurement:
    """The mean of trials and what is uncertain about it. Digits and gain are the same in all, and do not shrink."""
    off = leads.mean if leads and leads.mean is not None else 0.0
    kept: dict[Hashable, Precision] = {}
    values, resolutions, places, gains = [], [], [], dict[Gain, float]()
    own = digits = 0.0
    for index, reading in members:
        if reading.value.value is None or reading.value.resolution is None:
            continue
        precision, resolution = _precision(reading, run, kept), float(reading.value.resolution)
        read = -float(reading.value.value) if reading.target.turned_against(target) else float(reading.value.value)
        a, d = precision.accuracy.ratio, precision.accuracy.digits
        own += math.sqrt((d * precision.step) ** 2 / 3.0 + resolution**2 / 12.0 + _OWN_GAIN * (a * read) ** 2 / 3.0)
        if a:
            meter = _meter_name(reading, run)
            for gain in (Gain(meter, target.measurand), Gain(meter, target.measurand, precision.range)):
                gains[gain] = gains.get(gain, 0.0) + _SHARED_GAIN * a * read
        digits = max(digits, (2 * d + 1) * max(precision.step, resolution))
        values.append(read - off)
        resolutions.append(resolution)
        places.append(index)
    indexes = tuple(index for index, _ in members)
    n = len(values)
    if not n:
        return Measurement(target, indexes, (), 0.0, 0.0, None, None, NO_SPREAD, later=later)
    mean = math.fsum(values) / n
    deviation, scatter = None, 0.0
    scatters = n > 1 and max(values) - min(values) > digits * (1 + 1e-9)
    if n > 1:
        deviation = math.sqrt(math.fsum((value - mean) ** 2 for value in values) / (n - 1))
        scatter = uncertainty.scatter_uncertainty(deviation, n) if scatters else 0.0
    spread = Spread(
        {Own(target.key): math.hypot(own / n, scatter), **{gain: share / n for gain, share in gains.items()}}
    )
    if leads and leads.mean is not None:
        spread -= leads.spread
    far = tuple(places[k] for k in _far(values, digits)) if scatters else ()
    return Measurement(
        target,
        indexes,
        tuple(values),
        min(resolutions),
        digits,
        mean,
        deviation,
        spread,
        scatters,
        later,
        far,
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
