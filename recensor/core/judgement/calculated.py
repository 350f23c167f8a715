"""What each target should read: calculated from nominal values, and again from measured ones."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import (
    MEASURED,
    NOMINAL,
    Across,
    Basis,
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
    resistance_between,
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
        for basis in Basis:
            values = values_of(sheet, setup, measurements, basis)
            _InSetup(sheet, setup, basis, values, found).calculate(list(wanted))
    return found


class _Known:
    """What is known of a circuit's elements, as columns in their order."""

    def __init__(self, elements: Sequence[Element], setup: Setup, values: Values) -> None:
        known = [values.parts[element.name] for element in elements]
        self._names = [element.name for element in elements]
        self.sizes = np.array([element.value or 1.0 for element in elements])
        self.counts = np.array([name not in setup.sources_off for name in self._names], bool)
        self.missing = np.array([value.size is None for value in known], bool)
        self.vague = np.array([value.standard is None for value in known], bool) & ~self.missing
        self.variances = np.array([(value.standard or 0.0) ** 2 for value in known])

    def named(self, chosen: NDArray[np.bool_]) -> list[str]:
        """The names of the chosen elements."""
        return [self._names[k] for k in np.flatnonzero(chosen)]


@dataclass(frozen=True)
class _InSetup:
    """The calculation of one setup from the values of one basis; answers and warnings go to `found`."""

    sheet: Sheet
    setup: Setup
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
                self._warn(f"setups.{self.setup.name}", f"not calculated from {self.basis} values: {error}")

    def _live(self, targets: Sequence[Across | Through]) -> None:
        """Voltages and currents: one factorisation, and all adjoints in the same solution."""
        if not targets:
            return
        elements = elements_of(self.setup, self.sheet.parts, self.values.filled())
        network = Network(elements, self.setup.reference)
        present = {element.name for element in elements}
        asked = []
        for target in targets:
            if isinstance(target, Through) and target.part not in present:
                self._answers(target, Calculated(0.0, 0.0, zero=True))  # off, with nothing in its place
            elif isinstance(target, Across) and not self._is_joined(network, target):
                self._answers(target, Calculated(open=True))
            else:
                asked.append(target)
        solution, known = network.solve(asked=asked), _Known(elements, self.setup, self.values)
        for target, slopes in zip(asked, solution.slopes, strict=True):
            scale = solution.driving_current if isinstance(target, Through) else solution.driving_voltage
            self._answers(target, self._answer(float(solution.answer(target)), known, slopes, scale))

    @staticmethod
    def _is_joined(network: Network, target: Across) -> bool:
        return all(node in network.node_index for node in target.nodes) and network.joined(*target.nodes)

    def _ohms(self, targets: Sequence[Across]) -> None:
        """Resistances between nodes, all in one solution."""
        if not targets:
            return
        passive = dead(self.setup, self.sheet.parts, self.values.filled())
        largest, known = max((e.value for e in passive), default=0.0), _Known(passive, self.setup, self.values)
        for target, seen in zip(targets, resistance_between(passive, [t.nodes for t in targets]), strict=True):
            if seen is None:
                self._answers(target, Calculated(open=True))
            else:
                value, slopes = seen
                self._answers(target, self._answer(value, known, np.array(list(slopes.values())), largest))

    def _answers(self, target: Target, calculated: Calculated) -> None:
        self.found.answers[self.basis, target] = calculated

    def _answer(self, value: float, known: "_Known", slopes: Array, largest: float) -> Calculated:
        """Put value, uncertainty and what is unknown together; `largest` is the scale on which zero is judged."""
        threshold = ZERO_SHARE * largest
        matters = (np.abs(slopes * known.sizes) > threshold) & known.counts
        nameless = known.named(matters & known.missing)
        for name in nameless:
            self._warn(
                f"parts.{name}",
                f"{name} has no nominal value: what depends on it is not calculated from {self.basis} values",
            )
        if nameless:
            return UNKNOWN
        vague = known.named(matters & known.vague)
        for name in vague:
            lacks = "tolerance" if self.basis is NOMINAL else "reading and no tolerance"
            self._warn(
                f"parts.{name}",
                f"{name} has no {lacks}: the uncertainty of values calculated from {self.basis} values is unknown",
            )
        standard = None if vague else propagate(slopes * matters, known.variances)
        return Calculated(value, standard, zero=abs(value) <= threshold)

    def _warn(self, at: str, text: str) -> None:
        self.found.warnings[Warned(at, text)] = None
