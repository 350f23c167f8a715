"""What follows in one setup, worked out again only when something changed that it follows from."""

from collections.abc import Callable, Hashable, Iterable
from typing import Any, TypeVar

from recensor.core.judgement.measurements import Measurements
from recensor.core.kept import Kept

# So much is kept in one process: about three for each setup of the runs that are open.
_MOST = 2048

_Found = TypeVar("_Found")

_kept: Kept[Hashable, tuple[object, ...], Any] = Kept(_MOST)


def in_setup(
    work: Callable[[], _Found],
    measurements: Measurements,
    setup: str,
    kind: str,
    others: Iterable[str] = (),
    asked: Hashable = None,
) -> _Found:
    """What `work` finds in a setup, which nobody changes; kept from before where it would find the same.

    It may hang on the circuits, the meters, and what was read in this setup, in `others`, and of parts by themselves.

    Parameters
    ----------
    kind : what is worked out.
    asked : of what; it is kept for each.
    """
    # What is kept holds the setups that it follows from, so that no others have their identity meanwhile.
    key = id(measurements.run.sheet.setups), setup, kind, asked
    follows_from = measurements.follows_from(setup, *others)
    found: _Found | None = _kept.find(key, follows_from)
    if found is None:
        found = work()
        _kept.keep(key, follows_from, found)
    return found
