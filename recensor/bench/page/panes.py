"""The panes of the bench: what can be opened below the instruction, one at a time, by a key each."""

from dataclasses import dataclass
from enum import StrEnum

from recensor.core.judgement import Assessment
from recensor.ledger import Ledger
from recensor.ledger.causes import is_worth_asking


class Pane(StrEnum):
    """What can be opened; nothing is the loop, node or group that is being filled."""

    FILLED = ""
    READINGS = "readings"
    CHECKS = "checks"
    TABLE = "table"
    CAUSES = "causes"
    HISTORY = "history"


@dataclass(frozen=True)
class Tab:
    """The button of a pane: its words, its key, and whether it is open."""

    pane: Pane
    words: str
    key: str
    is_open: bool


_TABS = (
    (Pane.READINGS, "Readings", "g"),
    (Pane.CHECKS, "Checks", "k"),
    (Pane.TABLE, "V–I", "v"),
    (Pane.CAUSES, "Causes", "w"),
    (Pane.HISTORY, "History", "y"),
)


def tabs(ledger: Ledger, assessment: Assessment, opened: Pane, *, in_sheet: bool, has_history: bool) -> tuple[Tab, ...]:
    """The tabs of what there is to open; `in_sheet` says that the readings stand at the left already."""
    there = {
        Pane.READINGS: not in_sheet,
        Pane.CHECKS: True,
        Pane.TABLE: bool(assessment.against.run.sheet.sweeps),
        Pane.CAUSES: is_worth_asking(assessment),
        Pane.HISTORY: has_history,
    }
    return tuple(Tab(pane, words, key, pane is opened) for pane, words, key in _TABS if there[pane])
