"""Readings gathered by target: trials, their mean, scatter and uncertainty."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.circuit import PartAlone, Sheet, Target, TouchedLeads
from recensor.core.quantity import RESISTANCE
from recensor.core.record import Reading, Run


@dataclass(frozen=True)
class Measurement:
    """A target with its readings, all turned to the target's direction, in SI units.

    `mean` is None when every reading was over-range; `standard` is the mean's standard uncertainty.
    """

    target: Target
    indexes: tuple[int, ...]
    values: tuple[float, ...]
    resolution: float
    mean: float | None
    deviation: float | None
    standard: float | None

    @property
    def count(self) -> int:
        """How many readings give the mean; over-range ones do not count."""
        return len(self.values)


@dataclass(frozen=True)
class LeadResistance:
    """What the touched probes read, in ohms, with its standard uncertainty."""

    value: float = 0.0
    standard: float = 0.0


@dataclass(frozen=True)
class Measurements:
    """One measurement for each target that was read, in the order of first reading, by the target's key."""

    by_target: dict[Target, Measurement]
    leads: LeadResistance

    def of(self, target: Target) -> Measurement | None:
        """The measurement of a target, None where it was not read."""
        return self.by_target.get(target.key)

    def read(self, target: Target) -> Measurement | None:
        """The measurement of a target that has a mean."""
        measurement = self.by_target.get(target.key)
        return measurement if measurement and measurement.mean is not None else None


def gather(run: Run) -> Measurements:
    """Gather a run's readings; struck ones are left out."""
    groups: dict[Target, list[tuple[int, Reading]]] = {}
    for index, reading in enumerate(run.readings):
        if reading.struck is None:
            groups.setdefault(reading.target.key, []).append((index, reading))
    leads = LeadResistance()
    if touched := groups.get(TouchedLeads()):
        measured = _measurement(touched, leads)
        leads = LeadResistance(measured.mean or 0.0, measured.standard or 0.0)
    found = {
        key: _measurement(members, leads if is_part_resistance(key, run.sheet) else LeadResistance())
        for key, members in groups.items()
    }
    return Measurements(found, leads)


def is_part_resistance(target: Target, sheet: Sheet) -> bool:
    """Whether this is a resistance of a part by itself, from which the leads are subtracted."""
    return isinstance(target, PartAlone) and target.measurand is RESISTANCE and target.part in sheet.parts


def _measurement(members: Sequence[tuple[int, Reading]], leads: LeadResistance) -> Measurement:
    target = members[0][1].target
    values, resolutions = [], []
    for _, reading in members:
        if reading.value.value is not None and reading.value.resolution is not None:
            sign = -1.0 if reading.target.turned_against(target) else 1.0
            values.append(sign * float(reading.value) - leads.value)
            resolutions.append(float(reading.value.resolution))
    indexes = tuple(index for index, _ in members)
    if not values:
        return Measurement(target, indexes, (), 0.0, None, None, None)
    mean = math.fsum(values) / len(values)
    squares = math.fsum((value - mean) ** 2 for value in values)
    deviation = math.sqrt(squares / (len(values) - 1)) if len(values) > 1 else None
    scatter = uncertainty.scatter_uncertainty(deviation, len(values)) if deviation is not None else 0.0
    meter = uncertainty.meter_uncertainty(resolutions)
    standard = math.hypot(meter, scatter, leads.standard)
    return Measurement(target, indexes, tuple(values), min(resolutions), mean, deviation, standard)
