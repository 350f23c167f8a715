"""What was read, as arrays: every counted and every later reading, trials and all, with what its display gives."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Across, Setup, Sheet, Target, Through, all_readings
from recensor.core.judgement import Gain, Measurements, ReadingPrecision
from recensor.core.meters import NOTHING_FOUND, AsFound, Range
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, Measurand, Quantity
from recensor.core.record import Light, Reading, Run
from recensor.core.solving import Network, NetworkError, elements_of
from recensor.core.uncertainty import Array

# An ordinary handheld (common practice, no source): its input in ohms, the full scales of its current ranges in
# amperes, and the volts that it takes at full scale, with the standard deviation of their logarithm.
_INPUT = 1e7
_FULL_SCALES = (2e-3, 2e-2, 0.2, 10.0)
_BURDEN, _BURDEN_SPREAD = 0.1, 1.0

# The counts of displays, by which the range is told where only digits were typed; none is told below this full scale
# in amperes, or a slip of the prefix would make up a meter of which nobody has heard.
_COUNTS = (2000, 4000, 6000, 20_000)
_SMALLEST_SCALE = 2e-4

# Of a described meter the burden is as stated within this share.
_STATED_BURDEN_SPREAD = 0.1

# How much of what is a reading's own, and not said by its digits, the next trial of the same point shares.
_TRIALS_SHARE = 0.8

# A source and the contacts of a board do not keep still: shares of each reading, and ohms (common practice, no source).
_RESTLESS, _CONTACT = 1e-3, 0.02

# What it gives before it is connected for a setup is the same within this share.
_BEFORE = 0.01

# Of its stated power a light that takes less than this share is dark (common practice, no source).
_DARK_BELOW = 0.02

# No more points than this are looked at beside those that were read; and of more readings those that say something.
_MOST_POINTS, _MOST_READINGS = 400, 300

Integers = NDArray[np.int64]


@dataclass(frozen=True)
class ObservedTarget:
    """One point that can be read, whichever way round the leads are; `left_in`: every source in place, switched off."""

    target: Target
    left_in: bool = False


@dataclass(frozen=True)
class OverRange:
    """An over-range reading: its index in the run, the row of its point, and the range where one was named."""

    index: int
    row: int
    limit: float


@dataclass(frozen=True)
class SeenLight:
    """A lamp or light diode that was seen dark, or not: the rows of what lies across it and flows through it.

    Below so many `watts` it is dark.
    """

    volts: int
    amperes: int
    watts: float
    is_dark: bool


@dataclass(frozen=True)
class Observations:
    """The readings of a run that are numbers, one for each place of these arrays, in SI units.

    Attributes
    ----------
    points : every point that was read, then those that could be; `rows` says which point each reading is of.
    indexes : the readings' places in the run, −1 for one that was not `taken`.
    signs : −1 where the leads were turned against the point's own direction; `directions` (points,) likewise as each
        point is read: as it was typed, else as the leads of a part lie there.
    by_digits, gain, gains : what the display gives, and the columns of the gains that a reading shares (−1 for none).
    repeats : how many readings there are of the same point.
    input_siemens : what a voltmeter puts across; `burden` what an ammeter puts in, in ohms, `burden_spread` the
        standard deviation of its logarithm.
    full : the full scale of a current's range in amperes, by which its burden is told; 0 of other readings; `ranges`
        number them.
    found_gains, found_offsets : how many times what is there each reading's meter was found to show, and how much more.
    """

    run: Run
    measurements: Measurements
    points: tuple[ObservedTarget, ...]
    indexes: Integers
    taken: NDArray[np.bool_]
    readings: tuple[Reading, ...]
    rows: Integers
    signs: Array
    directions: Array
    values: Array
    by_digits: Array
    gain: Array
    gains: Integers
    gain_names: tuple[Gain, ...]
    repeats: Array
    restless: Array
    contact: Array
    input_siemens: Array
    burden: Array
    burden_spread: Array
    full: Array
    ranges: Integers
    found_gains: Array
    found_offsets: Array
    measurands: tuple[Measurand, ...]
    over_range: tuple[OverRange, ...]
    seen: tuple[SeenLight, ...] = ()

    @property
    def count(self) -> int:
        """How many readings are numbers."""
        return len(self.indexes)

    def reading(self, place: int) -> Reading:
        """The reading at a place of the arrays."""
        return self.readings[place]

    @cached_property
    def row_of(self) -> dict[ObservedTarget, int]:
        """The row of each point."""
        return {point: row for row, point in enumerate(self.points)}

    @cached_property
    def asked(self) -> list[int]:
        """The places of those that were not taken."""
        return [int(k) for k in np.flatnonzero(~self.taken)]

    def of(self, *measurands: Measurand) -> list[int]:
        """The places of the readings of these quantities."""
        return [k for k, measurand in enumerate(self.measurands) if measurand in measurands]

    def target(self, place: int) -> Target:
        """Where a reading was taken."""
        return self.reading(place).target

    def as_read(self, row: int) -> Target:
        """A point as it is read, the leads the way round that its readings have, or that a part has there."""
        return as_directed(self.points[row].target, self.directions[row])

    def precision(self, place: int, value: Quantity) -> ReadingPrecision:
        """What the display would give if it had shown another value there; a slip of digits takes its own range."""
        return self.measurements.meters.of(replace(self.reading(place), value=value, range=None))

    def burden_at(self, place: int, value: Quantity) -> tuple[float, float]:
        """What an ammeter that shows another value there puts in, in ohms, and its full scale in amperes."""
        reading = replace(self.reading(place), value=value, range=None)
        if reading.target.measurand is not CURRENT:
            return float(self.burden[place]), float(self.full[place])
        full = _full_scale(self.run, reading)
        return _burden(self.run, reading, full)[0], full

    def gain_columns(self, gains: Sequence[Gain]) -> tuple[int, int]:
        """The columns of gains; −1 for one that no reading has."""
        places = [self.gain_names.index(gain) if gain in self.gain_names else -1 for gain in gains]
        return (places[0], places[1]) if places else (-1, -1)


def observe(
    run: Run, measurements: Measurements, *, points: Sequence[ObservedTarget] = (), asked: Sequence[Reading] = ()
) -> Observations:
    """Gather what was read, and every point that could be; known `points` keep their rows.

    `asked` are readings that were not taken: what they would show is predicted, and they say nothing.
    """
    unsolvable = {setup.name for setup in run.sheet.setups.values() if _has_no_solution(run.sheet, setup)}
    counted = [
        k
        for k, standing in enumerate(measurements.standings)
        if standing.was_read and _says_something(run.readings[k].target, run.sheet, unsolvable)
    ]
    numbers = _few(run, measurements, [k for k in counted if not run.readings[k].value.over_range])
    known = dict.fromkeys(points or (ObservedTarget(run.readings[k].target.key) for k in counted))
    lights = [light for light in _lights(run) if light[0].setup not in unsolvable]
    known |= dict.fromkeys(ObservedTarget(target) for across, through, _, _ in lights for target in (across, through))
    for point in () if points else _could_be(run.sheet):
        if len(known) >= _MOST_POINTS:
            break
        known.setdefault(point)
    row_of = {point: row for row, point in enumerate(known)}
    readings = [*(run.readings[k] for k in numbers), *asked]
    rows = np.array([row_of[ObservedTarget(r.target.key)] for r in readings], int)
    shown = [measurements.meters.of(r) for r in readings]
    names = tuple(dict.fromkeys(gain for precision in shown for gain in precision.gains))
    places = {gain: k for k, gain in enumerate(names)}
    times = np.bincount(rows[: len(numbers)], minlength=len(known))
    exact = [_is_exact(run, r) for r in readings]
    fulls = [0.0 if r.target.measurand is not CURRENT else _full_scale(run, r) for r in readings]
    burdens = [_burden(run, r, full) for r, full in zip(readings, fulls, strict=True)]
    places_of = {full: k for k, full in enumerate(sorted(set(fulls)))}
    return Observations(
        run=run,
        measurements=measurements,
        points=tuple(known),
        indexes=np.array([*numbers, *(-1 for _ in asked)], int),
        taken=np.arange(len(readings)) < len(numbers),
        readings=tuple(readings),
        rows=rows,
        signs=np.array([-1.0 if r.target.reversed_against(r.target.key) else 1.0 for r in readings]),
        directions=np.array([_direction(run.sheet, point.target, readings) for point in known]),
        values=np.array([float(r.value) for r in readings]),
        by_digits=np.array([precision.by_digits for precision in shown]),
        gain=np.array([precision.gain for precision in shown]),
        gains=np.array([[places[g] for g in precision.gains] or [-1, -1] for precision in shown], int).reshape(-1, 2),
        gain_names=names,
        repeats=np.maximum(times[rows], 1.0) if len(rows) else np.zeros(0),
        restless=np.array([0.0 if run.simulated else _restlessness(r.target, measurements) for r in readings]),
        contact=np.array(
            [
                0.0 if e or r.target.measurand is not RESISTANCE else _CONTACT
                for r, e in zip(readings, exact, strict=True)
            ]
        ),
        input_siemens=np.array([_input_siemens(run, r) for r in readings]),
        burden=np.array([one for one, _ in burdens]),
        burden_spread=np.array([spread for _, spread in burdens]),
        full=np.array(fulls),
        ranges=np.array([places_of[full] for full in fulls], int),
        found_gains=np.array([_found(run, r).gains.get(r.target.measurand, 1.0) for r in readings]),
        found_offsets=np.array([_found(run, r).offsets.get(r.target.measurand, 0.0) for r in readings]),
        measurands=tuple(r.target.measurand for r in readings),
        over_range=tuple(
            OverRange(k, row_of[ObservedTarget(run.readings[k].target.key)], _limit(run, run.readings[k]))
            for k in counted
            if run.readings[k].value.over_range
        ),
        seen=tuple(
            SeenLight(row_of[ObservedTarget(across)], row_of[ObservedTarget(through)], watts, is_dark)
            for across, through, watts, is_dark in lights
        ),
    )


def _lights(run: Run) -> Iterator[tuple[Target, Target, float, bool]]:
    """What lies across each light that was seen and flows through it, below how many watts it is dark, and if so."""
    for one in run.seen:
        part, setup = run.sheet.parts[one.part], run.sheet.setups[one.setup]
        if part.nominal is not None and part.current is not None and one.part in setup.connections:
            watts = _DARK_BELOW * float(part.nominal) * float(part.current)
            across = Across(VOLTAGE, setup.connections[one.part], setup.name).key
            yield across, Through(one.part, setup.name), watts, one.light is Light.DARK


def as_directed(target: Target, direction: float) -> Target:
    """A target, or with its leads turned where the direction is −1."""
    return replace(target, nodes=target.nodes[::-1]) if direction < 0 and target.is_across else target


def _direction(sheet: Sheet, key: Target, readings: Sequence[Reading]) -> float:
    """Which way round a point is read: as it was typed, else as the leads of a part lie there."""
    if not key.is_across or key.measurand is RESISTANCE:
        return 1.0
    typed = next((r.target for r in readings if r.target.key == key), None)
    if typed is not None:
        return -1.0 if typed.reversed_against(key) else 1.0
    leads = sheet.setups[key.setup].connections.values()
    return -1.0 if key.nodes not in leads and key.nodes[::-1] in leads else 1.0


def noise(observed: Observations, by_digits: Array, sizes: Array, gain: Array) -> Array:
    """The variances of what is each reading's own, where displays show so much; trials do not shrink it."""
    own = by_digits**2 + (gain * sizes) ** 2 / 48.0 + (observed.restless * sizes) ** 2 + observed.contact**2
    return np.asarray(own * (1.0 - _TRIALS_SHARE + _TRIALS_SHARE * observed.repeats))


