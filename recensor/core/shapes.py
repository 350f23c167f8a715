"""Starting shapes: a circuit and the readings it asks for, from a list of resistors.

Every shape asks in the order of the work: each part by itself, the finished circuit's total, the
source before connecting, voltages with the source read again under load, and one current for each branch.
"""

from collections.abc import Sequence
from dataclasses import replace
from enum import StrEnum
from itertools import pairwise

from recensor.core import loops
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.record import CURRENT, LEADS, RESISTANCE, VOLTAGE, Run, Target

REFERENCE = "gnd"
SETUP = "main"
FEWEST, MOST = 3, 8

# Below this resistance in ohms the meter's own leads count (common practice, no source).
LEADS_MATTER_BELOW = 50.0


class Shape(StrEnum):
    """The shapes that a new run can start from."""

    CHAIN = "series chain"
    BANK = "parallel bank"
    CHAIN_WITH_GROUP = "chain with one parallel group"


class ShapeError(ValueError):
    """These parts do not make that shape; the message says why."""


def build(
    shape: Shape, title: str, source: Part, resistors: Sequence[Part], group: tuple[int, int] | None = None
) -> Run:
    """A run without readings.

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
    run = Run(title, {part.name: part for part in (source, *resistors)}, {SETUP: setup})
    return replace(run, asked=tuple(asked(run, setup)))


def asked(run: Run, setup: Setup) -> list[Target]:
    """The readings that one setup asks for, each target once, in the order of the work.

    A source that is off is not read; with every source off nothing is, but for the parts by themselves.
    """
    resistors = [name for name in setup.connections if run.parts[name].kind is Kind.RESISTOR]
    sources = [name for name in setup.connections if run.parts[name].kind.is_source and name not in setup.sources_off]
    lowest = min(
        (float(run.parts[name].nominal or LEADS_MATTER_BELOW) for name in resistors), default=LEADS_MATTER_BELOW
    )
    targets = [Target(RESISTANCE, of=LEADS)] if lowest < LEADS_MATTER_BELOW else []
    targets += [Target(RESISTANCE, of=name) for name in resistors]
    targets += [Target(RESISTANCE, across=setup.connections[name], setup=setup.name) for name in sources]
    for name in sources:
        own = setup.name if name in setup.values else None
        targets.append(Target(_source_quantity(run.parts[name]), of=name, setup=own))
    if not sources:
        return targets
    for name in (*resistors, *sources):
        targets.append(Target(VOLTAGE, across=setup.connections[name], setup=setup.name))
    order = list(setup.connections)
    for branch in loops.branches(setup.connections):
        first = min((step.part for step in branch.steps), key=order.index)
        targets.append(Target(CURRENT, through=first, setup=setup.name))
    return list({target.key: target for target in targets}.values())


def _source_quantity(source: Part) -> str:
    return VOLTAGE if source.kind is Kind.VOLTAGE_SOURCE else CURRENT
