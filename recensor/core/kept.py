"""What was worked out last, kept as long as nothing changed that it follows from; thrown away at any time."""

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
From = TypeVar("From")
Value = TypeVar("Value")


class Kept(Generic[Key, From, Value]):
    """The values of at most so many keys, each with what it follows from; the one not asked for longest goes.

    Examples
    --------
    >>> squares = Kept[str, int, int](most=2)
    >>> squares.keep("side", 3, 9)
    >>> squares.find("side", 3), squares.find("side", 4)
    (9, None)
    """

    def __init__(self, most: int) -> None:
        self._most = most
        self._lock = Lock()
        self._kept: OrderedDict[Key, tuple[From, Value]] = OrderedDict()

    def find(self, key: Key, follows_from: From) -> Value | None:
        """The value of a key; None where it is not known, or follows from something else."""
        with self._lock:
            if key not in self._kept:
                return None
            known, value = self._kept[key]
            self._kept.move_to_end(key)
        return value if known == follows_from else None

    def keep(self, key: Key, follows_from: From, value: Value) -> None:
        """Keep the value of a key, instead of what was kept for it."""
        with self._lock:
            self._kept[key] = follows_from, value
            self._kept.move_to_end(key)
            if len(self._kept) > self._most:
                self._kept.popitem(last=False)