def _few(run: Run, measurements: Measurements, numbers: list[int]) -> list[int]:
    """Of very many readings, of each point the first, and those trials that do not show the same as it."""
    if len(numbers) <= _MOST_READINGS:
        return numbers
    shown: dict[Target, tuple[float, float]] = {}
    kept = []
    for k in numbers:
        reading = run.readings[k]
        value = -float(reading.value) if reading.target.reversed_against(reading.target.key) else float(reading.value)
        first, apart = shown.setdefault(reading.target.key, (math.nan, measurements.meters.of(reading).apart))
        if not abs(value - first) <= apart:
            kept.append(k)
        if math.isnan(first):
            shown[reading.target.key] = value, apart
    return kept[:_MOST_READINGS]


def _says_something(target: Target, sheet: Sheet, unsolvable: set[str]) -> bool:
    """Whether what was read at a target can be held against a circuit: not of a lamp cold, nor of what is being set."""
    if target.is_part_alone:
        kind = sheet.parts[target.part].kind
        return kind.same_out_of_circuit and not kind.differs_by_setup
    if target.measurand is RESISTANCE and _is_nonlinear(sheet, target.setup):
        return False
    return target.step is None and target.setup not in unsolvable


def _is_nonlinear(sheet: Sheet, setup: str | None) -> bool:
    """Whether a setup has a lamp or a diode, of which an ohmmeter says little."""
    connections = sheet.setups[setup].connections if setup else {}
    return any(sheet.parts[name].kind.is_nonlinear for name in connections)


