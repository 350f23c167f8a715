"""Schematics: a setup laid out on a sheet, with one symbol file for each kind of part."""

from recensor.drawing.schematic.canvas import Beside, Schematic
from recensor.drawing.schematic.layout import NOTHING_BESIDE, schematic
from recensor.drawing.schematic.symbols import OFF, SYMBOLS

__all__ = ["NOTHING_BESIDE", "OFF", "SYMBOLS", "Beside", "Schematic", "schematic"]
