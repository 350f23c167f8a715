"""A bench of known values, read by a good meter: what the tests of causes put something wrong into."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from recensor.core.circuit import Across, PartAlone, Sheet, Target, asking_everything, one_line
from recensor.core.faults import Cause, Explanation, explain
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Run
from recensor.core.simulation import SimulatedBench, SimulatedMeter

LADDER = "9V: 1k + (2k2 | 3k3) + 470; 5%"


def drawn(line: str = LADDER) -> Sheet:
    """The sheet of a line, that asks for everything."""
    return asking_everything(one_line.read(line))


def true_values(sheet: Sheet) -> dict[str, float]:
    """Values a little off what is marked, the same every time."""
    names = [name for name, part in sheet.parts.items() if not part.kind.is_source]
    off = {name: 1.0 + 0.012 * (-1) ** k for k, name in enumerate(names)}
    return {name: float(part.nominal or 1) * off.get(name, 1.002) for name, part in sheet.parts.items()}


def read(sheet: Sheet, circuit: dict[str, float] | None = None, *, seed: int = 1) -> Run:
    """The run of a sheet whose circuit has some `circuit` values other than the parts by themselves."""
    draw, true = np.random.default_rng(seed), true_values(sheet)
    meter = SimulatedMeter(SHIPPED["4000-count automatic"], draw)
    alone, built = (
        SimulatedBench(sheet, true, meter, disturbed=True),
        SimulatedBench(sheet, true | (circuit or {}), meter, disturbed=True),
    )
    readings = [(alone if isinstance(target, PartAlone) else built).read(target) for target in sheet.asked]
    return Run(sheet, tuple(readings), meters={"bench": SHIPPED["4000-count automatic"]})


def place_of(run: Run, is_wanted: Callable[[Target], bool]) -> int:
    """The place of the first reading of such a target."""
    return next(k for k, reading in enumerate(run.readings) if is_wanted(reading.target))


def voltages(run: Run) -> list[int]:
    """The places of the voltages that were read in a circuit."""
    return [
        k for k, one in enumerate(run.readings) if isinstance(one.target, Across) and one.target.measurand is VOLTAGE
    ]


def rewritten(run: Run, place: int, text: str) -> Run:
    """The run with another text at a place."""
    readings = list(run.readings)
    old = readings[place]
    readings[place] = replace(old, value=parse(text, old.target.unit))
    return replace(run, readings=tuple(readings))


def explained(run: Run) -> Explanation:
    """What would explain a run."""
    return explain(assess(run))


def first(run: Run) -> Cause:
    """The first cause of a run."""
    return explained(run).causes[0]


def names(causes: Sequence[Cause]) -> list[tuple[str, tuple[str, ...]]]:
    """Kinds and targets."""
    return [(cause.kind.value, cause.targets) for cause in causes]
