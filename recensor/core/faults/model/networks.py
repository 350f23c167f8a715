"""The circuits of a run, live and dead, as networks of which every hypothesis is a variant."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Across, Setup, Through
from recensor.core.faults.model.batch import Names
from recensor.core.faults.model.observations import Observations
from recensor.core.quantity import RESISTANCE
from recensor.core.solving import Element, Variants, dead, elements_of


@dataclass(frozen=True)
class FaultNetwork:
    """The circuit of one place, live or dead: its elements' columns, and the rows of the points that it answers.

    `parts` and `sources` are pairs of columns: among its elements, and among all parts or sources.
    """

    place: int
    variants: Variants
    rows: NDArray[np.int64]
    parts: tuple[NDArray[np.int64], NDArray[np.int64]]
    sources: tuple[NDArray[np.int64], NDArray[np.int64]]


def networks(observed: Observations, names: Names, points: int) -> Iterator[FaultNetwork]:
    """Every circuit that answers for so many points: powered, with its sources out, and left in, off."""
    sheet = observed.run.sheet
    any_values = dict.fromkeys(sheet.parts, 1.0)
    for place, setup in enumerate(sheet.setups.values()):
        here: dict[str, list[int]] = {"live": [], "dead": [], "left in": []}
        for row, point in enumerate(observed.points[:points]):
            target = point.target
            if not target.in_circuit or target.setup != setup.name:
                continue
            ohms = target.needs_dead_circuit
            here["left in" if point.left_in else "dead" if ohms else "live"].append(row)
        circuits = {
            "live": elements_of(setup, sheet.parts, any_values),
            "dead": dead(setup, sheet.parts, any_values),
            "left in": dead(setup, sheet.parts, any_values, left_in=True),
        }
        for how, rows in here.items():
            yield from _network(observed, names, place, setup, circuits[how], rows)


def _network(
    observed: Observations, names: Names, place: int, setup: Setup, elements: Sequence[Element], rows: Sequence[int]
) -> Iterator[FaultNetwork]:
    """A circuit asked for these points; those that it does not have read nothing."""
    nodes = {node for e in elements for node in (e.first, e.second)}
    present = {e.name for e in elements}
    asked: list[Across | Through] = []
    known = []
    for row in rows:
        target = observed.points[row].target
        if (target.is_across and nodes.issuperset(target.nodes)) or (target.is_through and target.part in present):
            asked.append(target)
            known.append(row)
    if not asked:
        return
    reference = setup.reference if setup.reference in nodes else elements[0].first
    parts = [(k, names.parts.index(e.name)) for k, e in enumerate(elements) if e.kind.ohmic or e.rated]
    driving = {e.name: k for k, e in enumerate(elements) if e.kind.is_source and e.name not in setup.sources_off}
    is_live = not any(t.measurand is RESISTANCE for t in asked)
    sources = [(k, names.sources.index(name)) for name, k in driving.items() if is_live]
    yield FaultNetwork(place, Variants(elements, reference, asked), np.array(known), _columns(parts), _columns(sources))


def _columns(pairs: Sequence[tuple[int, int]]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    first, second = np.array(pairs, int).reshape(-1, 2).T
    return first, second
