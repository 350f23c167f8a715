"""What each target should read: calculated from nominal values, and again from measured ones."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from recensor.core import network, uncertainty
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.judgement.measurements import Key, Measurement
from recensor.core.quantity import fraction
from recensor.core.record import MEASURED, NOMINAL, QUANTITIES, VOLTAGE, Run, Target

# Below this share of the largest like quantity in its setup a calculated value counts as zero.
ZERO_SHARE = 1e-9

# What stands in for a value that nobody knows; the odd ratio keeps a bridge from balancing by accident.
_STAND_IN_OHMS = 1234.567


@dataclass(frozen=True)
class Calculated:
    """A calculated value in SI units with its standard uncertainty; None where unknown.

    `open` says that the circuit is open there, `zero` that the value counts as zero.
    """

    value: float | None = None
    uncertainty: float | None = None
    open: bool = False
    zero: bool = False

    def turned(self) -> "Calculated":
        """The same with the leads reversed."""
        return self if self.value is None else replace(self, value=-self.value)


@dataclass(frozen=True)
class Warned:
    """A warning and its place in the run, such as ``parts.V1``."""

    at: str
    text: str


@dataclass(frozen=True)
class _PartValue:
    value: float | None
    uncertainty: float | None


class Calculator:
    """Solves each setup once for each basis (nominal, measured) and answers for targets.

    `warnings` collects what could not be calculated, and why.
    """

    def __init__(self, run: Run, measurements: Mapping[Key, Measurement]) -> None:
        self._run = run
        self._measurements = measurements
        self._solutions: dict[tuple[str, str], network.Solution | None] = {}
        self._values: dict[tuple[str, str], dict[str, _PartValue]] = {}
        self._answers: dict[tuple[str, Target], Calculated] = {}
        self._warned: dict[Warned, None] = {}

    @property
    def warnings(self) -> list[Warned]:
        """What was met so far that could not be calculated, each once."""
        return list(self._warned)

    def calculated(self, target: Target, basis: str) -> Calculated:
        """The value at `target` from the values of `basis` (`NOMINAL` or `MEASURED`)."""
        if (basis, target) not in self._answers:
            self._answers[basis, target] = self._calculate(target, basis)
        return self._answers[basis, target]

    def values(self, setup: Setup, basis: str) -> dict[str, float | None]:
        """The value of every part of a setup on one basis, in SI units; None where nobody knows it."""
        return {name: known.value for name, known in self._part_values(setup, basis).items()}

    def _calculate(self, target: Target, basis: str) -> Calculated:
        if target.of is not None:
            part = self._run.parts.get(target.of)
            if part is None or basis == MEASURED:
                return Calculated()
            known = self._part_value(part, self._run.setups.get(target.setup or ""), NOMINAL)
            return Calculated(known.value, known.uncertainty)
        setup = self._run.setups[target.setup or ""]
        try:
            if target.across and target.quantity != VOLTAGE:
                return self._resistance(target.across, setup, basis)
            return self._operating(target, setup, basis)
        except network.NetworkError as error:
            self._warn(f"setups.{setup.name}", f"not calculated from {basis} values: {error}")
            return Calculated()

    def _operating(self, target: Target, setup: Setup, basis: str) -> Calculated:
        solution = self._solution(setup, basis)
        if solution is None:
            return Calculated()
        if target.quantity == VOLTAGE and target.across:
            return self._voltage(solution, target.across, setup, basis)
        name = target.through or ""
        if name in setup.sources_off and self._run.parts[name].kind is Kind.CURRENT_SOURCE:
            return Calculated(0.0, 0.0, zero=True)
        value, slopes = float(solution.current(name)), solution.current_sensitivities(name)
        return self._answer(value, slopes, solution.largest_current, setup, basis)

    def _voltage(self, solution: network.Solution, across: tuple[str, str], setup: Setup, basis: str) -> Calculated:
        if any(node not in solution.network.node_index for node in across) or not solution.network.same_island(*across):
            return Calculated(open=True)
        value, slopes = float(solution.voltage(*across)), solution.voltage_sensitivities(*across)
        return self._answer(value, slopes, solution.largest_voltage, setup, basis)

    def _resistance(self, across: tuple[str, str], setup: Setup, basis: str) -> Calculated:
        passive = [e for e in self._elements(setup, basis) if e.kind is Kind.RESISTOR or e.name in setup.sources_off]
        passive = [e for e in passive if e.kind is not Kind.CURRENT_SOURCE]
        touched = {node for e in passive for node in (e.first, e.second)}
        solution = network.ohmmeter(passive, *across) if touched.issuperset(across) else None
        if solution is None:
            return Calculated(open=True)
        slopes = solution.voltage_sensitivities(*across)
        del slopes[network.TEST_CURRENT]
        largest = max((abs(e.value) for e in passive), default=0.0)
        return self._answer(float(solution.voltage(*across)), slopes, largest, setup, basis)

    def _answer(self, value: float, slopes: dict[str, float], largest: float, setup: Setup, basis: str) -> Calculated:
        """Put value, uncertainty and what is unknown together; `largest` is the scale on which zero is judged."""
        known = self._part_values(setup, basis)
        threshold = ZERO_SHARE * largest
        mattering = {}
        for name, slope in slopes.items():
            if name in setup.sources_off:
                continue
            size = known[name].value
            if abs(slope * (_STAND_IN_OHMS if size is None else size or 1.0)) > threshold:
                mattering[name] = slope
        nameless = [name for name in mattering if known[name].value is None]
        for name in nameless:
            self._warn(
                f"parts.{name}",
                f"{name} has no nominal value: what depends on it is not calculated from {basis} values",
            )
        if nameless:
            return Calculated()
        standard, unknown = uncertainty.combined(mattering, {name: known[name].uncertainty for name in mattering})
        for name in unknown:
            lacks = "tolerance" if basis == NOMINAL else "reading and no tolerance"
            self._warn(
                f"parts.{name}",
                f"{name} has no {lacks}: the uncertainty of values calculated from {basis} values is unknown",
            )
        return Calculated(value, standard, zero=abs(value) <= threshold)

    def _solution(self, setup: Setup, basis: str) -> network.Solution | None:
        key = setup.name, basis
        if key not in self._solutions:
            self._solutions[key] = None
            try:
                self._solutions[key] = network.solve(self._elements(setup, basis), setup.reference)
            except network.NetworkError as error:
                self._warn(f"setups.{setup.name}", f"not calculated from {basis} values: {error}")
        return self._solutions[key]

    def _elements(self, setup: Setup, basis: str) -> list[network.Element]:
        values = {
            name: _STAND_IN_OHMS * (1 + 0.37 * k) if known.value is None else known.value
            for k, (name, known) in enumerate(self._part_values(setup, basis).items())
        }
        return network.elements_of(setup, self._run.parts, values)

    def _part_values(self, setup: Setup, basis: str) -> dict[str, _PartValue]:
        key = setup.name, basis
        if key not in self._values:
            self._values[key] = {
                name: self._part_value(self._run.parts[name], setup, basis) for name in setup.connections
            }
        return self._values[key]

    def _part_value(self, part: Part, setup: Setup | None, basis: str) -> _PartValue:
        """Mean of the readings where `basis` says so and there are any, else what the setup or the part states."""
        stated = setup.values.get(part.name) if setup else None
        if basis == MEASURED:
            quantity = QUANTITIES[part.kind.unit]
            read = None
            if setup and part.kind.is_source:
                read = self._read(Target(quantity, of=part.name, setup=setup.name))
            if read is None and stated is None:
                read = self._read(Target(quantity, of=part.name))
            if read is not None:
                return read
        value = stated or part.nominal
        if value is None:
            return _PartValue(None, None)
        tolerance = part.tolerance
        return _PartValue(
            float(value),
            None if tolerance is None else uncertainty.tolerance_uncertainty(float(value), fraction(tolerance)),
        )

    def _read(self, target: Target) -> _PartValue | None:
        measurement = self._measurements.get(target.key)
        if measurement is None or measurement.mean is None:
            return None
        return _PartValue(measurement.mean, measurement.uncertainty)

    def _warn(self, at: str, text: str) -> None:
        self._warned[Warned(at, text)] = None


def basis_order(against: str) -> tuple[str, str]:
    """The basis that judges, then the one used where the first gives nothing."""
    return (NOMINAL, MEASURED) if against == NOMINAL else (MEASURED, NOMINAL)
