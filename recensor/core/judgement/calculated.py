"""What each target should read: calculated from nominal values, and again from measured ones."""

from collections.abc import Collection, Iterable, Mapping, Sequence
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
    PartAlone,
    Setup,
    Sheet,
    Target,
    Through,
    TouchedLeads,
)
from recensor.core.judgement.measurements import Measurements
from recensor.core.quantity import RESISTANCE, ZERO_SHARE
from recensor.core.solving import (
    Element,
    Network,
    NetworkError,
    Value,
    Values,
    dead,
    elements_of,
    stated,
    stated_value,
)
from recensor.core.uncertainty import Array, propagate


@dataclass(frozen=True)
class Calculated:
    """A calculated value in SI units with its standard uncertainty; None where unknown.

    `open` says that the circuit is open there, `zero` that the value counts as zero.
    """

    value: float | None = None
    standard: float | None = None
    open: bool = False
    zero: bool = False

    def turned(self) -> "Calculated":
        """The same with the leads reversed."""
        return self if self.value is None else replace(self, value=-self.value)


UNKNOWN = Calculated()


@dataclass(frozen=True)
class Warned:
    """A warning and its place in the run, such as ``parts.V1``."""

    at: str
    text: str


@dataclass(frozen=True)
class Calculations:
    """The calculated values of targets on both bases, and what could not be calculated, and why."""

    answers: dict[tuple[Basis, Target], Calculated]
    warnings: dict[Warned, None] = field(default_factory=dict)

    def of(self, target: Target, basis: Basis) -> Calculated:
        """The value at one of the targets that were asked for."""
        return self.answers.get((basis, target), UNKNOWN)

    def both(self, target: Target) -> tuple[Calculated, Calculated]:
        """From nominal and from measured values."""
        return self.of(target, NOMINAL), self.of(target, MEASURED)


def measured_values(sheet: Sheet, setup: Setup, measurements: Measurements) -> Values:
    """What every part of a setup was read to be: the mean of its readings where there are any, else as stated."""
    return Values({name: _measured(sheet, setup, name, measurements) for name in setup.connections})


def values_of(sheet: Sheet, setup: Setup, measurements: Measurements, basis: Basis) -> Values:
    """What a calculation of one setup starts from."""
    return stated(sheet, setup) if basis is NOMINAL else measured_values(sheet, setup, measurements)


def _measured(sheet: Sheet, setup: Setup, name: str, measurements: Measurements) -> Value:
    kind = sheet.parts[name].kind
    read = measurements.read(PartAlone(name, kind.alone_as, setup.name)) if kind.drives else None
    if read is None and name not in setup.values:
        read = measurements.read(PartAlone(name, kind.alone_as))
    return Value(read.mean, read.standard) if read else stated_value(sheet, setup, name)


def calculate(sheet: Sheet, targets: Iterable[Target], measurements: Measurements) -> Calculations:
    """What each of the targets should read; every setup is solved once for each basis, all its targets together."""
    found = Calculations({})
    by_setup: dict[str, dict[Target, None]] = {}
    for target in targets:
        if isinstance(target, PartAlone):
            known = stated_value(sheet, sheet.setups.get(target.setup or ""), target.part)
            found.answers[NOMINAL, target] = Calculated(known.size, known.standard)
        elif not isinstance(target, TouchedLeads):
            by_setup.setdefault(target.setup, {})[target] = None
    for name, wanted in by_setup.items():
        setup = sheet.setups[name]
        circuit = _Circuit.of(setup, sheet.parts)
        for basis in Basis:
            values = values_of(sheet, setup, measurements, basis)
            here = _calculated(circuit, basis, tuple(values.parts.items()), tuple(wanted))
            found.answers.update(here.answers)
            found.warnings.update(here.warnings)
    return found


@dataclass(frozen=True)
class _Circuit:
    """One setup as networks, live and dead, whatever values they are solved with."""

    setup: str
    reference: str
    powered: tuple[Element, ...]
    passive: tuple[Element, ...]
    off: frozenset[str]

    @classmethod
    def of(cls, setup: Setup, parts: Mapping[str, Part]) -> "_Circuit":
        """The circuit of a setup."""
        any_values = dict.fromkeys(setup.connections, 1.0)
        powered, passive = elements_of(setup, parts, any_values), dead(setup, parts, any_values)
        return cls(setup.name, setup.reference, tuple(powered), tuple(passive), setup.sources_off)

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
    circuit: _Circuit, basis: Basis, values: tuple[tuple[str, Value], ...], targets: tuple[Target, ...]
) -> Calculations:
    found = Calculations({})
    _InSetup(circuit, basis, Values(dict(values)), found).calculate(targets)
    return found


