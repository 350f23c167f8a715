"""How to take a reading: station, power, dial, where the probes go, what to put back; and in which order."""

from recensor.core.plan.instruction import Instruction, Station, instruction, station
from recensor.core.plan.order import Order, in_order, next_in, stage

__all__ = ["Instruction", "Order", "Station", "in_order", "instruction", "next_in", "stage", "station"]
