"""The values that a calculation of one setup starts from."""

from collections.abc import Mapping
from dataclasses import dataclass

from recensor.core.circuit import Setup, Sheet
from recensor.core.quantity import as_ratio
from recensor.core.uncertainty import tolerance_uncertainty

# What stands in for a value that nobody knows; the odd ratio keeps a bridge from balancing by accident.
STAND_IN_OHMS = 1234.567
_RISING = 0.37


@dataclass(frozen=True)
class Value:
    """A part's value in SI units with its standard uncertainty; None where unknown."""

    size: float | None = None
    standard: float | None = None


@dataclass(frozen=True)
class Values:
    """The value of every part of a setup, in the order of its connections."""

    parts: Mapping[str, Value]

    @property
    def known(self) -> dict[str, float]:
        """The values there are, in SI units."""
        return {name: value.size for name, value in self.parts.items() if value.size is not None}

    @property
    def missing(self) -> tuple[str, ...]:
        """The parts whose value nobody knows."""
        return tuple(name for name, value in self.parts.items() if value.size is None)

    def filled(self) -> dict[str, float]:
        """Every value, with a stand-in where nobody knows it: to see what does not depend on it."""
        return {
            name: STAND_IN_OHMS * (1 + _RISING * k) if value.size is None else value.size
            for k, (name, value) in enumerate(self.parts.items())
        }


def stated_value(sheet: Sheet, setup: Setup | None, name: str) -> Value:
    """What a part should be, as the setup or the part itself states it, within its tolerance."""
    part = sheet.parts[name]
    if part.kind.is_wire:
        return Value(0.0, 0.0)
    quantity = setup.stated(part) if setup else part.marked
    if quantity is None or (part.kind.is_nonlinear and part.current is None):
        return Value()
    size = float(quantity)
    return Value(size, tolerance_uncertainty(size, as_ratio(part.tolerance)) if part.tolerance else None)


def stated(sheet: Sheet, setup: Setup) -> Values:
    """The values that a setup should have.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + ?")
    >>> values = stated(sheet, sheet.setup())
    >>> values.known, values.missing
    ({'V1': 9.0, 'R1': 1000.0}, ('R2',))
    """
    return Values({name: stated_value(sheet, setup, name) for name in setup.connections})
