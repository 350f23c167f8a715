"""Changing what is drawn: edits of a sheet by its structure, tried before they are given."""

from recensor.core.editing import alike, circuits, colour_words, edits, potentiometers, setup_changes
from recensor.core.editing.circuit_presets import Joined, Preset, grown, presets
from recensor.core.editing.edits import EditError, accepted, free_name
from recensor.core.editing.lessons import equivalent_source, evenly, free_table, held_against, superposition, sweep

__all__ = [
    "EditError",
    "Joined",
    "Preset",
    "accepted",
    "alike",
    "circuits",
    "colour_words",
    "edits",
    "equivalent_source",
    "evenly",
    "free_name",
    "free_table",
    "grown",
    "held_against",
    "potentiometers",
    "presets",
    "setup_changes",
    "superposition",
    "sweep",
]  # fmt: skip
