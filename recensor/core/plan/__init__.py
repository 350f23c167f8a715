"""How to take a reading: station, power, dial, where the probes go, what to put back."""

from recensor.core.plan.instruction import Instruction, Station, instruction, station

__all__ = ["Instruction", "Station", "instruction", "station"]
