"""Circuits as they are built at benches, drawn at random: the ready-made shapes, and others."""

import numpy as np

from recensor.core.circuit import RESISTOR, SETUP, VOLTAGE_SOURCE, Part, Setup, Sheet, asking_everything
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.quantity import OHM, VOLT, parse, parse_percent

_OHMS = (
    "47",
    "100",
    "150",
    "220",
    "330",
    "470",
    "680",
    "1k",
    "1.5k",
    "2.2k",
    "3.3k",
    "4.7k",
    "6.8k",
    "10k",
    "22k",
    "47k",
)
_VOLTS = ("3", "5", "6", "9", "12", "15")


def draw_sheet(draw: np.random.Generator, *, least: int = 3, most: int = 8, tolerance: str = "5%") -> Sheet:
    """A sheet with `least` to `most` resistors and a source, of a ready-made shape or of none, that asks everything."""
    resistors = [
        Part(f"R{k}", RESISTOR, parse(str(draw.choice(_OHMS)), OHM), parse_percent(tolerance))
        for k in range(1, int(draw.integers(least, most + 1)) + 1)
    ]
    source = Part("V1", VOLTAGE_SOURCE, parse(str(draw.choice(_VOLTS)), VOLT), parse_percent("2%"))
    shape = draw.choice([*Shape, None])
    if shape is None:
        return _of_no_shape(source, resistors, draw)
    first = int(draw.integers(1, len(resistors)))
    last = int(draw.integers(first + 1, len(resistors) + 1))
    if (first, last) == (1, len(resistors)):
        first = 2 if len(resistors) > 2 else first
        last = max(last, first + 1)
    return shaped(Shape(shape), "drawn", source, resistors, (first, min(last, len(resistors))))


def _of_no_shape(source: Part, resistors: list[Part], draw: np.random.Generator) -> Sheet:
    """Every node hangs on an earlier one, and the parts that are left join any two."""
    nodes = ["a", "gnd"]
    connections = {source.name: ("a", "gnd")}
    spare = []
    for k, part in enumerate(resistors):
        if k < len(resistors) // 2 - 1:
            node = chr(ord("b") + k)
            connections[part.name] = (str(draw.choice(nodes)), node)
            nodes.append(node)
            spare.append(node)
        elif spare:
            node = spare.pop()
            other = str(draw.choice([one for one in nodes if one != node]))
            connections[part.name] = (node, other)
        else:
            first, second = draw.choice(nodes, 2, replace=False)
            connections[part.name] = (str(first), str(second))
    parts = {part.name: part for part in [source, *resistors]}
    return asking_everything(Sheet("drawn", parts, {SETUP: Setup(SETUP, "gnd", connections)}))
