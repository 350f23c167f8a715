"""Changing a drawn circuit by its structure. Every edit gives a new sheet whose setups can be solved, or is refused.

Sheets never change; an edit returns another one. What it asks for follows: readings of
what is gone go, those of what is new come, and what was left out by hand stays out.
"""

from collections.abc import Collection, Mapping
from dataclasses import replace

from recensor.core import graph
from recensor.core.circuit import (
    MOST_PARTS,
    Kind,
    Leads,
    Part,
    Setup,
    Sheet,
    Sweep,
    asking_everything,
    first_free,
    free_nodes,
    has_place,
    marking,
    potentiometer,
    usual_readings,
)
from recensor.core.errors import Refused
from recensor.core.quantity import Quantity
from recensor.core.sentences import say
from recensor.core.solving import operate, stated

# What an experiment may hold: its pages draw and judge every setup.
MOST_CONNECTED, MOST_ASKED = 600, 600


class EditError(Refused):
    """The edit is refused, and nothing is changed. `parts` and `nodes` name what is concerned.

    `attempt` is the circuit that cannot be, with its setup, where one was made.
    """

    def __init__(
        self,
        message: str,
        parts: tuple[str, ...] = (),
        nodes: tuple[str, ...] = (),
        attempt: tuple[Sheet, Setup] | None = None,
    ) -> None:
        super().__init__(message, parts, nodes)
        self.attempt = attempt


def insert_in_series(sheet: Sheet, setup: str, at: str, part: Part, *, before: bool = False) -> Sheet:
    """Put a part between `at` and the node behind it, or before it."""
    first, second = _leads(sheet, setup, at)
    between = next(free_nodes(setup_named(sheet, setup).nodes))
    old, new = ((between, second), (first, between)) if before else ((first, between), (between, second))
    return _changed(sheet, setup, {at: old}, part, new, beside=at)


def add_in_parallel(sheet: Sheet, setup: str, beside: str, part: Part) -> Sheet:
    """Put a part across the two nodes of another."""
    return _changed(sheet, setup, {}, part, _leads(sheet, setup, beside), beside=beside)


def bridge(sheet: Sheet, setup: str, first: str, second: str, part: Part) -> Sheet:
    """Put a part, or a source with its + at `first`, across two nodes."""
    nodes = setup_named(sheet, setup).nodes
    for node in (first, second):
        if node not in nodes:
            raise EditError(say("editing.no_node", node=node), nodes=(node,))
    if first == second:
        raise EditError(say("editing.choose_two_different_nodes"), nodes=(first,))
    return _changed(sheet, setup, {}, part, (first, second))


def put_in(sheet: Sheet, setup: str, part: Part, leads: Leads) -> Sheet:
    """Put a part of the sheet, or a new one, into a setup where its place is open."""
    old = setup_named(sheet, setup)
    if part.name in old.connections:
        raise EditError(say("editing.is_in_setup_already", part=part.name), (part.name,))
    setups = {**sheet.setups, setup: replace(old, connections={**old.connections, part.name: leads})}
    return _settled(sheet, replace(sheet, parts={**sheet.parts, part.name: part}, setups=setups))


def replaced(sheet: Sheet, name: str, part: Part) -> Sheet:
    """Another part in the place of one, in every setup; also how a value, tolerance or rating is changed."""
    _known(sheet, name)
    if part.name != name and part.name in sheet.parts:
        raise EditError(say("editing.part_named_already", part=part.name), (part.name,))
    parts = {part.name if key == name else key: part if key == name else kept for key, kept in sheet.parts.items()}
    setups = {
        key: replace(
            setup,
            connections={part.name if k == name else k: leads for k, leads in setup.connections.items()},
            sources_off=frozenset(part.name if k == name else k for k in setup.sources_off if part.kind.is_source),
            values={
                part.name if k == name else k: value
                for k, value in setup.values.items()
                if k != name or part.kind is sheet.parts[name].kind
            },
            open=frozenset(part.name if k == name else k for k in setup.open if part.kind.can_open or k != name),
        )
        for key, setup in sheet.setups.items()
    }
    sweeps = {key: _renamed(sweep, name, part.name) for key, sweep in sheet.sweeps.items()}
    whole = _halves_renamed(sheet, name, part.name)
    groups = tuple(tuple(part.name if one == name else one for one in group) for group in sheet.groups)
    changed = replace(sheet, parts=parts, setups=setups, sweeps=sweeps, potentiometers=whole, groups=groups)
    return _settled(sheet, changed)


