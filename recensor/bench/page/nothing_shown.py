"""A zero or an open that was read last, as the page explains it: what it can be here, and where to walk."""

from dataclasses import dataclass
from itertools import islice

from recensor.core.circuit import slug
from recensor.core.entries import on_purpose, zero_search
from recensor.core.plan import title_in_setup
from recensor.ledger import shown
from recensor.runs.queries import RunSnapshot

# So many changes are offered that explain a reading of nothing.
_MOST_CHANGES = 4


@dataclass(frozen=True)
class WalkLink:
    """A point of the walk: its name, the parts before it, what shows there if all is well, and its address."""

    node: str
    behind: str
    expected: str
    address: str


@dataclass(frozen=True)
class NothingShown:
    """What was read and where, what to look at first, where black stays, and the points for red in turn.

    `on_purpose` are changes with which the `reading` would be just what is expected, as they are typed.
    """

    text: str
    title: str
    looks: tuple[str, ...]
    black: str
    walk: tuple[WalkLink, ...]
    reading: int
    on_purpose: tuple[str, ...]


def nothing_shown(loaded: RunSnapshot) -> NothingShown | None:
    """What the last reading can be where it shows nothing though something is expected; None for any other."""
    index = loaded.last_reading
    if index is None:
        return None
    reading = loaded.core.readings[index]
    found = zero_search(loaded.core, reading, sealed=loaded.is_sealed)
    if found is None:
        return None
    walk = (WalkLink(step.node, " and ".join(step.behind), step.expected, slug(step.target)) for step in found.walk)
    title = title_in_setup(reading.target, loaded.core.sheet)
    changes = islice(on_purpose(loaded.core, reading), _MOST_CHANGES)
    return NothingShown(
        shown(reading),
        title,
        found.looks,
        found.black,
        tuple(walk),
        loaded.reading_ids[index],
        tuple(change.typed for change in changes),
    )
