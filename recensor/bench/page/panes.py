"""The panes of the bench: what can be opened below the instruction, one at a time, by a key each."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Pane(StrEnum):
    """What can be opened; nothing is the loop, node or group that is being filled."""

    FILLED = ""
    READINGS = "readings"
    CHECKS = "checks"
    LINES = "lines"
    CAUSES = "causes"
    HISTORY = "history"
    PARTS = "parts"


@dataclass(frozen=True)
class Tab:
    """The button of a pane: its words, its key, and whether it is open."""

    pane: Pane
    words: str
    key: str
    is_open: bool


_TABS = (
    (Pane.PARTS, "Parts, circuits", "j"),
    (Pane.READINGS, "Readings", "g"),
    (Pane.CHECKS, "Checks", "k"),
    (Pane.LINES, "V–I", "v"),
    (Pane.CAUSES, "Causes", "w"),
    (Pane.HISTORY, "History", "y"),
)


def tabs(opened: Pane, there: Mapping[Pane, bool]) -> tuple[Tab, ...]:
    """The tabs of the panes that have something in them."""
    return tuple(Tab(pane, words, key, pane is opened) for pane, words, key in _TABS if there[pane])