def _renamed(sweep: Sweep, old: str, new: str) -> Sweep:
    """A sweep that names a part by its new name; it bears its own as before."""

    def now(name: str | None) -> str | None:
        return new if name == old else name

    return replace(
        sweep,
        source=now(sweep.source) or sweep.source,
        volts=replace(sweep.volts, at=now(sweep.volts.at)),
        amps=replace(sweep.amps, part=now(sweep.amps.part) or sweep.amps.part, at=now(sweep.amps.at)),
    )


def _halves_renamed(sheet: Sheet, old: str, new: str) -> dict[str, tuple[str, str]]:
    return {
        name: (new if first == old else first, new if second == old else second)
        for name, (first, second) in sheet.potentiometers.items()
    }


def remove(sheet: Sheet, setup: str, name: str) -> Sheet:
    """Take a part out of one setup. Where it alone joined two ends a wire joins them, else its place stays open."""
    first, second = _leads(sheet, setup, name)
    rest = [leads for key, leads in sheet.setups[setup].connections.items() if key != name]
    held_alone = any(sum(node in leads for leads in rest) < 2 for node in (first, second))
    return (short if held_alone else leave_open)(sheet, setup, name)


def leave_open(sheet: Sheet, setup: str, name: str) -> Sheet:
    """Take a part out of one setup and leave its place open."""
    _leads(sheet, setup, name)
    return _without(sheet, setup, name, {})


def leave_all_open(sheet: Sheet, setup: str, names: Collection[str]) -> Sheet:
    """Take several parts out of one setup at once, and leave their places open."""
    old = setup_named(sheet, setup)
    rest = {name: leads for name, leads in old.connections.items() if name not in names}
    if not rest:
        raise EditError(say("editing.last_part_change_instead"), tuple(names))
    return _settled(sheet, _used_parts(sheet, replace(sheet, setups={**sheet.setups, setup: _with(old, rest)})))


def short(sheet: Sheet, setup: str, name: str) -> Sheet:
    """Put a wire in the place of a part in one setup: its two nodes become one."""
    # Of two names the reference's stays, else the one that was given earlier.
    reference = setup_named(sheet, setup).reference
    text, gone = sorted(_leads(sheet, setup, name), key=lambda node: (node != reference, len(node), node))
    return _without(sheet, setup, name, {gone: text})


def _without(sheet: Sheet, setup: str, name: str, renamed: Mapping[str, str]) -> Sheet:
    """A setup without one part and with some nodes renamed; a part that no setup has any longer is dropped."""
    old = sheet.setups[setup]
    rest = {
        key: (renamed.get(first, first), renamed.get(second, second))
        for key, (first, second) in old.connections.items()
        if key != name
    }
    if not rest:
        raise EditError(say("editing.last_part_change_instead"), (name,))
    folded = [key for key, (first, second) in rest.items() if first == second]
    if folded:
        raise EditError(say("editing.without_would_shorted", name=name, folded=" and ".join(folded)), (name, *folded))
    return _settled(sheet, _used_parts(sheet, replace(sheet, setups={**sheet.setups, setup: _with(old, rest)})))


def substitute(sheet: Sheet, setup: str, name: str, part: Part) -> Sheet:
    """Another part in the place of one, in this setup only."""
    leads = _leads(sheet, setup, name)
    if part.name in sheet.parts:
        raise EditError(say("editing.part_named_already", part=part.name), (part.name,))
    old = sheet.setups[setup]
    connections = {part.name if key == name else key: pair for key, pair in old.connections.items()}
    changed = _with(replace(old, connections={name: leads}), connections)
    return _settled(
        sheet,
        _used_parts(
            sheet, replace(sheet, parts={**sheet.parts, part.name: part}, setups={**sheet.setups, setup: changed})
        ),
    )


