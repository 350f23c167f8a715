"""The unit that a bare number is taken in: one that the dial on the card can show.

In a sealed run it is the dial's, or the one that the person last wrote: an expected value would be given away by it.
"""

from collections.abc import Sequence

from recensor.core.circuit import Target
from recensor.core.figures import prefixed_unit
from recensor.core.quantity import AMPERE, OHM, VOLT, Measurand
from recensor.core.record import Reading

# What each dial shows: the ohms and volts dials change their prefix by themselves or by range, the mA dial never
# shows amperes (common practice, no source).
SHOWN_BY_DIAL = {
    "Ω": ("Ω", "kΩ", "MΩ"),
    "V DC": ("mV", "V"),
    "mA DC": ("µA", "mA"),
    "A DC": ("mA", "A"),
}
_DIALS_OWN = {OHM: "Ω", VOLT: "V", AMPERE: "mA"}


def bare_units(
    target: Target,
    dial: str,
    expected: float | None,
    readings: Sequence[Reading],
    *,
    sealed: bool,
    advised: str | None = None,
) -> tuple[str, tuple[str, ...]]:
    """The unit that a bare number has here, and the units that the dial can show.

    `expected` is the value to expect in the SI unit; a part's own stands on it, and is known in a sealed run too.
    `advised` is the unit of the range that the meter is to be set to, where its profile is known.
    """
    shown = SHOWN_BY_DIAL[dial]
    if advised in shown:
        unit = advised
    elif expected and not (sealed and not target.is_part_alone):
        unit = prefixed_unit(expected, target.unit)
    else:
        unit = last_written(target.measurand, readings) or _DIALS_OWN[target.unit]
    return (unit if unit in shown else shown[-1]), shown


def last_written(measurand: Measurand, readings: Sequence[Reading]) -> str:
    """The unit that was written beside the last reading of this kind; empty where none was."""
    return next((r.value.beside for r in reversed(readings) if r.target.measurand is measurand and r.value.beside), "")
