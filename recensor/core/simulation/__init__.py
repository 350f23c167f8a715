"""Benches that do not exist: hidden true values, a meter with errors of its own, and the readings they give."""

from recensor.core.simulation.bench import Bench, draw_values
from recensor.core.simulation.circuits import draw_sheet
from recensor.core.simulation.meter import Meter

__all__ = ["Bench", "Meter", "draw_sheet", "draw_values"]