def _used_parts(before: Sheet, after: Sheet) -> Sheet:
    """The sheet without the parts that no setup has any longer; what was in hand before stays so."""
    gone = _connected(before) - _connected(after)
    return replace(after, parts={key: part for key, part in after.parts.items() if key not in gone})


def _connected(sheet: Sheet) -> set[str]:
    return {name for setup in sheet.setups.values() for name in setup.connections}


def add_setup(sheet: Sheet, name: str, like: str) -> Sheet:
    """Another state of the circuit, at first like one that is there."""
    if not name or len(name) > 40 or not name.isprintable() or name != name.strip():
        raise EditError(say("editing.give_setup_name_at"))
    if name in sheet.setups:
        raise EditError(say("editing.setup_named_already", name=name))
    return _settled(sheet, replace(sheet, setups={**sheet.setups, name: replace(setup_named(sheet, like), name=name)}))


def remove_setup(sheet: Sheet, name: str) -> Sheet:
    """Drop a setup, and the parts that only it had."""
    setup_named(sheet, name)
    setups = {key: setup for key, setup in sheet.setups.items() if key != name}
    if not setups:
        raise EditError(say("editing.last_setup_stays"))
    return _settled(sheet, _used_parts(sheet, replace(sheet, setups=setups)))


def turn_source(sheet: Sheet, setup: str, name: str, *, off: bool) -> Sheet:
    """Switch a source off in one setup (a wire in place of a voltage source, nothing for a current source), or on."""
    _leads(sheet, setup, name)
    if not sheet.parts[name].kind.is_source:
        raise EditError(say("editing.no_source", name=name), (name,))
    old = sheet.setups[setup]
    sources_off = old.sources_off | {name} if off else old.sources_off - {name}
    return _settled(sheet, replace(sheet, setups={**sheet.setups, setup: replace(old, sources_off=sources_off)}))


def set_value(sheet: Sheet, setup: str, name: str, value: Quantity | None) -> Sheet:
    """Set a part to another value in one setup; None takes its own value again.

    Of a potentiometer both parts are set: what one is not, the other is. Raises `QuantityError` for no place of it.
    """
    _leads(sheet, setup, name)
    old = sheet.setups[setup]
    new = _both_parts(sheet, name, value) or ({name: value} if value else {})
    values = {key: quantity for key, quantity in old.values.items() if key != name} | new
    return _settled(sheet, replace(sheet, setups={**sheet.setups, setup: replace(old, values=values)}))


def _both_parts(sheet: Sheet, half: str, value: Quantity | None) -> dict[str, Quantity]:
    """What both parts of a potentiometer are set to where one of them is; nothing for any other part."""
    whole = sheet.parts[half].nominal
    name = next((name for name, pair in sheet.potentiometers.items() if half in pair), None)
    if name is None or value is None or whole is None:
        return {}
    upper, lower = sheet.potentiometers[name]
    rest, stated = potentiometer.settings(name, value, whole).values()  # as if it were the lower
    return {upper: rest, lower: stated} if half == lower else {upper: stated, lower: rest}


def warm(sheet: Sheet, setup: str, temperature: Quantity | None) -> Sheet:
    """Say how warm the parts are in one setup, in °C; None for the 25 °C that their values are stated for."""
    old = setup_named(sheet, setup)
    return _settled(sheet, replace(sheet, setups={**sheet.setups, setup: replace(old, temperature=temperature)}))


def turn_switch(sheet: Sheet, setup: str, name: str, *, is_open: bool) -> Sheet:
    """Open a switch in one setup, or close it."""
    _leads(sheet, setup, name)
    if not sheet.parts[name].kind.can_open:
        raise EditError(say("editing.no_switch", name=name), (name,))
    old = sheet.setups[setup]
    opened = old.open | {name} if is_open else old.open - {name}
    return _settled(sheet, replace(sheet, setups={**sheet.setups, setup: replace(old, open=opened)}))


