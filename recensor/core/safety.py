"""How far a circuit may be measured at all: extra-low voltage is the product's field, and parts have ratings.

Above 30 V DC a circuit carries a standing warning, above 60 V DC it is for paper only. The 60 V is
the common limit of extra-low voltage for ripple-free DC; both are the project's own rule here.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from types import MappingProxyType

from recensor.core.circuit import Setup, Sheet
from recensor.core.quantity import VOLT, as_ratio
from recensor.core.solving import Operating, operate, stated

Read = Mapping[str, float]
NOTHING_READ: Read = MappingProxyType({})

WARNING_ABOVE, PAPER_ONLY_ABOVE = 30.0, 60.0

# The commonest leaded resistor takes a quarter watt (common practice, no source).
USUAL_RATING = 0.25


class Caution(StrEnum):
    """What a circuit's largest voltage asks for."""

    NONE = ""
    WARNING = "warning"
    PAPER_ONLY = "paper only"


def largest_voltage(sheet: Sheet, read: Read = NOTHING_READ) -> float:
    """The largest voltage in volts between any two nodes of any setup, sources at the top of their tolerance.

    A source counts with its open-circuit voltage. A setup that cannot be solved counts with all its
    voltage sources in series. `read` has the values in SI units of parts that are unmarked and were read.
    """
    return max((_largest_in(setup, sheet, read) for setup in sheet.setups.values()), default=0.0)


def caution(sheet: Sheet, read: Read = NOTHING_READ) -> Caution:
    """Judge a sheet by its largest voltage."""
    volts = largest_voltage(sheet, read)
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


def dissipations(sheet: Sheet, read: Read = NOTHING_READ) -> list[Dissipation]:
    """Every resistor's power in every setup, sources at the top of their tolerance.

    Without a stated rating a quarter watt is taken. A setup that cannot be solved, or has a part that is neither
    marked nor read, is left out.
    """
    found = []
    for setup in sheet.setups.values():
        for name, state in _at_worst(setup, sheet, read).parts.items():
            part = sheet.parts[name]
            if not part.kind.drives:
                allowed = float(part.rating) if part.rating else USUAL_RATING
                found.append(Dissipation(name, setup.name, state.watts, allowed))
    return found


def _largest_in(setup: Setup, sheet: Sheet, read: Read) -> float:
    worst = _at_worst(setup, sheet, read)
    open_circuit = [0.0, *(abs(e.value) for e in worst.elements if e.kind.drives and e.kind.unit == VOLT)]
    solved = sum(open_circuit) if worst.problem else worst.solution.largest_voltage
    return max(solved, *open_circuit)


def _at_worst(setup: Setup, sheet: Sheet, read: Read) -> Operating:
    """The setup with its sources at the top of their tolerance."""
    known = {name: read[name] for name in setup.connections if name in read} | stated(sheet, setup).known
    for name in setup.driving(sheet.parts):
        tolerance = sheet.parts[name].tolerance
        if tolerance and name in known:
            known[name] *= 1.0 + as_ratio(tolerance)
    return operate(sheet, setup, known)
