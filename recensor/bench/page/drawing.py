"""Drawings of a run's setups, rendered; and what was read, to stand beside the parts."""

import hashlib
from dataclasses import dataclass, replace
from functools import lru_cache

from recensor.core import plan
from recensor.core.circuit import Across, PartAlone, Setup, Sheet, Target, Through
from recensor.core.judgement import Assessment
from recensor.core.plan import Stage
from recensor.core.quantity import VOLTAGE
from recensor.drawing.conventions import Conventions
from recensor.drawing.schematic import Beside, schematic
from recensor.experiments.queries import sheet_that_says
from recensor.ledger import mean_text
from recensor.web.drawings import drawn

# What the drawing can show beside each part: what is read in the present step, something chosen, or nothing.
STEP, VALUES, VOLTAGES, CURRENTS, NOTHING = "step", "values", "voltages", "currents", "nothing"
SHOWN = (STEP, VALUES, VOLTAGES, CURRENTS, NOTHING)
_OF_STAGE = {Stage.PARTS: VALUES, Stage.BUILD: VALUES, Stage.AMPS: CURRENTS}


@dataclass(frozen=True)
class Drawing:
    """A drawing as SVG, with a name that says what is in it: the same name is the same picture."""

    name: str
    svg: str


def of_step(target: Target | None, sheet: Sheet) -> str:
    """What stands beside the parts while something is read; voltages once everything is."""
    return VOLTAGES if target is None else _OF_STAGE.get(plan.stage_of(target, sheet), VOLTAGES)


def with_readings(
    content: str, assessment: Assessment, target: Target | None, conventions: Conventions, shown: str, present: str
) -> Drawing:
    """The drawing of the setup that the next reading is in, the reading marked, with what was read beside the parts.

    By what the sheet says: a class that follows the same, and has read nothing yet, has it drawn once.
    """
    sheet = sheet_that_says(content)
    setup = setup_of(sheet, target, present)
    notes = {} if shown == NOTHING else _read(sheet, setup, assessment, shown)
    return _drawn(content, setup.name, target, conventions, tuple(notes.items()))


def setup_of(sheet: Sheet, target: Target | None, present: str | None = None) -> Setup:
    """The setup a reading is in; for a part by itself the present one, else the first that has it, else the present."""
    if target is not None and target.setup:
        return sheet.setups[target.setup]
    now = sheet.setup(present)
    name = target.part if target is not None and target.is_part_alone else None
    if name is None or name in now.connections:
        return now
    return next((setup for setup in sheet.setups.values() if name in setup.connections), now)


@lru_cache(maxsize=512)
def _drawn(
    content: str, setup: str, target: Target | None, conventions: Conventions, notes: tuple[tuple[str, str], ...]
) -> Drawing:
    sheet = sheet_that_says(content)
    svg = drawn(schematic(sheet, sheet.setups[setup], target, beside=Beside(dict(notes))), conventions)
    return Drawing(f"drawing-{hashlib.blake2b(svg.encode(), digest_size=6).hexdigest()}", svg)


def _read(sheet: Sheet, setup: Setup, assessment: Assessment, shown: str) -> dict[str, str]:
    notes = {}
    for name, leads in setup.connections.items():
        targets: dict[str, Target] = {
            VALUES: PartAlone(name, sheet.parts[name].kind.measured_as),
            VOLTAGES: Across(VOLTAGE, leads, setup.name),
            CURRENTS: Through(name, setup.name),
        }
        target = targets[shown]
        target_assessment = assessment.of(target)
        if target_assessment:
            measurement = target_assessment.measurement
            if measurement.mean is not None and target.reversed_against(measurement.target):
                measurement = replace(measurement, mean=-measurement.mean)
            notes[name] = mean_text(measurement, target.unit)
    return notes
