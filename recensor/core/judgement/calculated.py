"""What each target should read: calculated from nominal values, and again from measured ones."""

from collections.abc import Collection, Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache, partial

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import (
    MEASURED,
    NOMINAL,
    Across,
    Basis,
    Part,
    Setup,
    Sheet,
    Sweep,
    Target,
    Through,
)
from recensor.core.judgement.by_setup import in_setup
from recensor.core.judgement.calculated_values import (
    UNKNOWN,
    Calculated,
    Calculations,
    TrueParts,
    Warned,
    stated_calculated,
)
from recensor.core.judgement.free_rows import amps_of_free_rows
from recensor.core.judgement.measurements import Measurements
from recensor.core.judgement.sources import AllGiven, Given, Sources, UnfitSource
from recensor.core.judgement.starting_values import StartingValue, cold_of, known_of
from recensor.core.meters import NOTHING_FOUND, ORDINARY_HANDHELD, disturbs_by
from recensor.core.quantity import ZERO_SHARE
from recensor.core.sentences import say
from recensor.core.solving import (
    METER,
    Element,
    Network,
    NetworkError,
    Value,
    Values,
    blocks,
    dead,
    elements_of,
    stated,
    with_meter,
)
from recensor.core.uncertainty import COVERAGE_FACTOR, NO_SPREAD, Array, Spread, propagate

# A part that is not known at all, and would add less than this share to U, cannot matter.
_CANNOT_MATTER = 0.01

# Below this share of what drives a setup a value is a difference of larger ones.
_SMALL = 0.1


def calculate(sheet: Sheet, targets: Iterable[Target], measurements: Measurements) -> Calculations:
    """What each of the targets should read; the targets of a setup are solved together, once for each basis."""
    calculations = Calculations({})
    by_setup: dict[str, dict[Target, None]] = {}
    for target in targets:
        if target.is_part_alone:
            calculations.answers[NOMINAL, target] = stated_calculated(sheet, target)
        elif not target.is_leads:
            by_setup.setdefault(target.setup, {})[target] = None
    doubted: list[UnfitSource] = []
    for name, wanted in by_setup.items():
        work = partial(_calculate_in, sheet, sheet.setups[name], measurements, tuple(wanted))
        here, doubted_here = in_setup(work, measurements, name, "calculated", asked=tuple(wanted))
        calculations.add(here)
        doubted += doubted_here
    for one in doubted:
        calculations.warnings[Warned(f"readings[{one.index}].value", one.text)] = None
    return calculations


def _calculate_in(
    sheet: Sheet, setup: Setup, measurements: Measurements, wanted: Sequence[Target]
) -> tuple[Calculations, tuple[UnfitSource, ...]]:
    """What the targets of one setup should read, and the readings of its sources that are not believed."""
    found, sources = Calculations({}), Sources(sheet, measurements)
    here = _OfSetup(sheet, setup, measurements, sources, found)
    here.calculate([target for target in wanted if target.step is None])
    rows = {target: sweep for target in wanted if (sweep := sheet.sweep_of(target))}
    _add_free_rows(found, sheet, measurements, {target: s for target, s in rows.items() if not s.settings})
    here.calculate_rows({target: s for target, s in rows.items() if s.settings or not s.around_ammeter})
    if any(sheet.group_of(name) for name in setup.connections):
        read = {key: replace(one, grouped=True) for key, one in found.answers.items() if key[0] is MEASURED}
        found.answers.update(read)
    return found, tuple(sources.doubted)


def _add_free_rows(found: Calculations, sheet: Sheet, measurements: Measurements, rows: Mapping[Target, Sweep]) -> None:
    """Add what the currents in rows of free tables should be, by their own volts."""

    def total(across: Target) -> Calculations:
        return calculate(sheet, (across,), measurements)

    for target, basis, amps in amps_of_free_rows(sheet, measurements, rows, total):
        found.answers[basis, target] = amps


