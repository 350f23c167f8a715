"""How far a circuit may be measured at all: extra-low voltage is the product's field.

Above 30 V DC a circuit carries a standing warning, above 60 V DC it is for paper only. The 60 V is
the common limit of extra-low voltage for ripple-free DC; both are the project's own rule here.
"""

from enum import StrEnum

from recensor.core import network
from recensor.core.circuit import Kind, Setup
from recensor.core.quantity import fraction
from recensor.core.record import Run

WARNING_ABOVE, PAPER_ONLY_ABOVE = 30.0, 60.0


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


def _largest_in(setup: Setup, run: Run) -> float:
    elements, open_circuit = [], [0.0]
    for name, (first, second) in setup.connections.items():
        part = run.parts[name]
        value = setup.values.get(name) or part.nominal
        if name in setup.sources_off or value is None:
            continue
        top = float(value) * (1.0 + (fraction(part.tolerance) if part.kind.is_source and part.tolerance else 0.0))
        elements.append(network.Element(name, part.kind, first, second, top, part.internal_resistance))
        if part.kind is Kind.VOLTAGE_SOURCE:
            open_circuit.append(abs(top))
    try:
        solved = network.solve(elements, setup.reference).largest_voltage
    except network.NetworkError:
        solved = sum(open_circuit)
    return max(solved, *open_circuit)