def redrawn(sheet: Sheet, setup: str, drawn: Sheet) -> Sheet:
    """Another circuit in the place of a setup's. Beside other setups, a part they share must stay what it is."""
    (fresh,) = drawn.setups.values()
    name = setup_named(sheet, setup).name
    if len(sheet.setups) == 1:
        setups = {name: replace(fresh, name=name)}
        return _settled(sheet, replace(sheet, parts=drawn.parts, setups=setups, potentiometers=drawn.potentiometers))
    for name, part in drawn.parts.items():
        if name in sheet.parts and _stated(part) != _stated(sheet.parts[name]):
            raise EditError(say("editing.another_part_in_other", name=name), (name,))
    old = _with(setup_named(sheet, setup), fresh.connections)
    parts = {**drawn.parts, **sheet.parts}
    said = replace(old, reference=fresh.reference, values={**old.values, **fresh.values}, open=fresh.open,
                   temperature=fresh.temperature)  # fmt: skip
    setups = {**sheet.setups, setup: said}
    whole = {**sheet.potentiometers, **drawn.potentiometers}
    return _settled(sheet, _used_parts(sheet, replace(sheet, parts=parts, setups=setups, potentiometers=whole)))


def _stated(part: Part) -> tuple[Kind, str]:
    return part.kind, part.nominal.text if part.nominal else ""


def free_name(sheet: Sheet, kind: Kind) -> str:
    """The next free name for a part of this kind, such as R4."""
    return first_free(kind.letter, sheet.parts)


def try_circuit(sheet: Sheet, setup: Setup) -> None:
    """Raise `EditError` when a setup cannot be solved, or is not one joined circuit."""
    problem = operate(sheet, setup, stated(sheet, setup).filled()).problem
    if problem:
        raise EditError(f"{problem.message[:1].upper()}{problem.message[1:]}.", problem.parts, problem.nodes,
                        (sheet, setup))  # fmt: skip
    joined = graph.reached(setup.reference, setup.connections)  # an open switch joins as far as a drawing goes
    apart = tuple(node for node in setup.nodes if node not in joined)
    if apart:
        text = say("editing.nothing_joins_reference", apart=", ".join(apart), reference=setup.reference)
        raise EditError(text, nodes=apart, attempt=(sheet, setup))


def _changed(
    sheet: Sheet, setup: str, moved: Mapping[str, Leads], part: Part, leads: Leads, beside: str | None = None
) -> Sheet:
    """The sheet with some parts' leads moved and a new part, listed behind `beside`."""
    if part.name in sheet.parts:
        raise EditError(say("editing.part_named_already", part=part.name), (part.name,))
    if len(sheet.parts) >= MOST_PARTS:
        raise EditError(say("editing.circuit_at_most_parts", most_parts=MOST_PARTS))
    old = sheet.setups[setup]
    connections = {**old.connections, **moved}
    order = list(connections)
    order.insert(order.index(beside) + 1 if beside else len(order), part.name)
    connections = {name: leads if name == part.name else connections[name] for name in order}
    setups = {**sheet.setups, setup: replace(old, connections=connections)}
    return _settled(sheet, replace(sheet, parts={**sheet.parts, part.name: part}, setups=setups))


def _with(setup: Setup, connections: Mapping[str, Leads]) -> Setup:
    """A setup with fewer parts, and nothing said of those that went."""
    return replace(
        setup,
        connections=connections,
        sources_off=setup.sources_off & set(connections),
        values={name: value for name, value in setup.values.items() if name in connections},
        open=setup.open & set(connections),
    )


