"""Places in an app's templates that apps above it fill, so that no template reverses an address above its own.

A slot is named where it is (``{% slot "experiment head" %}``) and filled when the filling app is ready. A filling is
a template, rendered with the page's own context and what its `context` adds.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Filling:
    """A template for a slot, and what it needs beside the page's context."""

    template: str
    context: Callable[[], Mapping[str, Any]] = dict


_FILLED: dict[str, list[Filling]] = {}


def fill(slot: str, template: str, context: Callable[[], Mapping[str, Any]] = dict) -> None:
    """Put a template into a slot, behind what is in it; once, however often an app becomes ready."""
    fillings = _FILLED.setdefault(slot, [])
    if all(filling.template != template for filling in fillings):
        fillings.append(Filling(template, context))


def fillings(slot: str) -> tuple[Filling, ...]:
    """What a slot is filled with, in order."""
    return tuple(_FILLED.get(slot, ()))
