"""Drawings of sheets, rendered; and what was read, to stand beside the parts."""

from functools import lru_cache
from uuid import UUID

from django.template.loader import render_to_string

from recensor.bench.means import mean_text
from recensor.core.circuit import Setup
from recensor.core.judgement import Assessment
from recensor.core.record import CURRENT, QUANTITIES, VOLTAGE, Run, Target
from recensor.drawing.canvas import Beside
from recensor.drawing.schematic import NOTHING_BESIDE, schematic
from recensor.library.queries import sheet_run

# What the drawing can show beside each part: nothing, or what was read.
NOTHING, VALUES = "nothing", "values"
SHOWN = (NOTHING, VALUES, "voltages", "currents")


@lru_cache(maxsize=512)
def of_sheet(sheet_id: UUID, target: Target | None, zigzag: bool = False) -> str:
    """The drawing of the setup that the next reading is in, with the reading marked; the same three, so drawn once."""
    planned = sheet_run(sheet_id)
    return _drawn(planned, setup_of(planned, target), target, zigzag, NOTHING_BESIDE)


def with_readings(run: Run, assessment: Assessment, target: Target | None, zigzag: bool, shown: str) -> str:
    """The same drawing with what was read beside the parts."""
    setup = setup_of(run, target)
    return _drawn(run, setup, target, zigzag, Beside(_read(run, setup, assessment, shown)))


def setup_of(run: Run, target: Target | None) -> Setup:
    """The setup a reading is in; for a part by itself the first that has it, else the first."""
    setups = list(run.setups.values())
    if target is not None and target.setup:
        return run.setups[target.setup]
    return next((setup for setup in setups if target is not None and target.of in setup.connections), setups[0])


def _drawn(run: Run, setup: Setup, target: Target | None, zigzag: bool, beside: Beside) -> str:
    drawing = schematic(run, setup, target, beside=beside)
    return render_to_string("drawing/schematic.svg", {"drawing": drawing, "zigzag": zigzag})


def _read(run: Run, setup: Setup, assessment: Assessment, shown: str) -> dict[str, str]:
    notes = {}
    for name, leads in setup.connections.items():
        target = {
            VALUES: Target(QUANTITIES[run.parts[name].kind.unit], of=name),
            "voltages": Target(VOLTAGE, across=leads, setup=setup.name),
            "currents": Target(CURRENT, through=name, setup=setup.name),
        }[shown]
        found = assessment.targets.get(target.key)
        if found:
            turned = found.measurement.mean is not None and target.turned_against(found.measurement.target)
            text = mean_text(found.measurement, target.unit)
            notes[name] = f"−{text}".replace("−−", "") if turned else text
    return notes
