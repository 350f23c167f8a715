"""A resistor as it looks: a body with its colour bands, for ``drawing/resistor.svg``. Lengths are in SVG units."""

from collections.abc import Sequence
from dataclasses import dataclass

from recensor.core.circuit import Part
from recensor.core.resistors import Colour, bands_saying

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


def bands_of(part: Part | None) -> tuple[Colour, ...]:
    """The bands of a part as marked; none when a value or tolerance is missing or no bands say them."""
    if part is None or not part.kind.has_bands or part.nominal is None or part.tolerance is None:
        return ()
    return bands_saying(part.nominal.value, part.tolerance.value)


def resistor_of(part: Part | None) -> BandedResistor | None:
    """What a part of a run looks like; None when no bands say it."""
    bands = bands_of(part)
    return banded_resistor(bands) if bands else None
