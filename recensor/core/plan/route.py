"""The way through points that are read one after the other with the fewest moves of probes and dial.

Few points are tried in every order (Held and Karp, 1962, "A dynamic programming approach to sequencing problems", from
memory). For more the order of asking is improved, by turning stretches round and by moving short ones, until
neither helps (2-opt and or-opt, common practice, no source).
"""

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations, pairwise

import numpy as np
from numpy.typing import NDArray

# Where red and black are, and how the meter is set: what changes from one point to the next is a move.
Stop = tuple[str | None, str | None, tuple[str | None, float | None]]
NOWHERE: Stop = (None, None, (None, None))

# Up to so many stops are tried in every order; for more so many ways are begun with.
_FEW, _BEGINNINGS = 8, 6

Integers = NDArray[np.int64]


@lru_cache(maxsize=512)
def shortest(stops: tuple[Stop, ...], start: Stop = NOWHERE) -> tuple[int, ...]:
    """The places of the stops in an order of few moves; as they stand where no other needs fewer.

    Examples
    --------
    >>> shortest((("A", "gnd", 20), ("B", "C", 20), ("B", "gnd", 20)))
    (0, 2, 1)
    """
    if len(stops) < 2:
        return tuple(range(len(stops)))
    costs = [[_cost(stop, other) for other in stops] for stop in stops]
    first = [_cost(start, stop) for stop in stops]
    found = _exact(costs, first) if len(stops) <= _FEW else _improved(costs, first)
    asked = list(range(len(stops)))
    return tuple(found if _length(found, costs, first) < _length(asked, costs, first) else asked)


def _cost(one: Stop, other: Stop) -> int:
    return sum(a != b for a, b in zip(one, other, strict=True))


def _length(way: Sequence[int], costs: list[list[int]], first: list[int]) -> int:
    return first[way[0]] + sum(costs[a][b] for a, b in pairwise(way))


def _exact(costs: list[list[int]], first: list[int]) -> list[int]:
    everyone = range(len(first))
    best: dict[tuple[frozenset[int], int], tuple[int, tuple[int, ...]]] = {
        (frozenset([k]), k): (first[k], (k,)) for k in everyone
    }
    for size in range(2, len(first) + 1):
        for been in map(frozenset, combinations(everyone, size)):
            for last in been:
                before = been - {last}
                best[been, last] = min(
                    (best[before, k][0] + costs[k][last], (*best[before, k][1], last)) for k in sorted(before)
                )
    return list(min(best[frozenset(everyone), last] for last in everyone)[1])


def _improved(costs: list[list[int]], first: list[int]) -> list[int]:
    """The shortest that the order of asking, and ways that begin here and there and go on to the nearest, lead to."""
    begun = [
        list(range(len(first))),
        *(_nearest(k, costs) for k in range(0, len(first), 1 + len(first) // _BEGINNINGS)),
    ]
    return min((_settled(way, costs, first) for way in begun), key=lambda way: _length(way, costs, first))


def _nearest(begin: int, costs: list[list[int]]) -> list[int]:
    """From one stop always on to the nearest of those that are left."""
    left, way = set(range(len(costs))) - {begin}, [begin]
    while left:
        way.append(min(left, key=lambda k: (costs[way[-1]][k], k)))
        left.remove(way[-1])
    return way


def _settled(way: list[int], costs: list[list[int]], first: list[int]) -> list[int]:
    """A way that neither turning a stretch round nor moving a short one makes shorter."""
    count = len(first)
    steps = np.zeros((count + 2, count + 2), int)  # the last but one is the start; to the last, the end, takes nothing
    steps[:count, :count], steps[count, :count] = costs, first
    while better := _turned(way, steps) or _moved(way, steps):
        way = better
    return way


def _turned(way: list[int], steps: Integers) -> list[int] | None:
    """The way with a stretch turned round, where that is shorter; costs are the same both ways."""
    start, end = len(steps) - 2, len(steps) - 1
    stops, afters = np.array(way), np.array([*way[1:], end])
    onwards = steps[stops, afters]
    for i in range(len(way) - 1):
        before, here = way[i - 1] if i else start, way[i]
        turned = steps[before, stops[i + 1 :]] + steps[here, afters[i + 1 :]]
        shorter = np.flatnonzero(turned < steps[before, here] + onwards[i + 1 :])
        if len(shorter):
            j = i + 1 + int(shorter[0])
            return [*way[:i], *reversed(way[i : j + 1]), *way[j + 1 :]]
    return None


def _moved(way: list[int], steps: Integers) -> list[int] | None:
    """The way with a stretch of up to three stops elsewhere, perhaps turned round, where that is shorter."""
    start, end = len(steps) - 2, len(steps) - 1
    for length in (1, 2, 3):
        for i in range(len(way) - length + 1):
            stretch, rest = way[i : i + length], way[:i] + way[i + length :]
            ends = np.array([start, *rest, end])
            one, other = stretch[0], stretch[-1]
            saved = steps[ends[i], one] + steps[other, ends[i + 1]] - steps[ends[i], ends[i + 1]]
            gaps = steps[ends[:-1], ends[1:]]
            put = steps[ends[:-1], one] + steps[other, ends[1:]] - gaps
            turned = steps[ends[:-1], other] + steps[one, ends[1:]] - gaps
            shorter = np.flatnonzero(np.stack([put, turned], axis=1) < saved)
            if len(shorter):
                j, is_turned = divmod(int(shorter[0]), 2)
                return [*rest[:j], *(stretch[::-1] if is_turned else stretch), *rest[j:]]
    return None
