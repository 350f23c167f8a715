"""A source's internal resistance, out of what it gave before connecting and what it gives under load.

The slope of its terminal voltage over the current that it delivers: r = (V_open − V_loaded) / I.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import PartAlone, Through
from recensor.core.judgement.assess import Assessment
from recensor.core.judgement.sources import loaded_target
from recensor.core.quantity import VOLT, VOLTAGE
from recensor.core.record import Run
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
            through = Through(name, setup.name)
            read = assessment.of(through)
            expected = assessment.expected(through)
            current = read.measurement.mean if read else expected.value if expected else None
            if not before or not loaded or not current:
                continue
            first, last = before.measurement, loaded.measurement
            if first.mean is None or last.mean is None:
                continue
            sign = -1.0 if under_load.turned_against(last.target) else 1.0
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
