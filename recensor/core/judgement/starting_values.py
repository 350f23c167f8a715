"""What a calculation starts from: what every part was read to be, else what stands on it."""

import math
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from recensor.core.circuit import MEASURED, NOMINAL, Basis, PartAlone, Setup, Sheet
from recensor.core.judgement.measurements import Measurement, Measurements
from recensor.core.judgement.precision import is_common
from recensor.core.judgement.sources import Given, Sources
from recensor.core.solving import Value, Values, stated, stated_value
from recensor.core.uncertainty import Spread


@dataclass(frozen=True)
class StartingValue:
    """A part's value as a calculation starts from it.

    `own` is the standard uncertainty that it has in common with no other, None where nothing is known of it; `shared`
    are the shares of variables that other parts and readings have too.
    """

    size: float | None
    own: float | None
    shared: tuple[tuple[Hashable, float], ...] = ()

    @property
    def standard(self) -> float | None:
        """Its standard uncertainty, own and shared."""
        return None if self.own is None else math.hypot(self.own, *(share for _, share in self.shared))

    @classmethod
    def of_value(cls, value: Value) -> "StartingValue":
        """A stated value."""
        return cls(value.size, value.standard)

    @classmethod
    def read(cls, size: float, spread: Spread) -> "StartingValue":
        """A value that was read."""
        shared = tuple((v, u) for v, u in spread.shares.items() if is_common(v))
        own = sum(u * u for v, u in spread.shares.items() if not is_common(v)) ** 0.5
        return cls(size, own, shared)


def values_of(sheet: Sheet, setup: Setup, measurements: Measurements, basis: Basis) -> Values:
    """What a calculation of one setup starts from, as it stands after the last reading."""
    if basis is NOMINAL:
        return stated(sheet, setup)
    given = Sources(sheet, measurements).given(setup, None, frozenset())
    parts = known_of(sheet, setup, measurements, dict(given))
    return Values({name: Value(known.size, known.standard) for name, known in parts.items()})


def known_of(
    sheet: Sheet, setup: Setup, measurements: Measurements, given: Mapping[str, Given]
) -> dict[str, StartingValue]:
    """What every part of a setup was read to be: the mean of its readings where there are any, else as stated."""
    values = {}
    for name in setup.connections:
        kind = sheet.parts[name].kind
        read = None
        if kind.differs_by_setup:
            read = _as_set(sheet, setup, measurements, name)
        elif not kind.is_source and kind.same_out_of_circuit and name not in setup.values:
            read = measurements.of_part(PartAlone(name, kind.measured_as))
        if name in given:
            values[name] = StartingValue.read(given[name].value, given[name].spread)
        elif read and read.mean is not None:
            values[name] = StartingValue.read(read.mean, read.spread)
        else:
            values[name] = StartingValue.of_value(stated_value(sheet, setup, name))
    for upper, lower in sheet.potentiometers.values():
        if upper in values and not _as_set(sheet, setup, measurements, upper):
            read = _as_set(sheet, setup, measurements, lower)
            whole = sheet.parts[lower].nominal
            if read and read.mean is not None and whole is not None and read.mean < float(whole):
                values[upper] = replace(values[upper], size=float(whole) - read.mean)
    return values


def _as_set(sheet: Sheet, setup: Setup, measurements: Measurements, name: str) -> Measurement | None:
    """What a part that is set was read to be set to: for this setup, else in general where all set it alike."""
    measurand = sheet.parts[name].kind.measured_as
    if measurement := measurements.read(PartAlone(name, measurand, setup.name)):
        return measurement
    return measurements.read(PartAlone(name, measurand)) if sheet.set_alike(name) else None


def cold_of(sheet: Sheet, setup: Setup, measurements: Measurements, basis: Basis) -> dict[str, StartingValue]:
    """What an ohmmeter reads in place of a lamp or diode: of a lamp its cold resistance, of a diode nothing known."""
    values = {}
    for name in setup.connections:
        part = sheet.parts[name]
        if not part.kind.is_nonlinear:
            continue
        read = measurements.read(PartAlone(name, part.kind.measured_as)) if part.kind.has_cold else None
        if basis is MEASURED and read and read.mean is not None:
            values[name] = StartingValue.read(read.mean, read.spread)
        else:
            values[name] = StartingValue(float(part.cold) if part.cold else None, None)
    return values


def stated_alone(sheet: Sheet, target: PartAlone) -> Value:
    """What a part by itself should read: of a lamp its cold resistance, of what is set its setting."""
    part = sheet.parts[target.part]
    if part.kind.same_out_of_circuit:
        return stated_value(sheet, sheet.setup_alone(target.part, target.setup), target.part)
    return Value(float(part.cold) if part.cold else None)
