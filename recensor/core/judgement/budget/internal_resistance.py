"""A source's internal resistance, out of what it gave before connecting and what it gives under load.

The slope of its terminal voltage over the current that it delivers: r = (V_open − V_loaded) / I.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import MEASURED, PartAlone, Setup, Through, loaded_target
from recensor.core.judgement.assess import Assessment
from recensor.core.judgement.starting_values import values_of
from recensor.core.quantity import VOLT, VOLTAGE
from recensor.core.record import Run
from recensor.core.solving import operate
from recensor.core.uncertainty import COVERAGE_FACTOR


@dataclass(frozen=True)
class Internal:
    """A voltage source in a setup: open-circuit and loaded volts, the amperes that it delivered, and ohms inside.

    `expanded` is the uncertainty of the ohms (k = 2); `sags` whether the meter can tell the two voltages apart;
    `is_read` whether the current was read, else it is calculated.
    """

    source: str
    setup: str
    open_circuit: float
    loaded: float
    current: float
    ohms: float
    expanded: float
    sags: bool
    is_read: bool


def internal_resistances(run: Run, assessment: Assessment) -> Iterator[Internal]:
    """Of every voltage source that was read before connecting and under load, and whose current is known."""
    for setup in run.sheet.setups.values():
        for name in setup.driving(run.sheet.parts):
            if run.sheet.parts[name].kind.unit != VOLT:
                continue
            before = assessment.of(PartAlone(name, VOLTAGE, setup.name)) or (
                None if name in setup.values else assessment.of(PartAlone(name, VOLTAGE))
            )
            under_load = loaded_target(setup, run.sheet, name)
            loaded = assessment.of(under_load)
            read = assessment.of(Through(name, setup.name))
            current = read.measurement.mean if read else _calculated_current(run, setup, name, assessment)
            if not before or not loaded or not current:
                continue
            first, last = before.measurement, loaded.measurement
            if first.mean is None or last.mean is None:
                continue
            sign = -1.0 if under_load.reversed_against(last.target) else 1.0
            drop = first.mean - sign * last.mean
            apart = COVERAGE_FACTOR * first.spread.apart_from(last.spread.times(sign))
            ohms = drop / current
            spread = (first.spread - last.spread.times(sign)).times(1.0 / current)
            if read:
                spread = spread - read.measurement.spread.times(ohms / current)
            expanded = COVERAGE_FACTOR * spread.standard
            yield Internal(
                name, setup.name, first.mean, sign * last.mean, current, ohms, expanded, drop > apart, bool(read)
            )


def _calculated_current(run: Run, setup: Setup, name: str, assessment: Assessment) -> float | None:
    """What a source delivers, by all that was read; None where that cannot be calculated."""
    values = values_of(run.sheet, setup, assessment.against.measurements, MEASURED)
    operating = operate(run.sheet, setup, values.known)
    return operating.parts[name].amperes if name in operating.parts else None
