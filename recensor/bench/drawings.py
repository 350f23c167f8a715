"""Drawings of sheets, rendered."""

from functools import lru_cache
from uuid import UUID

from django.template.loader import render_to_string

from recensor.core.record import Target
from recensor.drawing.schematic import schematic
from recensor.library.queries import sheet_run


@lru_cache(maxsize=512)
def of_sheet(sheet_id: UUID, target: Target | None, zigzag: bool = False) -> str:
    """The drawing of the setup that the next reading is in, with the reading marked.

    The same for the same three, so drawn once; a reading of a part by itself shows the first setup that has it.
    """
    planned = sheet_run(sheet_id)
    setups = list(planned.setups.values())
    if target is not None and target.setup:
        setups = [planned.setups[target.setup]]
    elif target is not None:
        setups = [setup for setup in setups if target.of in setup.connections] or setups
    drawing = schematic(planned, setups[0], target)
    return render_to_string("drawing/schematic.svg", {"drawing": drawing, "zigzag": zigzag})
