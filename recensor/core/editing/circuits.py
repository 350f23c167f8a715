"""Circuits out of parts in hand: each line is a setup of its own, whose parts stay where they can.

A part that stands between the same two points as on the board keeps its nodes there, so that the moves from one circuit
to the next are those that a person would make.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import replace

from recensor.core.circuit import (
    MOST_PARTS,
    Across,
    Leads,
    Part,
    PartAlone,
    PartsLine,
    Setup,
    Sheet,
    Target,
    Wish,
    wished,
)
from recensor.core.editing import edits
from recensor.core.editing.edits import EditError, try_circuit
from recensor.core.editing.setup_changes import free_setup_name
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.sentences import say

# What a run may hold at most: its pages list every circuit.
MOST_CIRCUITS = 60


def with_circuit(sheet: Sheet, base: str, line: PartsLine, wishes: Collection[Wish]) -> tuple[Sheet, str]:
    """The sheet with the circuit of a line, asked for what is wished of it; and the name of its setup.

    `base` is the setup on the board: its source drives the circuit where the line names none. A circuit that is there
    already is asked for again; one part by itself, where nothing drives it, is that part's own reading and no circuit.
    Raises `EditError`.
    """
    there = sheet.setup(base)
    known = replace(
        sheet,
        parts={**sheet.parts, **line.new},
        potentiometers={**sheet.potentiometers, **line.potentiometers},
    )
    if len(known.parts) > MOST_PARTS:
        raise EditError(say("editing.circuit_at_most_parts", most_parts=MOST_PARTS))
    setup = _setup_of(line, known, there)
    if len(setup.connections) == 1:
        alone = [PartAlone(name, known.parts[name].kind.measured_as) for name in setup.connections]
        return asking_also(known, alone), there.name
    for other in known.setups.values():
        if _shape(other) == _shape(setup):
            return asking_also(known, wished(known, other, wishes)), other.name
    if len(known.setups) >= MOST_CIRCUITS:
        raise EditError(say("editing.circuits_at_most", most=MOST_CIRCUITS))
    setup = replace(setup, name=free_setup_name(sheet, line.words))
    try_circuit(known, setup)
    changed = replace(known, setups={**known.setups, setup.name: setup})
    return asking_also(changed, wished(changed, setup, wishes)), setup.name


def with_changes(
    sheet: Sheet, base: str, name: str, edit: Callable[[Sheet, str], Sheet], wishes: Collection[Wish]
) -> tuple[Sheet, str]:
    """The sheet with another circuit, like `base` but for `edit` of it, asked for what is wished of it; and its name.

    Where it has a place that is open, what lies across that is asked for first: volts, or ohms where nothing drives it.
    """
    if len(sheet.setups) >= MOST_CIRCUITS:
        raise EditError(say("editing.circuits_at_most", most=MOST_CIRCUITS))
    name = free_setup_name(sheet, name)
    changed = edit(edits.add_setup(sheet, name, base), name)
    setup, driven = changed.setups[name], changed.setups[name].driving(changed.parts)
    gone = [leads for part, leads in sheet.setup(base).connections.items() if part not in setup.connections]
    across = [
        Across(VOLTAGE if driven else RESISTANCE, leads, name)
        for leads in gone
        if set(leads) <= set(setup.nodes) and leads[0] != leads[1]
    ]
    asked = tuple(target for target in changed.asked if target.setup != name)
    return asking_also(replace(changed, asked=asked), [*across, *wished(changed, setup, wishes)]), name


def with_part(sheet: Sheet, part: Part) -> Sheet:
    """The sheet with one more part in hand, which no setup connects. Raises `EditError`."""
    if len(sheet.parts) >= MOST_PARTS:
        raise EditError(say("editing.circuit_at_most_parts", most_parts=MOST_PARTS))
    return replace(sheet, parts={**sheet.parts, part.name: part})


def asking_also(sheet: Sheet, targets: Collection[Target]) -> Sheet:
    """The sheet that asks for these too; what was left out there is wanted again."""
    asked = {target.key: target for target in (*sheet.asked, *targets)}
    return replace(sheet, asked=tuple(asked.values()), waived=sheet.waived - {target.key for target in targets})


def _setup_of(line: PartsLine, sheet: Sheet, there: Setup) -> Setup:
    """The circuit of a line between the source's two nodes, or, with nothing that drives it, from a node to ground."""
    sources = [name for name in there.connections if sheet.parts[name].kind.is_source]
    if line.source:
        source = line.source.name
    elif len(sources) > 1:
        raise EditError(say("editing.which_source", words=line.words, source=sources[0]), tuple(sources))
    else:
        source = sources[0] if sources else ""
    terminals = there.connections.get(source) or _terminals(there)
    names = _names_of_nodes(line, terminals, there.connections)
    connections = {name: (names[first], names[second]) for name, (first, second) in line.connections.items()}
    if source:
        connections = {source: terminals, **connections}
    kept = {name: value for name, value in there.values.items() if name in connections}
    return Setup(
        "",
        terminals[1],
        connections,
        frozenset({source}) & there.sources_off,
        {**kept, **line.settings},
        (there.open & set(connections)) | line.open,
        there.temperature,
        line=line.words,
    )


def _terminals(setup: Setup) -> Leads:
    """Between what a circuit lies that nothing drives."""
    first = next((node for node in setup.nodes if node != setup.reference), "A")
    return first, setup.reference


def _names_of_nodes(line: PartsLine, terminals: Leads, there: Mapping[str, Leads]) -> Mapping[str, str]:
    """What each node of a line is called: as on the board where a part of it stands there so, else by a free letter."""
    names = {line.top: terminals[0], line.bottom: terminals[1]}
    found = True
    while found:
        found = False
        for part, leads in line.connections.items():
            known = [node for node in leads if node in names]
            if part not in there or len(known) != 1 or names[known[0]] not in there[part]:
                continue
            (new,) = (node for node in leads if node not in names)
            first, second = there[part]
            name = second if names[known[0]] == first else first
            if name not in names.values():
                names[new], found = name, True
    taken = set(names.values())
    free = (letter for k in range(1, 200) if (letter := chr(64 + k) if k <= 26 else f"N{k}") not in taken)
    for leads in line.connections.values():
        for node in leads:
            if node not in names:
                names[node] = next(free)
    return names


def _shape(setup: Setup) -> tuple[object, ...]:
    """What makes a setup the circuit that it is, whatever it is called and whichever way its parts are met."""
    between = {name: frozenset(leads) for name, leads in setup.connections.items()}
    return between, setup.reference, setup.sources_off, setup.values, setup.open, setup.temperature
