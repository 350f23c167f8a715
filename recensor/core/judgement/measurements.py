"""Readings gathered by target: trials, their mean, scatter and uncertainty."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core import uncertainty
from recensor.core.circuit import Kind
from recensor.core.record import LEADS, RESISTANCE, Reading, Run, Target

Key = tuple[str | None, str, str, tuple[str, ...]]
LEADS_KEY: Key = Target(RESISTANCE, of=LEADS).key


@dataclass(frozen=True)
class Measurement:
    """A target with its readings, all turned to the target's direction, in SI units.

    `mean` is None when every reading was over-range; `uncertainty` is the mean's standard one.
    """

    target: Target
    indexes: tuple[int, ...]
    values: tuple[float, ...]
    resolution: float
    mean: float | None
    deviation: float | None
    uncertainty: float | None

    @property
    def count(self) -> int:
        """How many readings give the mean; over-range ones do not count."""
        return len(self.values)


@dataclass(frozen=True)
class LeadResistance:
    """What the touched probes read, in ohms, with its standard uncertainty."""

    value: float = 0.0
    uncertainty: float = 0.0


def gather(run: Run) -> dict[Key, Measurement]:
    """One measurement for each target that was read, in the order of first reading; struck readings left out."""
    groups: dict[Key, list[tuple[int, Reading]]] = {}
    for index, reading in enumerate(run.readings):
        if reading.struck is None:
            groups.setdefault(reading.target.key, []).append((index, reading))
    found: dict[Key, Measurement] = {}
    leads = lead_resistance(run)
    for key, members in groups.items():
        found[key] = _measurement(members, leads if is_part_resistance(members[0][1].target, run) else LeadResistance())
    return found


def lead_resistance(run: Run) -> LeadResistance:
    """The mean reading of the touched probes, which is subtracted from every part read out of circuit."""
    members = [(k, r) for k, r in enumerate(run.readings) if r.struck is None and r.target.key == LEADS_KEY]
    if LEADS in run.parts or not members:
        return LeadResistance()
    measured = _measurement(members, LeadResistance())
    return LeadResistance(measured.mean or 0.0, measured.uncertainty or 0.0)


def is_part_resistance(target: Target, run: Run) -> bool:
    """Whether this is a resistor read by itself, from which the leads are subtracted."""
    part = run.parts.get(target.of or "")
    return part is not None and part.kind is Kind.RESISTOR


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
    meter = uncertainty.meter_uncertainty(values, resolutions)
    standard = math.hypot(meter, scatter, leads.uncertainty)
    return Measurement(target, indexes, tuple(values), min(resolutions), mean, deviation, standard)
