"""Benches on which one thing goes wrong, of every kind: what the trial of the search for causes is made of."""

from dataclasses import dataclass, replace

import numpy as np

from recensor.core.circuit import (
    VOLTAGE_SOURCE,
    PartAlone,
    Sheet,
    Target,
    TouchedLeads,
    all_readings,
    asking_everything,
)
from recensor.core.faults import FaultKind
from recensor.core.meters import SHIPPED
from recensor.core.quantity import parse
from recensor.core.record import Run
from recensor.core.simulation import draw_sheet, draw_values
from recensor.core.solving import NetworkError
from tests.injected_faults.kinds import INJECTED, InjectedFault, NoRoomForFaultError
from tests.injected_faults.world import Setting, World

_METERS = ("3½-digit manual", "4000-count automatic", "4½-digit bench")


@dataclass(frozen=True)
class Case:
    """A run on which one thing went wrong, the same without chance errors, and what it was: kind and targets."""

    run: Run
    exact: Run
    kind: FaultKind | None
    targets: tuple[str, ...]


def draw_world(draw: np.random.Generator, *, parts_read: bool, several: bool) -> tuple[World, list[Target]]:
    """A bench, and what is read at it in order."""
    sheet = draw_sheet(draw, least=3, most=8, tolerance=str(draw.choice(["5%", "5%", "1%"])))
    if several:
        sheet = _with_second_setup(sheet, draw)
    true = draw_values(sheet, draw)
    profile = SHIPPED[str(draw.choice(_METERS))]
    circuits = {}
    for setup in sheet.setups.values():
        values = dict(true)
        for name, value in setup.values.items():
            values[name] = float(value) * true[name] / float(sheet.parts[name].nominal or 1)
        for name in setup.driving(sheet.parts):
            values[name] *= 1.0 + float(draw.normal(0.0, 4e-3))
        circuits[setup.name] = Setting(values, dict(setup.connections))
    world = World(sheet, true, circuits, profile, draw, is_named=bool(draw.random() < 0.7))
    targets: list[Target] = [t for t in all_readings(sheet) if not isinstance(t, TouchedLeads)]
    if not parts_read:
        targets = [t for t in targets if not isinstance(t, PartAlone) or sheet.parts[t.part].kind.is_source]
    return world, targets


def _with_second_setup(sheet: Sheet, draw: np.random.Generator) -> Sheet:
    """The same circuit once more, its source set to another value."""
    first = sheet.setup()
    source = next(name for name, part in sheet.parts.items() if part.kind is VOLTAGE_SOURCE)
    value = float(sheet.parts[source].nominal or 1) * float(draw.choice([0.5, 2.0]))
    second = replace(first, name="second", values={source: parse(f"{value:g}", "V")})
    return asking_everything(replace(sheet, setups={**sheet.setups, "second": second}))


def draw_case(
    kind: FaultKind | None,
    draw: np.random.Generator,
    *,
    parts_read: bool = True,
    several: bool = False,
    left_out: float = 0.0,
) -> Case:
    """A case of a kind; None for a bench on which nothing goes wrong."""
    for _ in range(200):
        world, targets = draw_world(draw, parts_read=parts_read, several=several)
        if left_out:
            kept = [t for t in targets if draw.random() >= left_out]
            targets = kept if len(kept) >= 4 else targets
        fault = InjectedFault(world, list(targets), draw)
        try:
            concerned = INJECTED[kind](fault) if kind else ()
            run = fault.finished(world.run(fault.targets))
            world.errors = False
            exact = fault.finished(world.run(fault.targets))
        except (NoRoomForFaultError, NetworkError):
            continue
        return Case(run, exact, kind, concerned)
    raise NoRoomForFaultError(f"no bench was found for {kind}")


@dataclass(frozen=True)
class Pair:
    """A run on which two things went wrong, the same without chance errors, and the kind and the targets of each."""

    run: Run
    exact: Run
    faults: tuple[tuple[FaultKind, tuple[str, ...]], ...]


def draw_pair(first: FaultKind, second: FaultKind, draw: np.random.Generator, *, parts_read: bool) -> Pair:
    """Two of these kinds at one bench."""
    for _ in range(200):
        world, targets = draw_world(draw, parts_read=parts_read, several=False)
        one = InjectedFault(world, list(targets), draw)
        try:
            concerned = INJECTED[first](one)
            other = InjectedFault(world, one.targets, draw)
            faults = ((first, concerned), (second, INJECTED[second](other)))
            if set(faults[0][1]) & set(faults[1][1]):
                continue
            run = other.finished(one.finished(world.run(other.targets)))
            world.errors = False
            exact = other.finished(one.finished(world.run(other.targets)))
        except (NoRoomForFaultError, NetworkError):
            continue
        return Pair(run, exact, faults)
    raise NoRoomForFaultError(f"no bench was found for {first} and {second}")
