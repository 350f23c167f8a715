"""Changing what is drawn: edits of a sheet by its structure, tried before they are given."""

from recensor.core.editing import edits, spoken, states
from recensor.core.editing.edits import EditError, accepted, free_name
from recensor.core.editing.teaching import equivalent_source, evenly, held_against, superposition, sweep

__all__ = [
    "EditError", "accepted", "edits", "equivalent_source", "evenly", "free_name", "held_against", "spoken", "states",
    "superposition", "sweep",
]  # fmt: skip
