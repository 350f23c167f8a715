"""Solderless boards: what their holes join, a planned layout, a built circuit held against the drawn one, probing."""

from recensor.core.boards.breadboard import (
    ACROSS,
    FULL,
    HALF,
    LEFT,
    RAILS,
    RIGHT,
    Board,
    BoardError,
    Built,
    Hole,
    Nets,
    Piece,
    Placement,
    Strip,
)
from recensor.core.boards.compare import BoardComparison, Difference, Likeness, built_setup, compare
from recensor.core.boards.consequences import Changed, Consequences
from recensor.core.boards.layout import planned
from recensor.core.boards.probing import Shown, probe, probes_at
from recensor.core.boards.repairs import Fault

__all__ = [
    "ACROSS",
    "FULL",
    "HALF",
    "LEFT",
    "RAILS",
    "RIGHT",
    "Board",
    "BoardComparison",
    "BoardError",
    "Built",
    "Changed",
    "Consequences",
    "Difference",
    "Fault",
    "Hole",
    "Likeness",
    "Nets",
    "Piece",
    "Placement",
    "Shown",
    "Strip",
    "built_setup",
    "compare",
    "planned",
    "probe",
    "probes_at",
]  # fmt: skip
