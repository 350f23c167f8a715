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
    Through,
    Wish,
    free_nodes,
    loaded_target,
    voltage_of,
    wished,
)
from recensor.core.editing import edits
from recensor.core.editing.edits import EditError, try_circuit
from recensor.core.editing.setup_changes import free_setup_name
from recensor.core.quantity import RESISTANCE, VOLTAGE
from recensor.core.sentences import say

# What a run may hold at most: its pages list every circuit.
MOST_CIRCUITS = 60


def with_circuit(sheet: Sheet, base: str, line: PartsLine, wishes: frozenset[Wish]) -> tuple[Sheet, str]:
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
    sheet: Sheet, base: str, name: str, edit: Callable[[Sheet, str], Sheet], wishes: frozenset[Wish]
) -> tuple[Sheet, str]:
    """The sheet with another circuit, like `base` but for `edit` of it; and its name. Raises `EditError`.

    A circuit that is there already is asked for again.
    """
    if len(sheet.setups) >= MOST_CIRCUITS:
        raise EditError(say("editing.circuits_at_most", most=MOST_CIRCUITS))
    name = free_setup_name(sheet, name)
    changed = edit(edits.add_setup(sheet, name, base), name)
    made = changed.setups[name]
    same = next((other for other in sheet.setups.values() if _shape(other) == _shape(made)), None)
    if same is not None:
        return asking_also(sheet, _asked_of_change(sheet, sheet.setup(base), same, wishes)), same.name
    asked = tuple(target for target in changed.asked if target.setup != name)
    targets = _asked_of_change(changed, sheet.setup(base), made, wishes)
    return asking_also(replace(changed, asked=asked), targets), name


def _asked_of_change(sheet: Sheet, base: Setup, setup: Setup, wishes: frozenset[Wish]) -> list[Target]:
    """What is read where a circuit was changed on purpose.

    Where only its sources are set otherwise what they give, and the same as before. Across a place that was left open
    the volts, or the ohms where nothing drives it; of what was put in its own volts and amps, as they are wished; else
    what is wished of the whole.
    """
    if _is_at_another_setting(base, setup, sheet):
        same = [target.in_setup(setup.name, sheet) for target in _asked_in(base, sheet)]
        return [*(loaded_target(setup, sheet, name) for name in setup.driving(sheet.parts)), *same]
    left = [leads for part, leads in base.connections.items() if part not in setup.connections]
    opened = [leads for leads in left if set(leads) <= set(setup.nodes) and leads[0] != leads[1]]
    came = [name for name in setup.connections if name not in base.connections]
    if opened and not came:
        measurand = VOLTAGE if setup.driving(sheet.parts) else RESISTANCE
        return [Across(measurand, leads, setup.name) for leads in opened]
    if came and wishes & {Wish.VOLTS, Wish.AMPS}:
        volts = [voltage_of(setup, sheet, name) for name in came if Wish.VOLTS in wishes]
        return [*volts, *(Through(name, setup.name) for name in came if Wish.AMPS in wishes)]
    return wished(sheet, setup, wishes)


def _is_at_another_setting(base: Setup, setup: Setup, sheet: Sheet) -> bool:
    """Whether a circuit is another but for what its sources are set to."""
    sources = {name for name in setup.connections if sheet.parts[name].kind.is_source}
    kept = [{name: value for name, value in one.values.items() if name not in sources} for one in (base, setup)]
    as_base = replace(setup, values=base.values)
    return kept[0] == kept[1] and setup.values != base.values and _shape(as_base) == _shape(base)


def _asked_in(setup: Setup, sheet: Sheet) -> list[Target]:
    """What is asked for in a setup under power, but for the rows of tables: resistances are the same at any setting."""
    asked = (target for target in sheet.asked if target.in_circuit and target.step is None)
    return [target for target in asked if target.setup == setup.name and target.measurand is not RESISTANCE]


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
    """The circuit of a line between the source's two nodes; with no source from a node to ground.

    Its source is on, whatever was off on the board.
    """
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
        values={**kept, **line.settings},
        open=(there.open & set(connections)) | line.open,
        temperature=there.temperature,
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
    free = free_nodes(set(names.values()))
    for leads in line.connections.values():
        for node in leads:
            if node not in names:
                names[node] = next(free)
    return names


def _shape(setup: Setup) -> tuple[object, ...]:
    """What makes a setup the circuit that it is, whatever it is called and whichever way its parts are met."""
    between = {name: frozenset(leads) for name, leads in setup.connections.items()}
    return between, setup.reference, setup.sources_off, setup.values, setup.open, setup.temperature