@dataclass(frozen=True)
class _OfSetup:
    """The calculations of one setup; answers and warnings go to `found`."""

    sheet: Sheet
    setup: Setup
    measurements: Measurements
    sources: Sources
    found: Calculations
    circuits: dict[frozenset[str], "_Circuit"] = field(default_factory=dict)

    def calculate(self, targets: Sequence[Target]) -> None:
        """Answer for the targets on both bases, and for single readings between which a source was read again."""
        stated_values = {
            name: StartingValue.of_value(value) for name, value in stated(self.sheet, self.setup).parts.items()
        }
        self._answer(NOMINAL, stated_values, frozenset(), targets)
        together: dict[AllGiven, list[Target]] = {}
        apart: dict[AllGiven, dict[int, Target]] = {}
        self.found.given.update({(self.setup.name, name): given for name, given in self._given(None, frozenset())})
        for target in targets:
            without = self.sources.read_at(target)
            measurement = self.measurements.of(target)
            own = self._given(measurement.indexes[0] if measurement else None, without)
            together.setdefault(own, []).append(target)
            if measurement is None or not self.sources.wander(self.setup):
                continue
            for k in (*measurement.indexes[1:], *measurement.earlier):
                given = self._given(k, without)
                if given != own:
                    apart.setdefault(given, {})[k] = self.measurements.run.readings[k].target
        for given, members in together.items():
            self._answer(MEASURED, *self._read(given), members)
        for given, readings in apart.items():
            answers = self._answers(MEASURED, *self._read(given), tuple(dict.fromkeys(readings.values())))
            self.found.at.update({k: answers.of(target, MEASURED) for k, target in readings.items()})

    def calculate_rows(self, targets: Mapping[Target, Sweep]) -> None:
        """Answer for the rows of sweeps, each with its source as it was set there, and as it was read there."""
        rows: dict[tuple[str, int, bool], list[Target]] = {}
        for target, sweep in targets.items():
            step = target.step or 0
            is_source = target.key == sweep.source_at(step, self.setup).key
            rows.setdefault((sweep.name, step, is_source), []).append(target)
        for (name, step, is_source), members in rows.items():
            sweep = self.sheet.sweeps[name]
            given = dict(self._given(None, frozenset()))
            given.pop(sweep.source, None)
            source = sweep.source_at(step, self.setup)
            is_own = not is_source and self.sheet.sweep_of(source) is sweep
            read = self.measurements.read(source) if is_own else None
            at_terminals = {source for source, one in given.items() if one.at_terminals}
            if read and read.mean is not None:
                turned = -1.0 if read.target.reversed_against(source) else 1.0
                spread = read.spread.times(turned)
                given[sweep.source] = Given(
                    turned * read.mean, spread, True, say("judgement.read_in_row"), read.indexes
                )
                at_terminals.add(sweep.source)
            is_source = self.sheet.parts[sweep.amps.part].kind.is_source
            if not sweep.settings and (is_source or sweep.source not in given):
                continue  # a free row is set as it was read, or nobody knows how; a source's load may be any
            row = replace(self, setup=sweep.at(step, self.setup))
            nominal = {
                part: StartingValue.of_value(value) for part, value in stated(self.sheet, row.setup).parts.items()
            }
            known = known_of(self.sheet, row.setup, self.measurements, given)
            if not sweep.settings:
                nominal[sweep.source] = known[sweep.source]
            row._answer(NOMINAL, nominal, frozenset(), members)
            row._answer(MEASURED, known, frozenset(at_terminals), members)

    def _given(self, place: int | None, without: frozenset[str]) -> AllGiven:
        return self.sources.given(self.setup, place, without)

    def _read(self, given: AllGiven) -> tuple[dict[str, StartingValue], frozenset[str]]:
        known = known_of(self.sheet, self.setup, self.measurements, dict(given))
        return known, frozenset(name for name, one in given if one.at_terminals)

    def _answers(
        self, basis: Basis, known: Mapping[str, StartingValue], ideal: frozenset[str], targets: tuple[Target, ...]
    ) -> Calculations:
        """What each target should read; with its own meter drawn into the circuit where the sheet judges so."""
        if ideal not in self.circuits:  # the same whatever its values are: the rows of a sweep share them
            self.circuits[ideal] = _Circuit.of(self.setup, self.sheet.parts, ideal)
        circuit = self.circuits[ideal]
        cold = tuple(cold_of(self.sheet, self.setup, self.measurements, basis).items())
        plain = _calculated(circuit, basis, tuple(known.items()), cold, targets)
        meters = self.measurements.run.meters.values()
        if not (self.sheet.judge.meter_in or any(profile.found != NOTHING_FOUND for profile in meters)):
            return plain
        calculations = Calculations(dict(plain.answers), dict(plain.warnings))
        for target in targets:
            ohms = self._meter_at(target, plain.of(target, basis))
            if ohms is not None and target.in_circuit:
                drawn = tuple({**known, METER: StartingValue(ohms, 0.0)}.items())
                metered = _calculated(circuit.with_meter(target, ohms), basis, drawn, cold, (target,))
                calculations.answers[basis, target] = metered.of(target, basis)
        return calculations

    def _meter_at(self, target: Target, plain: Calculated) -> float | None:
        """The resistance of the meter with which a target was read, or would be; None where it disturbs nothing."""
        if plain.value is None:
            return None
        measurement, run = self.measurements.of(target), self.measurements.run
        reading = run.readings[measurement.indexes[0]] if measurement else None
        profile = (run.profile_of(reading) if reading else run.meter_for(target.measurand)) or ORDINARY_HANDHELD
        if not (self.sheet.judge.meter_in or profile.found.disturbs(target.measurand)):
            return None
        named = float(reading.range) if reading and reading.range else None
        return disturbs_by(profile, target.measurand, plain.value, named)

    def _answer(
        self, basis: Basis, known: Mapping[str, StartingValue], ideal: frozenset[str], targets: Sequence[Target]
    ) -> None:
        self.found.add(self._answers(basis, known, ideal, tuple(targets)))


