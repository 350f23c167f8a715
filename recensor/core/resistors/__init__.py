"""Resistors as things: codes on them, preferred values, values out of two, and sorting a handful."""

from recensor.core.resistors import colour_code, preferred_values, printed_code, sorting
from recensor.core.resistors.colour_code import (
    BandError,
    BandReading,
    Coded,
    Colour,
    Lookalike,
    bands_saying,
    lookalikes,
)
from recensor.core.resistors.combination import Arrangement, Combination, Stocked, combinations
from recensor.core.resistors.printed_code import CodeError

__all__ = [
    "Arrangement",
    "BandError",
    "BandReading",
    "CodeError",
    "Coded",
    "Colour",
    "Combination",
    "Lookalike",
    "Stocked",
    "bands_saying",
    "colour_code",
    "combinations",
    "lookalikes",
    "preferred_values",
    "printed_code",
    "sorting",
]  # fmt: skip