class _Known:
    """What is known of a circuit's elements, as columns in their order."""

    def __init__(self, elements: Sequence[Element], off: Collection[str], values: Values) -> None:
        filled, known = values.filled(), [values.parts[element.name] for element in elements]
        self._names = [element.name for element in elements]
        wires = [element.name in off for element in elements]
        self.values = np.array([0.0 if wire else filled[e.name] for e, wire in zip(elements, wires, strict=True)])
        self.sizes = np.where(self.values == 0.0, 1.0, self.values)
        self.counts = ~np.array(wires, bool)
        self.missing = np.array([value.size is None for value in known], bool)
        self.vague = np.array([value.standard is None for value in known], bool) & ~self.missing
        self.variances = np.array([(value.standard or 0.0) ** 2 for value in known])

    def named(self, chosen: NDArray[np.bool_]) -> list[str]:
        """The names of the chosen elements."""
        return [self._names[k] for k in np.flatnonzero(chosen)]


@dataclass(frozen=True)
class _InSetup:
    """The calculation of one setup from the values of one basis; answers and warnings go to `found`."""

    circuit: _Circuit
    basis: Basis
    values: Values
    found: Calculations

    def calculate(self, targets: Sequence[Target]) -> None:
        """Answer for all targets of the setup."""
        ohms = [target for target in targets if isinstance(target, Across) and target.measurand is RESISTANCE]
        live = [
            target
            for target in targets
            if isinstance(target, Through) or (isinstance(target, Across) and target.measurand is not RESISTANCE)
        ]
        for work in (partial(self._live, live), partial(self._ohms, ohms)):
            try:
                work()
            except NetworkError as error:
                self._warn(f"setups.{self.circuit.setup}", f"not calculated from {self.basis} values: {error}")

    def _live(self, targets: Sequence[Across | Through]) -> None:
        """Voltages and currents: one factorisation, and all adjoints in the same solution."""
        network, asked = self.circuit.live, []
        for target in targets:
            if isinstance(target, Through) and target.part not in network.position:
                self._answers(target, Calculated(0.0, 0.0, zero=True))  # off, with nothing in its place
            elif isinstance(target, Across) and not network.has_joined(*target.nodes):
                self._answers(target, Calculated(open=True))
            else:
                asked.append(target)
        known = _Known(network.elements, self.circuit.off, self.values)
        solution = network.solve(known.values, asked)
        scales = {True: solution.driving_current, False: solution.driving_voltage}
        values = [float(solution.answer(target)) for target in asked]
        self._answer(asked, values, solution.slopes, [scales[isinstance(target, Through)] for target in asked], known)

    def _ohms(self, targets: Sequence[Across]) -> None:
        """Resistances between nodes, all in one solution."""
        network = self.circuit.dead
        closed = [target for target in targets if network and network.has_joined(*target.nodes)]
        for target in targets:
            if target not in closed:
                self._answers(target, Calculated(open=True))
        if network and closed:
            known = _Known(network.elements, self.circuit.off, self.values)
            ohms, slopes = network.resistances([target.nodes for target in closed], known.values)
            self._answer(closed, ohms, slopes, [float(known.values.max())] * len(closed), known)

    def _answers(self, target: Target, calculated: Calculated) -> None:
        self.found.answers[self.basis, target] = calculated

    def _answer(
        self, targets: Sequence[Target], values: Sequence[float], slopes: Array, scales: Sequence[float], known: _Known
    ) -> None:
        """Put values, uncertainties and what is unknown together; `scales` are those on which zero is judged."""
        thresholds = [ZERO_SHARE * scale for scale in scales]
        matters = (np.abs(slopes * known.sizes) > np.array(thresholds)[:, None]) & known.counts
        nameless, vague = matters & known.missing, matters & known.vague
        standards = propagate(slopes * matters, known.variances).tolist()
        are_nameless, are_vague = nameless.any(axis=1).tolist(), vague.any(axis=1).tolist()
        for k, target in enumerate(targets):
            for name in known.named(nameless[k]) if are_nameless[k] else ():
                self._warn(
                    f"parts.{name}",
                    f"{name} has no nominal value: what depends on it is not calculated from {self.basis} values",
                )
            if are_nameless[k]:
                self._answers(target, UNKNOWN)
                continue
            for name in known.named(vague[k]) if are_vague[k] else ():
                lacks = "tolerance" if self.basis is NOMINAL else "reading and no tolerance"
                self._warn(
                    f"parts.{name}",
                    f"{name} has no {lacks}: the uncertainty of values calculated from {self.basis} values is unknown",
                )
            standard, zero = None if are_vague[k] else standards[k], abs(values[k]) <= thresholds[k]
            self._answers(target, Calculated(values[k] + 0.0, standard, zero=zero))  # no -0.0

    def _warn(self, at: str, text: str) -> None:
        self.found.warnings[Warned(at, text)] = None
