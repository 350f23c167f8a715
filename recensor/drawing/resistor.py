"""A resistor as it looks: a body with its colour bands, for ``drawing/resistor.svg``. Lengths are in SVG units."""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core.colour_code import Colour

BODY_LEFT, BODY_WIDTH, BAND_WIDTH, PITCH = 60, 240, 18, 34


@dataclass(frozen=True)
class Band:
    """One band: its colour's word and digit, and where it begins."""

    word: str
    digit: str
    x: float


@dataclass(frozen=True)
class BandedResistor:
    """The bands in order; the last of four or more stands apart from the others."""

    bands: tuple[Band, ...]
    description: str


def banded_resistor(bands: Sequence[Colour]) -> BandedResistor:
    """Place the bands on the body."""
    placed = []
    x = float(BODY_LEFT + 20)
    if len(bands) == 1:
        x = BODY_LEFT + (BODY_WIDTH - BAND_WIDTH) / 2
    for place, colour in enumerate(bands):
        if place and place == len(bands) - 1 and len(bands) in (4, 5):
            x = max(x, BODY_LEFT + BODY_WIDTH - BAND_WIDTH - 20)
        placed.append(Band(colour.word, "" if colour.digit is None else str(colour.digit), x))
        x += PITCH
    words = ", ".join(colour.word for colour in bands) or "no bands yet"
    return BandedResistor(tuple(placed), f"Resistor with the bands {words}")
