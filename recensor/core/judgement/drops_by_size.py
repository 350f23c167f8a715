"""Plain drops judged by their size: whichever way round the leads were, a drop counts in the direction calculated."""

from dataclasses import replace
from decimal import Decimal

from recensor.core.circuit import Across, Setup, Sheet
from recensor.core.quantity import VOLTAGE
from recensor.core.record import Reading, Run
from recensor.core.solving import Operating, operate


def by_size(run: Run) -> Run:
    """The run with every voltage of a part turned the way that is calculated from what is stated.

    What lies across several parts, or across none, keeps its sign: there it says something.
    """
    operated: dict[str, Operating] = {}

    def turned(reading: Reading) -> Reading:
        target, value = reading.target, reading.value.value
        if value is None or not target.is_across or target.measurand is not VOLTAGE:
            return reading
        setup = run.sheet.setups[target.setup]
        if not _is_plain(setup, run.sheet, target):
            return reading
        if setup.name not in operated:
            operated[setup.name] = operate(run.sheet, setup)
        operating = operated[setup.name]
        expected = None if operating.problem else float(operating.solution.answer(target))
        if not expected or expected * float(value) > 0:
            return reading
        return replace(reading, value=replace(reading.value, value=-value + Decimal(0)))

    return replace(run, readings=tuple(turned(reading) for reading in run.readings))


def _is_plain(setup: Setup, sheet: Sheet, target: Across) -> bool:
    return any(not sheet.parts[name].kind.is_source for name in setup.across(*target.nodes))