def _has_no_solution(sheet: Sheet, setup: Setup) -> bool:
    """Whether nothing can be calculated of a setup as it is drawn: what is read there says nothing."""
    nonlinear = [sheet.parts[name] for name in setup.connections if sheet.parts[name].kind.is_nonlinear]
    if any(part.nominal is None or part.current is None for part in nonlinear):
        return True
    any_values = dict.fromkeys(setup.connections, 1.0) | {
        name: float(part.nominal) for name, part in sheet.parts.items() if part.nominal
    }
    try:
        Network(elements_of(setup, sheet.parts, any_values), setup.reference).solve()
    except NetworkError:
        return True
    return False


def _could_be(sheet: Sheet) -> Iterator[ObservedTarget]:
    """Every point that could be read; resistances across each part in the circuit among them."""
    for target in all_readings(sheet):
        if _says_something(target, sheet, set()):
            yield ObservedTarget(target.key)
    for setup in sheet.setups.values():
        for name, leads in setup.connections.items():
            is_source = sheet.parts[name].kind.is_source
            if not is_source and leads[0] != leads[1] and not _is_nonlinear(sheet, setup.name):
                across = Across(RESISTANCE, leads, setup.name).key
                yield ObservedTarget(across)
                yield ObservedTarget(across, left_in=True)
        for name, leads in setup.connections.items():
            if leads[0] != leads[1]:
                yield ObservedTarget(Across(VOLTAGE, leads, setup.name).key)
            yield ObservedTarget(Through(name, setup.name))


