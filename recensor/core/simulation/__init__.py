"""Benches that do not exist: hidden true values, a meter with errors of its own, and the readings they give."""

from recensor.core.simulation.draws import draw_sheet
from recensor.core.simulation.simulated_bench import SimulatedBench, draw_values
from recensor.core.simulation.simulated_meter import SimulatedMeter

__all__ = ["SimulatedBench", "SimulatedMeter", "draw_sheet", "draw_values"]
