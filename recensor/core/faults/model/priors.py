"""What is known before anything is said to be wrong: values, and how far they may be off, as standard deviations."""

import math
from dataclasses import dataclass

import numpy as np

from recensor.core.circuit import PartAlone, Sheet, TouchedLeads
from recensor.core.faults.model.batch import Names
from recensor.core.faults.model.observations import Observations
from recensor.core.quantity import as_ratio
from recensor.core.uncertainty import Array

# Standard deviations beforehand, as ratios: of a part without tolerance, and of what a source changes at each place, so
# that two of them differ by about 1 % (common practice, no source); of the logarithm of a part without a value, which
# may be anything from 1 Ω to 10 MΩ.
_NO_TOLERANCE, _DRIFT, _UNMARKED = 0.06, 0.007, math.log(1e7) / math.sqrt(12.0)

# How far a lamp or a diode is from its law, as a ratio of the volts by which it is stated (common practice, no source).
_LAW = 0.08

# The meter's leads in ohms: their mean and standard deviation, and broader where the touched probes were read.
_LEADS, _LEADS_READ, _NO_LEADS = (0.1, 0.1), (0.2, 0.4), (0.0, 1e-9)

_STAND_IN_OHMS = 1000.0


@dataclass(frozen=True)
class UnknownColumns:
    """Where the unknowns stand among all of them: parts first, then these; `slots` are a hypothesis's own numbers."""

    sources: int
    drift: int
    gains: int
    leads: int
    burden: int
    slots: int


@dataclass(frozen=True)
class Priors:
    """Values in SI units at every place: `ohms` (places, parts), `emf` and `inner` (places, sources), the `leads`.

    `spreads` are the standard deviations of all unknowns but a hypothesis's own: of parts and sources as ratios.
    """

    ohms: Array
    emf: Array
    inner: Array
    leads: float
    spreads: Array
    columns: UnknownColumns

    @classmethod
    def of(cls, observed: Observations, names: Names) -> "Priors":
        """What a run's sheet and its meters say."""
        ohms, of_parts = _parts(observed, names)
        emf, inner, of_sources = _sources(observed.run.sheet, names)
        drifts, gains = (len(names.setups) + 1) * len(names.sources), len(observed.gain_names)
        ranges = int(observed.ranges.max(initial=0)) + 1
        read = {observed.points[row].target for row in observed.rows.tolist()}
        is_exact = observed.contact.max(initial=0.0) == 0.0
        leads, of_leads = _LEADS_READ if TouchedLeads() in read else _NO_LEADS if is_exact else _LEADS
        spreads: list[Array] = [
            of_parts,
            of_sources,
            np.full(drifts, _DRIFT),
            np.ones(gains),
            np.array([of_leads]),
            np.ones(ranges),
        ]
        sources = len(names.parts)
        drift = sources + len(names.sources)
        at_leads = drift + drifts + gains
        columns = UnknownColumns(sources, drift, drift + drifts, at_leads, at_leads + 1, at_leads + 1 + ranges)
        return cls(ohms, emf, inner, leads, np.concatenate(spreads), columns)


def _parts(observed: Observations, names: Names) -> tuple[Array, Array]:
    """Ohms at every place, (places, parts), and the standard deviation of the logarithm of each part's own."""
    sheet = observed.run.sheet
    ohms = np.zeros((len(names.setups) + 1, len(names.parts)))
    spreads = np.zeros(len(names.parts))
    for p, name in enumerate(names.parts):
        part = sheet.parts[name]
        measurement = observed.measurements.read(PartAlone(name, part.kind.measured_as))
        read = abs(measurement.mean or 0.0) if measurement else 0.0
        size = float(part.nominal) if part.nominal else read or _guess(sheet)
        spreads[p] = _UNMARKED if not part.nominal else _LAW if part.kind.is_nonlinear else _NO_TOLERANCE
        if part.tolerance and part.nominal:
            spreads[p] = max(as_ratio(part.tolerance) / math.sqrt(3.0), 1e-9)
        ohms[:, p] = max(size, 1e-9)
        for place, setup in enumerate(sheet.setups.values()):
            if stated := setup.stated(part):
                ohms[place, p] = max(float(stated), 1e-9)
    return ohms, spreads


def _guess(sheet: Sheet) -> float:
    """What stands in for a part that nobody knows anything of."""
    known = [math.log(float(p.nominal)) for p in sheet.parts.values() if p.nominal and not p.kind.is_source]
    return math.exp(sum(known) / len(known)) if known else _STAND_IN_OHMS


def _sources(sheet: Sheet, names: Names) -> tuple[Array, Array, Array]:
    """Volts or amperes and own resistances at every place, (places, sources), and how far the values may be off."""
    places, sources = len(names.setups) + 1, len(names.sources)
    emf, inner, spreads = np.zeros((places, sources)), np.zeros((places, sources)), np.zeros(sources)
    for s, name in enumerate(names.sources):
        part = sheet.parts[name]
        emf[:, s] = float(part.nominal) if part.nominal else 0.0
        for place, setup in enumerate(sheet.setups.values()):
            emf[place, s] = float(setup.stated(part) or 0)
        inner[:, s] = part.internal_resistance
        limit = as_ratio(sheet.judge.limit) / 2.0
        spreads[s] = max(as_ratio(part.tolerance) / math.sqrt(3.0) if part.tolerance else limit, 1e-9)
    return emf, inner, spreads
