"""In which order points are read: one order for all runs, or the one that a person prefers.

Power is off for parts and totals and on for the rest; nothing that is left out is forgotten before it is switched.
"""

from collections.abc import Mapping, Sequence
from enum import StrEnum
from typing import NamedTuple

from recensor.core.circuit import Sheet, Target, loops
from recensor.core.plan.route import NOWHERE, shortest
from recensor.core.plan.stage import Stage, stage_of
from recensor.core.plan.steps import Bench


class Order(StrEnum):
    """The orders that people read in."""

    VOLTS_FIRST = "volts first"
    AMPS_FIRST = "amps first"
    TOTAL_FIRST = "total first"
    BY_BRANCH = "branch by branch"


_STAGES: Mapping[Order, tuple[Stage, ...]] = {
    Order.VOLTS_FIRST: (Stage.PARTS, Stage.BUILD, Stage.SOURCE, Stage.VOLTS, Stage.AMPS),
    Order.AMPS_FIRST: (Stage.PARTS, Stage.BUILD, Stage.SOURCE, Stage.AMPS, Stage.VOLTS),
    Order.TOTAL_FIRST: (Stage.BUILD, Stage.PARTS, Stage.SOURCE, Stage.VOLTS, Stage.AMPS),
    Order.BY_BRANCH: (Stage.PARTS, Stage.BUILD, Stage.SOURCE, Stage.VOLTS, Stage.AMPS),
}


def in_order(
    points: Sequence[Target], sheet: Sheet, order: Order = Order.VOLTS_FIRST, bench: Bench | None = None
) -> list[int]:
    """The points' numbers in the order in which they are read: those of one stage with few moves of the probes.

    A circuit with several setups is read one after the other; parts and sources by themselves come before all. With a
    `bench` moves of the dial count too, and the first current is one that is known, since it proves the meter.
    """
    stages = {stage: k for k, stage in enumerate(_STAGES[order])}
    setups = {name: k for k, name in enumerate(sheet.setups)}
    branches = _branches(sheet) if order is Order.BY_BRANCH else {}

    def place(k: int) -> tuple[int, ...]:
        target = points[k]
        here = stage_of(target, sheet)
        if here is Stage.LINE:  # behind all else of its setup
            return 1 + setups.get(target.setup or "", 0), 2, -1, 0, 0
        alone = not target.in_circuit and target.setup is None
        later = 0 if alone and here is Stage.PARTS else 1 + setups.get(target.setup or "", 0)
        if order is Order.TOTAL_FIRST and here is Stage.BUILD:
            later = 0
        powered = 1 if here.power == "ON" else 0
        branch = branches.get(_name(target, sheet), 0) if powered and here is not Stage.SOURCE else -1
        under_load = 0 if here is Stage.VOLTS and _reads_source(target, sheet) else 1
        return later, powered, branch, 2 * stages[here] + under_load, setups.get(target.setup or "", 0)

    groups: dict[tuple[int, ...], list[int]] = {}
    for k in range(len(points)):
        groups.setdefault(place(k), []).append(k)
    bench = bench or Bench(sheet)
    found: list[int] = []
    at, is_proved = NOWHERE, False
    for _, group in sorted(groups.items()):
        if points[group[0]].step is not None:  # row after row: both meters stay where they are
            found += sorted(group, key=lambda k: points[k].step or 0)
            at = bench.stop(points[found[-1]])
            continue
        stops = tuple(bench.stop(points[k]) for k in group)
        way: Sequence[int] = shortest(stops, at)
        if not is_proved and points[group[0]].is_through:
            known = next((k for k in way if bench.expected(points[group[k]])), way[0])
            way, is_proved = [known, *(k for k in way if k != known)], True
        found += [group[k] for k in way]
        at = stops[way[-1]]
    return found


class ReadAt(NamedTuple):
    """How the bench stands while a point is read: from one setup and power to another something is switched or rebuilt.

    `probes` are across two nodes, in a gap of the circuit, at a part by itself, or where a row of a table needs them.
    """

    setup: str
    power: str
    probes: str

    def is_as(self, other: "ReadAt") -> bool:
        """Whether nothing is switched or rebuilt from one to the other."""
        return self[:2] == other[:2]


def read_at(target: Target, sheet: Sheet) -> ReadAt:
    """How the bench stands where a target is read; a source before connecting on the way into the first setup."""
    power = stage_of(target, sheet).power
    setup = target.setup or (next(iter(sheet.setups), "") if power == "ON" else "")
    if target.step is not None:
        return ReadAt(setup, power, "row")
    return ReadAt(setup, power, "alone" if target.is_part_alone else "gap" if target.is_through else "across")


def followed(order: Sequence[int], unread: Sequence[int], after: int | None, stages: Sequence[ReadAt]) -> list[int]:
    """The points that are still to be read, one after the other as they are asked for, on from `after`."""
    left, found = dict.fromkeys(unread), []
    while left:
        after = next_in(order, list(left), after, stages)
        if after is None:
            break
        found.append(after)
        del left[after]
    return found


def next_in(order: Sequence[int], unread: Sequence[int], after: int | None, stages: Sequence[ReadAt]) -> int | None:
    """The point to read next: on from `after`, then what was left out before anything is switched, then the rest.

    Before the probes go into a gap, or out of it, what was left out as they are is read.

    Parameters
    ----------
    order : the points' numbers in the order of reading.
    unread : those that are still to be read.
    after : the point that was read last, None at the beginning.
    stages : of each point how the bench stands there.
    """
    left = set(unread)
    ahead = [k for k in order if k in left]
    if after is None or not ahead:
        return ahead[0] if ahead else None
    rank = {k: place for place, k in enumerate(order)}
    here = [k for k in ahead if stages[k].is_as(stages[after])]
    onward = [k for k in here if rank[k] > rank[after]]
    if not onward or stages[onward[0]].probes != stages[after].probes:
        left_out = [k for k in here if rank[k] < rank[after] and stages[k].probes == stages[after].probes]
        onward = left_out or onward
    return (onward or here or ahead)[0]


def _reads_source(target: Target, sheet: Sheet) -> bool:
    setup = sheet.setups.get(target.setup or "")
    nodes = getattr(target, "nodes", None)
    if setup is None or nodes is None:
        return False
    return any(sheet.parts[name].kind.is_source for name in setup.across(*nodes))


def _name(target: Target, sheet: Sheet) -> tuple[str, str]:
    """The setup and a part that a target is about, by which its branch is found."""
    setup = target.setup or ""
    if target.is_through:
        return setup, target.part
    nodes = getattr(target, "nodes", None)
    if nodes is None or setup not in sheet.setups:
        return setup, ""
    across = sheet.setups[setup].across(*nodes)
    passive = [name for name in across if not sheet.parts[name].kind.is_source]
    return setup, next(iter([*passive, *across]), "")


def _branches(sheet: Sheet) -> dict[tuple[str, str], int]:
    found = {}
    for name, setup in sheet.setups.items():
        for k, branch in enumerate(loops.branches(setup.connections)):
            for passage in branch.passages:
                found[name, passage.part] = k
    return found