@dataclass(frozen=True)
class _Circuit:
    """One setup as networks, live and dead, whatever values they are solved with."""

    setup: str
    reference: str
    powered: tuple[Element, ...]
    passive: tuple[Element, ...]
    off: frozenset[str]

    @classmethod
    def of(cls, setup: Setup, parts: Mapping[str, Part], ideal: Collection[str]) -> "_Circuit":
        """The circuit of a setup; the `ideal` sources have nothing inside."""
        any_values = dict.fromkeys(setup.connections, 1.0)
        powered, passive = elements_of(setup, parts, any_values), dead(setup, parts, any_values)
        powered = [e._replace(internal=0.0) if e.name in ideal else e for e in powered]
        return cls(setup.name, setup.reference, tuple(powered), tuple(passive), setup.sources_off)

    def with_meter(self, target: Across | Through, ohms: float) -> "_Circuit":
        """The same with a meter where a target is read."""
        return replace(self, powered=with_meter(self.powered, target, ohms))

    @cached_property
    def live(self) -> Network:
        """What is powered. Raises the errors of `Network`."""
        return Network(self.powered, self.reference)

    @cached_property
    def dead(self) -> Network | None:
        """What an ohmmeter meets; None where there is nothing. Raises the errors of `Network`."""
        return Network(self.passive, self.passive[0].first) if self.passive else None


# Most readings change no value that the circuit is calculated from: what was calculated last is kept.
@lru_cache(maxsize=256)
def _calculated(
    circuit: _Circuit,
    basis: Basis,
    known: tuple[tuple[str, StartingValue], ...],
    cold: tuple[tuple[str, StartingValue], ...],
    targets: tuple[Target, ...],
) -> Calculations:
    calculations = Calculations({})
    _SetupCalculation(circuit, basis, dict(known), dict(cold), calculations).calculate(targets)
    return calculations


class _Columns:
    """What is known of a circuit's elements, as columns in their order."""

    def __init__(self, elements: Sequence[Element], off: Collection[str], values: Mapping[str, StartingValue]) -> None:
        filled = Values({name: Value(known.size) for name, known in values.items()}).filled()
        known = [values[element.name] for element in elements]
        self._names = [element.name for element in elements]
        wires = [element.name in off for element in elements]
        self.values = np.array([0.0 if wire else filled[e.name] for e, wire in zip(elements, wires, strict=True)])
        self.sizes = np.where(self.values == 0.0, 1.0, np.abs(self.values))
        self.counts = ~np.array(wires, bool)
        self.missing = np.array([starting_value.size is None for starting_value in known], bool)
        self.vague = np.array([starting_value.own is None for starting_value in known], bool) & ~self.missing
        self.variances = np.array([(starting_value.own or 0.0) ** 2 for starting_value in known])
        self.variables = list(
            dict.fromkeys(variable for starting_value in known for variable, _ in starting_value.shared)
        )
        column = {variable: k for k, variable in enumerate(self.variables)}
        self.shared = np.zeros((len(elements), len(column)))
        for row, value in enumerate(known):
            for variable, share in value.shared:
                self.shared[row, column[variable]] = share

    def named(self, chosen: NDArray[np.bool_]) -> list[str]:
        """The names of the chosen elements."""
        return [self._names[k] for k in np.flatnonzero(chosen)]