def _settled(before: Sheet, after: Sheet) -> Sheet:
    """Try every setup that changed, and bring what is asked for up to date."""
    for name, setup in after.setups.items():
        if before.setups.get(name) != setup or before.parts != after.parts:
            try_circuit(after, setup)
    after = _still_said(after)
    was, now = usual_readings(before), usual_readings(after)
    wanted, known = {target.key for target in before.asked}, {target.key for target in was}
    targets = [target for target in now if target.key in wanted or target.key not in known]
    there = {target.key for target in now}
    targets += [t for t in after.asked if t.key not in known | there and has_place(t, after)]
    return replace(after, asked=tuple(targets))


def _still_said(sheet: Sheet) -> Sheet:
    """The sheet without the sweeps and comparisons of what is gone."""
    sweeps = {name: sweep for name, sweep in sheet.sweeps.items() if _has(sheet, sweep)}
    compare = tuple(
        comparison for comparison in sheet.compare if all(name in sheet.setups for name in comparison.setups)
    )
    whole = {name: halves for name, halves in sheet.potentiometers.items() if set(halves) <= set(sheet.parts)}
    groups = _still_groups(sheet)
    if (sweeps, compare, whole, groups) == (sheet.sweeps, sheet.compare, sheet.potentiometers, sheet.groups):
        return sheet
    return replace(sheet, sweeps=sweeps, compare=compare, potentiometers=whole, groups=groups)


def _still_groups(sheet: Sheet) -> tuple[tuple[str, ...], ...]:
    """The groups, without parts that are gone or marked otherwise by now."""
    kept = []
    for group in sheet.groups:
        there = [name for name in group if name in sheet.parts]
        markings = [marking(sheet.parts[name]) for name in there]
        usual = max(markings, key=markings.count, default=None)
        kept.append(tuple(name for name, own in zip(there, markings, strict=True) if own == usual))
    return tuple(group for group in kept if len(group) > 1)


def _has(sheet: Sheet, sweep: Sweep) -> bool:
    setup = sheet.setups.get(sweep.setup)
    if setup is None or sweep.source not in setup.driving(sheet.parts) or sweep.amps.part not in setup.connections:
        return False
    return set(sweep.volts.nodes) <= set(setup.nodes)


def accepted(sheet: Sheet) -> Sheet:
    """A circuit from elsewhere, every setup tried, asking for all usual readings where it asks for none."""
    if not sheet.setups:
        raise EditError(say("editing.no_circuit_in_experiment"))
    if len(sheet.parts) > MOST_PARTS:
        raise EditError(say("editing.circuit_at_most_parts_here", most_parts=MOST_PARTS, parts=len(sheet.parts)))
    connected = sum(len(setup.connections) for setup in sheet.setups.values())
    if connected > MOST_CONNECTED:
        raise EditError(say("editing.all_setups_together_connect", connected=connected, most_connected=MOST_CONNECTED))
    if len(sheet.asked) > MOST_ASKED:
        raise EditError(say("editing.readings_asked_experiment_asks", asked=len(sheet.asked), most_asked=MOST_ASKED))
    for setup in sheet.setups.values():
        for name, (first, second) in setup.connections.items():
            if first == second:
                raise EditError(say("editing.shorted_own_leads_both", name=name, first=first), (name,))
        if setup.reference not in setup.nodes:
            raise EditError(say("editing.reference_node_at_no", reference=setup.reference), nodes=(setup.reference,))
        try_circuit(sheet, setup)
    return sheet if sheet.asked else asking_everything(sheet)


def setup_named(sheet: Sheet, name: str) -> Setup:
    """A setup of the sheet. Raises `EditError` when it has none of that name."""
    if name not in sheet.setups:
        raise EditError(say("editing.no_setup", name=name))
    return sheet.setups[name]


def _known(sheet: Sheet, name: str) -> None:
    if name not in sheet.parts:
        raise EditError(say("editing.no_part", name=name), (name,))


def _leads(sheet: Sheet, setup: str, name: str) -> Leads:
    connections = setup_named(sheet, setup).connections
    if name not in connections:
        raise EditError(say("editing.no_part_in_setup", name=name), (name,))
    return connections[name]
