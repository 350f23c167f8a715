"""Drawings of a run's setups, rendered; and what was read, to stand beside the parts."""

from dataclasses import replace
from functools import lru_cache

from recensor.core.circuit import Across, PartAlone, Setup, Sheet, Target, Through
from recensor.core.judgement import Assessment
from recensor.core.quantity import VOLTAGE
from recensor.drawing.conventions import Conventions
from recensor.drawing.schematic import NOTHING_BESIDE, Beside, schematic
from recensor.experiments.queries import sheet_that_says
from recensor.ledger import mean_text
from recensor.web.drawings import drawn

# What the drawing can show beside each part: nothing, or what was read.
NOTHING, VALUES = "nothing", "values"
SHOWN = (NOTHING, VALUES, "voltages", "currents")


@lru_cache(maxsize=512)
def of_content(content: str, target: Target | None, conventions: Conventions) -> str:
    """The drawing of the setup that the next reading is in, with the reading marked.

    By what the sheet says: a class that follows the same has it drawn once.
    """
    return _drawn(sheet_that_says(content), target, conventions, NOTHING_BESIDE)


def with_readings(
    sheet: Sheet, assessment: Assessment, target: Target | None, conventions: Conventions, shown: str
) -> str:
    """The same drawing with what was read beside the parts."""
    return _drawn(sheet, target, conventions, Beside(_read(sheet, setup_of(sheet, target), assessment, shown)))


def setup_of(sheet: Sheet, target: Target | None) -> Setup:
    """The setup a reading is in; for a part by itself the first that has it, else the first."""
    if target is not None and target.setup:
        return sheet.setups[target.setup]
    name = target.part if target is not None and target.is_part_alone else None
    return next((setup for setup in sheet.setups.values() if name in setup.connections), sheet.setup())


def _drawn(sheet: Sheet, target: Target | None, conventions: Conventions, beside: Beside) -> str:
    return drawn(schematic(sheet, setup_of(sheet, target), target, beside=beside), conventions)


def _read(sheet: Sheet, setup: Setup, assessment: Assessment, shown: str) -> dict[str, str]:
    notes = {}
    for name, leads in setup.connections.items():
        targets: dict[str, Target] = {
            VALUES: PartAlone(name, sheet.parts[name].kind.measured_as),
            "voltages": Across(VOLTAGE, leads, setup.name),
            "currents": Through(name, setup.name),
        }
        target = targets[shown]
        target_assessment = assessment.of(target)
        if target_assessment:
            measurement = target_assessment.measurement
            if measurement.mean is not None and target.reversed_against(measurement.target):
                measurement = replace(measurement, mean=-measurement.mean)
            notes[name] = mean_text(measurement, target.unit)
    return notes