@dataclass(frozen=True)
class _SetupCalculation:
    """The calculation of one setup from the values of one basis; answers and warnings go to `found`.

    `cold` is what an ohmmeter meets in place of lamps and diodes.
    """

    circuit: _Circuit
    basis: Basis
    values: Mapping[str, StartingValue]
    cold: Mapping[str, StartingValue]
    found: Calculations

    def calculate(self, targets: Sequence[Target]) -> None:
        """Answer for all targets of the setup."""
        ohms = [target for target in targets if target.is_across and target.needs_dead_circuit]
        live = [target for target in targets if target.in_circuit and not target.needs_dead_circuit]
        for work in (partial(self._live, live), partial(self._ohms, ohms)):
            try:
                work()
            except NetworkError as error:
                self._warn(
                    f"setups.{self.circuit.setup}",
                    say("judgement.not_calculated_from_values", basis=self.basis, error=error),
                )

    def _live(self, targets: Sequence[Across | Through]) -> None:
        """Voltages and currents: one factorisation, and all adjoints in the same solution."""
        network, asked = self.circuit.live, []
        for target in targets:
            if target.is_through and target.part not in network.position:
                self._answers(target, Calculated(0.0, NO_SPREAD, zero=True))  # off, with nothing in its place
            elif target.is_across and not network.has_joined(*target.nodes):
                self._answers(target, Calculated(open=True))
            else:
                asked.append(target)
        known = _Columns(network.elements, self.circuit.off, self.values)
        solution = network.solve(known.values, asked)
        scales = {True: solution.driving_current, False: solution.driving_voltage}
        values = [float(solution.answer(target)) for target in asked]
        self._answer(asked, values, solution.slopes, [scales[target.is_through] for target in asked], known)

    def _ohms(self, targets: Sequence[Across]) -> None:
        """Resistances between nodes, all in one solution."""
        network = self.circuit.dead
        closed = []
        for target in targets:
            if network and network.has_joined(*target.nodes):
                closed.append(target)
            else:
                self._answers(target, Calculated(open=True))
        if network and closed:
            known = _Columns(network.elements, self.circuit.off, {**self.values, **self.cold})
            ohms, slopes = network.resistances([target.nodes for target in closed], known.values)
            self._answer(closed, ohms, slopes, [float(known.values.max())] * len(closed), known)

    def _answers(self, target: Target, calculated: Calculated) -> None:
        self.found.answers[self.basis, target] = calculated

    def _answer(
        self,
        targets: Sequence[Target],
        values: Sequence[float],
        slopes: Array,
        scales: Sequence[float],
        known: _Columns,
    ) -> None:
        """Put values, uncertainties and what is unknown together; `scales` are those on which zero is judged."""
        for block in blocks(len(targets)):
            self._answer_block(targets[block], values[block], slopes[block], scales[block], known)

    def _answer_block(
        self,
        targets: Sequence[Target],
        values: Sequence[float],
        slopes: Array,
        scales: Sequence[float],
        known: _Columns,
    ) -> None:
        thresholds = [ZERO_SHARE * scale for scale in scales]
        weights = np.abs(slopes * known.sizes)
        matters = (weights > np.array(thresholds)[:, None]) & known.counts
        slopes = slopes * matters
        own, shared = propagate(slopes, known.variances), slopes @ known.shared
        expanded = COVERAGE_FACTOR * np.sqrt(own**2 + (shared**2).sum(axis=1))
        nameless, vague = matters & known.missing, matters & known.vague
        vague &= weights > _CANNOT_MATTER * expanded[:, None]
        owns, rows = own.tolist(), shared.tolist()
        are_nameless, are_vague = nameless.any(axis=1).tolist(), vague.any(axis=1).tolist()
        for k, target in enumerate(targets):
            for name in known.named(nameless[k]) if are_nameless[k] else ():
                kind = "judgement.resistance_is_not_known" if name in self.cold else "judgement.no_nominal_value"
                self._warn(f"parts.{name}", say(kind, name=name, basis=self.basis))
            if are_nameless[k]:
                self._answers(target, UNKNOWN)
                continue
            for name in known.named(vague[k]) if are_vague[k] else ():
                kind = "judgement.no_tolerance" if self.basis is NOMINAL else "judgement.no_reading_and_no_tolerance"
                self._warn(f"parts.{name}", say(kind, name=name, basis=self.basis))
            shares: dict[Hashable, float] = {
                TrueParts(target): owns[k],
                **dict(zip(known.variables, rows[k], strict=True)),
            }
            spread = None if are_vague[k] else Spread(shares)
            zero, small = abs(values[k]) <= thresholds[k], abs(values[k]) < _SMALL * scales[k]
            is_ohms = target.needs_dead_circuit
            value = 0.0 if zero else values[k]  # what is left of a zero is round-off
            self._answers(target, Calculated(value, spread, zero=zero, small=small and not is_ohms))

    def _warn(self, at: str, text: str) -> None:
        self.found.warnings[Warned(at, text)] = None
