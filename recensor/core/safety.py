"""How far a circuit may be measured at all: extra-low voltage is the product's field, and parts have ratings.

Above 30 V DC a circuit carries a standing warning, above 60 V DC it is for paper only. The 60 V is
the common limit of extra-low voltage for ripple-free DC; both are the project's own rule here.
"""

from dataclasses import dataclass
from enum import StrEnum

from recensor.core import network
from recensor.core.circuit import Kind, Setup
from recensor.core.judgement.measurements import gather
from recensor.core.quantity import fraction
from recensor.core.record import QUANTITIES, Run, Target

WARNING_ABOVE, PAPER_ONLY_ABOVE = 30.0, 60.0

# The commonest leaded resistor takes a quarter watt (common practice, no source).
USUAL_RATING = 0.25


class Caution(StrEnum):
    """What a circuit's largest voltage asks for."""

    NONE = ""
    WARNING = "warning"
    PAPER_ONLY = "paper only"


def largest_voltage(run: Run) -> float:
    """The largest voltage in volts between any two nodes of any setup, sources at the top of their tolerance.

    A source counts with its open-circuit voltage. A setup that cannot be solved counts with all its
    voltage sources in series.
    """
    return max((_largest_in(setup, run) for setup in run.setups.values()), default=0.0)


def caution(run: Run) -> Caution:
    """Judge the run by its largest voltage."""
    volts = largest_voltage(run)
    if volts > PAPER_ONLY_ABOVE:
        return Caution.PAPER_ONLY
    return Caution.WARNING if volts > WARNING_ABOVE else Caution.NONE


@dataclass(frozen=True)
class Dissipation:
    """The power that a resistor takes in a setup, and its rating, both in watts."""

    part: str
    setup: str
    power: float
    rating: float

    @property
    def is_over(self) -> bool:
        """Whether it takes more than it may."""
        return self.power > self.rating


def dissipations(run: Run) -> list[Dissipation]:
    """Every resistor's power in every setup, sources at the top of their tolerance.

    Without a stated rating a quarter watt is taken. A setup that cannot be solved, or has a part that is neither
    marked nor read, is left out.
    """
    found = []
    for setup in run.setups.values():
        elements = _elements(setup, run)
        if {e.name for e in elements}.union(setup.sources_off) < set(setup.connections):
            continue
        try:
            solution = network.solve(elements, setup.reference)
        except network.NetworkError:
            continue
        for element in elements:
            if element.kind is Kind.RESISTOR:
                rating = run.parts[element.name].rating
                allowed = float(rating) if rating else USUAL_RATING
                found.append(Dissipation(element.name, setup.name, float(solution.power(element.name)), allowed))
    return found


def _largest_in(setup: Setup, run: Run) -> float:
    elements = _elements(setup, run)
    open_circuit = [0.0, *(abs(e.value) for e in elements if e.kind is Kind.VOLTAGE_SOURCE)]
    try:
        solved = network.solve(elements, setup.reference).largest_voltage
    except network.NetworkError:
        solved = sum(open_circuit)
    return max(solved, *open_circuit)


def _elements(setup: Setup, run: Run) -> list[network.Element]:
    """The setup at its worst: sources at the top of their tolerance; parts neither marked nor read are left out."""
    measured = gather(run) if any(part.nominal is None for part in run.parts.values()) else {}
    values: dict[str, float | None] = {}
    for name in setup.connections:
        part = run.parts[name]
        stated = setup.stated(part)
        reading = measured.get(Target(QUANTITIES[part.kind.unit], of=name).key)
        value = float(stated) if stated else reading.mean if reading else None
        top = 1.0 + (fraction(part.tolerance) if part.kind.is_source and part.tolerance else 0.0)
        values[name] = None if value is None else value * top
    return network.elements_of(setup, run.parts, values)