def _is_exact(run: Run, reading: Reading) -> bool:
    profile = run.profile_of(reading)
    return profile is not None and profile.is_exact


def _found(run: Run, reading: Reading) -> AsFound:
    """What was found of the meter of a reading."""
    profile = run.profile_of(reading)
    return profile.found if profile else NOTHING_FOUND


def _restlessness(target: Target, measurements: Measurements) -> float:
    """By what share of itself a reading may differ from what was there a while before.

    A part of a group may be another of them by now.
    """
    if target.is_part_alone and measurements.run.sheet.group_of(target.part):
        any_of_them = measurements.of_part(target)
        return any_of_them.spread.standard / abs(any_of_them.mean or 1.0) if any_of_them else 0.0
    if target.measurand is RESISTANCE:
        return 0.0
    return _BEFORE if target.is_part_alone and target.setup is not None else _RESTLESS


def _limit(run: Run, reading: Reading) -> float:
    """Beyond what a meter shows over-range: the named range, else its largest."""
    if reading.range is not None:
        return float(reading.range)
    profile = run.profile_of(reading)
    ranges = profile.ranges.get(reading.target.measurand, ()) if profile else ()
    largest = {RESISTANCE: 2e7, VOLTAGE: 600.0, CURRENT: 10.0}[reading.target.measurand]
    return max((one.full for one in ranges), default=largest)


def _taken(run: Run, reading: Reading) -> Range | None:
    """The range that a reading was taken in, where its meter is described."""
    profile = run.profile_of(reading)
    if profile is None:
        return None
    named, digit = float(reading.range) if reading.range else None, float(reading.value.resolution or 0)
    return profile.range_for(reading.target.measurand, float(reading.value), digit, named)


def _full_scale(run: Run, reading: Reading) -> float:
    """The full scale of the range that a current was read in: by its size, and by the digits that were typed."""
    size, step = abs(float(reading.value)), float(reading.value.resolution or 1)
    taken = _taken(run, reading)
    if taken:
        return taken.full
    if reading.range is not None:
        return float(reading.range)
    by_size = next((full for full in _FULL_SCALES if size <= full), _FULL_SCALES[-1])
    return max(_SMALLEST_SCALE, min([by_size, *(count * step for count in _COUNTS if size <= count * step)]))


def _input_siemens(run: Run, reading: Reading) -> float:
    if reading.target.measurand is not VOLTAGE or not reading.target.is_across or _is_exact(run, reading):
        return 0.0
    taken = _taken(run, reading)
    stated = taken.input_resistance if taken else _found(run, reading).input_resistance
    return 1.0 / (stated or _INPUT)


def _burden(run: Run, reading: Reading, full: float) -> tuple[float, float]:
    """What an ammeter puts in, in ohms, with the standard deviation of its logarithm."""
    if not reading.target.is_through or _is_exact(run, reading):
        return 0.0, 0.0
    taken = _taken(run, reading)
    ohms = taken.burden if taken else _found(run, reading).in_amperes(full)
    if ohms is not None:
        return ohms, _STATED_BURDEN_SPREAD
    return _BURDEN / full, _BURDEN_SPREAD
