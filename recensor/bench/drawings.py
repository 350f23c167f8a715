"""Drawings of sheets, rendered."""

from functools import lru_cache
from uuid import UUID

from django.template.loader import render_to_string

from recensor.core.record import Target
from recensor.drawing.schematic import schematic
from recensor.library.queries import sheet_run


@lru_cache(maxsize=512)
def of_sheet(sheet_id: UUID, target: Target | None) -> str:
    """The drawing of a sheet's first setup with the next reading marked: the same for the same two, so drawn once."""
    planned = sheet_run(sheet_id)
    drawing = schematic(planned, next(iter(planned.setups.values())), target)
    return render_to_string("drawing/schematic.svg", {"drawing": drawing})
