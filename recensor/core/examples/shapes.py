"""A circuit of a usual shape out of given parts: what the page for a new run makes."""

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from itertools import pairwise

from recensor.core.circuit import REFERENCE, SETUP, Part, Setup, Sheet, asking
from recensor.core.errors import Refused

FEWEST, MOST = 3, 8


class Shape(StrEnum):
    """The shapes that a new run can start from."""

    CHAIN = "series chain"
    BANK = "parallel bank"
    CHAIN_WITH_GROUP = "chain with one parallel group"


class ShapeError(Refused):
    """These parts do not make that shape; the message says why."""


def shaped(
    shape: Shape, title: str, source: Part, resistors: Sequence[Part], group: tuple[int, int] | None = None
) -> Sheet:
    """A sheet that asks for everything.

    Parameters
    ----------
    group : for `CHAIN_WITH_GROUP`, the first and last resistor of the parallel group, counted from 1.

    Raises
    ------
    ShapeError : too few or too many resistors, or the group does not fit.
    """
    count = len(resistors)
    if not FEWEST <= count <= MOST:
        raise ShapeError(f"A new run takes {FEWEST} to {MOST} resistors; here are {count}.")
    first, last = {Shape.CHAIN: (0, 0), Shape.BANK: (1, count)}.get(shape) or group or (0, 0)
    if shape is Shape.CHAIN_WITH_GROUP:
        if not 1 <= first < last <= count:
            raise ShapeError(f"The parallel group runs from one resistor to a later one, both among R1 to R{count}.")
        if (first, last) == (1, count):
            raise ShapeError("With every resistor in the group this is a parallel bank; leave at least one out of it.")
    stages = [[part] for part in resistors[: first - 1]] if first else [[part] for part in resistors]
    if first:
        stages += [list(resistors[first - 1 : last]), *([part] for part in resistors[last:])]
    nodes = [chr(ord("A") + k) for k in range(len(stages))] + [REFERENCE]
    connections = {source.name: (nodes[0], REFERENCE)}
    for stage, (upper, lower) in zip(stages, pairwise(nodes), strict=True):
        connections.update((part.name, (upper, lower)) for part in stage)
    setup = Setup(SETUP, REFERENCE, connections)
    sheet = Sheet(title, {part.name: part for part in (source, *resistors)}, {SETUP: setup})
    return replace(sheet, asked=tuple(asking.asked(sheet, setup)))
