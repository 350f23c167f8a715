"""Changing a drawn circuit by its structure. Every edit gives a new run whose setup can be solved, or is refused.

Runs never change; an edit returns another one with nothing read. What it asks for follows: readings of
what is gone go, those of what is new come, and what was left out by hand stays out.
"""

from collections.abc import Mapping
from dataclasses import replace

from recensor.core import network
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.notation import MOST_PARTS
from recensor.core.quantity import Quantity
from recensor.core.record import Run, Target
from recensor.core.shapes import asked

Leads = tuple[str, str]

_LETTERS = {Kind.RESISTOR: "R", Kind.VOLTAGE_SOURCE: "V", Kind.CURRENT_SOURCE: "I"}

# What stands in for the value of an unmarked part when a circuit is tried.
_STAND_IN_OHMS = 1000.0


class EditError(ValueError):
    """The edit is refused, and nothing is changed. `parts` and `nodes` name what is concerned.

    `attempt` is the circuit that cannot be, with its setup, where one was made.
    """

    def __init__(self, message: str, parts: tuple[str, ...] = (), nodes: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.parts = parts
        self.nodes = nodes
        self.attempt: tuple[Run, Setup] | None = None


def insert_in_series(run: Run, setup: str, at: str, part: Part, *, before: bool = False) -> Run:
    """Put a part between `at` and the node behind it, or before it."""
    first, second = _leads(run, setup, at)
    between = _free_node(setup_named(run, setup))
    old, new = ((between, second), (first, between)) if before else ((first, between), (between, second))
    return _changed(run, setup, {at: old}, part, new, beside=at)


def add_in_parallel(run: Run, setup: str, beside: str, part: Part) -> Run:
    """Put a part across the two nodes of another."""
    return _changed(run, setup, {}, part, _leads(run, setup, beside), beside=beside)


def bridge(run: Run, setup: str, first: str, second: str, part: Part) -> Run:
    """Put a part, or a source with its + at `first`, across two nodes."""
    nodes = setup_named(run, setup).nodes
    for node in (first, second):
        if node not in nodes:
            raise EditError(f"There is no node {node}.", nodes=(node,))
    if first == second:
        raise EditError("Choose two different nodes.", nodes=(first,))
    return _changed(run, setup, {}, part, (first, second))


def replaced(run: Run, name: str, part: Part) -> Run:
    """Another part in the place of one, in every setup; also how a value, tolerance or rating is changed."""
    _known(run, name)
    if part.name != name and part.name in run.parts:
        raise EditError(f"There is a part named {part.name} already.", (part.name,))
    parts = {part.name if key == name else key: part if key == name else one for key, one in run.parts.items()}
    setups = {
        key: replace(
            setup,
            connections={part.name if k == name else k: leads for k, leads in setup.connections.items()},
            sources_off=frozenset(part.name if k == name else k for k in setup.sources_off if part.kind.is_source),
            values={k: value for k, value in setup.values.items() if k != name},
        )
        for key, setup in run.setups.items()
    }
    return _settled(run, replace(run, parts=parts, setups=setups))


def remove(run: Run, setup: str, name: str) -> Run:
    """Take a part out of one setup. Where it alone joined two ends a wire joins them, else its place stays open."""
    first, second = _leads(run, setup, name)
    rest = [leads for key, leads in run.setups[setup].connections.items() if key != name]
    held_alone = any(sum(node in leads for leads in rest) < 2 for node in (first, second))
    return (short if held_alone else leave_open)(run, setup, name)


def leave_open(run: Run, setup: str, name: str) -> Run:
    """Take a part out of one setup and leave its place open."""
    _leads(run, setup, name)
    return _without(run, setup, name, {})


def short(run: Run, setup: str, name: str) -> Run:
    """Put a wire in the place of a part in one setup: its two nodes become one."""
    # Of two names the reference's stays, else the one that was given earlier.
    reference = setup_named(run, setup).reference
    kept, gone = sorted(_leads(run, setup, name), key=lambda node: (node != reference, len(node), node))
    return _without(run, setup, name, {gone: kept})


def _without(run: Run, setup: str, name: str, renamed: Mapping[str, str]) -> Run:
    """A setup without one part and with some nodes renamed; a part that no setup has any longer is dropped."""
    old = run.setups[setup]
    rest = {
        key: (renamed.get(first, first), renamed.get(second, second))
        for key, (first, second) in old.connections.items()
        if key != name
    }
    if not rest:
        raise EditError("This is the last part; change it instead.", (name,))
    folded = [key for key, (first, second) in rest.items() if first == second]
    if folded:
        raise EditError(f"Without {name}, {' and '.join(folded)} would be shorted.", (name, *folded))
    return _settled(run, _used_parts(replace(run, setups={**run.setups, setup: _with(old, rest)})))


def substitute(run: Run, setup: str, name: str, part: Part) -> Run:
    """Another part in the place of one, in this setup only."""
    leads = _leads(run, setup, name)
    if part.name in run.parts:
        raise EditError(f"There is a part named {part.name} already.", (part.name,))
    old = run.setups[setup]
    connections = {part.name if key == name else key: pair for key, pair in old.connections.items()}
    changed = _with(replace(old, connections={name: leads}), connections)
    return _settled(
        run, _used_parts(replace(run, parts={**run.parts, part.name: part}, setups={**run.setups, setup: changed}))
    )


def _used_parts(run: Run) -> Run:
    """The run with just the parts that some setup has."""
    used = {key for setup in run.setups.values() for key in setup.connections}
    return replace(run, parts={key: part for key, part in run.parts.items() if key in used})


def add_setup(run: Run, name: str, like: str) -> Run:
    """Another state of the circuit, at first like one that is there."""
    if not name or len(name) > 40 or not name.isprintable() or name != name.strip():
        raise EditError("Give the setup a name of at most 40 printable characters.")
    if name in run.setups:
        raise EditError(f"There is a setup named {name} already.")
    return _settled(run, replace(run, setups={**run.setups, name: replace(setup_named(run, like), name=name)}))


def remove_setup(run: Run, name: str) -> Run:
    """Drop a setup, and the parts that only it had."""
    setup_named(run, name)
    setups = {key: setup for key, setup in run.setups.items() if key != name}
    if not setups:
        raise EditError("The last setup stays.")
    return _settled(run, _used_parts(replace(run, setups=setups)))


def turn_source(run: Run, setup: str, name: str, *, off: bool) -> Run:
    """Switch a source off in one setup (a wire in place of a voltage source, nothing for a current source), or on."""
    _leads(run, setup, name)
    if not run.parts[name].kind.is_source:
        raise EditError(f"{name} is no source.", (name,))
    old = run.setups[setup]
    sources_off = old.sources_off | {name} if off else old.sources_off - {name}
    return _settled(run, replace(run, setups={**run.setups, setup: replace(old, sources_off=sources_off)}))


def set_value(run: Run, setup: str, name: str, value: Quantity | None) -> Run:
    """Set a part to another value in one setup; None takes its own value again."""
    _leads(run, setup, name)
    old = run.setups[setup]
    values = {key: one for key, one in old.values.items() if key != name} | ({name: value} if value else {})
    return _settled(run, replace(run, setups={**run.setups, setup: replace(old, values=values)}))


def redrawn(run: Run, setup: str, drawn: Run) -> Run:
    """Another circuit in the place of a setup's. Beside other setups, a part they share must stay what it is."""
    (fresh,) = drawn.setups.values()
    name = setup_named(run, setup).name
    if len(run.setups) == 1:
        return _settled(run, replace(run, parts=drawn.parts, setups={name: replace(fresh, name=name)}))
    for name, part in drawn.parts.items():
        if name in run.parts and _stated(part) != _stated(run.parts[name]):
            raise EditError(
                f"{name} is another part in the other setups: change it there, or give this one a new name.", (name,)
            )
    old = _with(setup_named(run, setup), fresh.connections)
    parts = {**drawn.parts, **run.parts}
    setups = {**run.setups, setup: replace(old, reference=fresh.reference)}
    return _settled(run, _used_parts(replace(run, parts=parts, setups=setups)))


def _stated(part: Part) -> tuple[Kind, str]:
    return part.kind, part.nominal.text if part.nominal else ""


def free_name(run: Run, kind: Kind) -> str:
    """The next free name for a part of this kind, such as R4."""
    return next(name for k in range(1, len(run.parts) + 2) if (name := f"{_LETTERS[kind]}{k}") not in run.parts)


def try_circuit(run: Run, setup: Setup) -> None:
    """Raise `EditError` when a setup cannot be solved, or is not one joined circuit."""
    stated = {name: setup.stated(run.parts[name]) for name in setup.connections}
    values = {name: float(value) if value else _STAND_IN_OHMS for name, value in stated.items()}
    elements = network.elements_of(setup, run.parts, values)
    try:
        network.solve(elements, setup.reference)
    except network.NetworkError as error:
        raise EditError(f"{str(error)[:1].upper()}{str(error)[1:]}.", error.parts, error.nodes) from None
    apart = _not_joined(setup)
    if apart:
        raise EditError(f"Nothing joins {', '.join(apart)} to the reference {setup.reference}.", nodes=apart)


def _not_joined(setup: Setup) -> tuple[str, ...]:
    reached, waiting = {setup.reference}, [setup.reference]
    while waiting:
        node = waiting.pop()
        for first, second in setup.connections.values():
            other = second if node == first else first if node == second else node
            if other not in reached:
                reached.add(other)
                waiting.append(other)
    return tuple(node for node in setup.nodes if node not in reached)


def _changed(
    run: Run, setup: str, moved: Mapping[str, Leads], part: Part, leads: Leads, beside: str | None = None
) -> Run:
    """The run with some parts' leads moved and a new part, listed behind `beside`."""
    if part.name in run.parts:
        raise EditError(f"There is a part named {part.name} already.", (part.name,))
    if len(run.parts) >= MOST_PARTS:
        raise EditError(f"A circuit has at most {MOST_PARTS} parts.")
    old = run.setups[setup]
    connections = {**old.connections, **moved}
    order = list(connections)
    order.insert(order.index(beside) + 1 if beside else len(order), part.name)
    connections = {name: leads if name == part.name else connections[name] for name in order}
    setups = {**run.setups, setup: replace(old, connections=connections)}
    return _settled(run, replace(run, parts={**run.parts, part.name: part}, setups=setups))


def _with(setup: Setup, connections: Mapping[str, Leads]) -> Setup:
    """A setup with fewer parts, and nothing said of those that went."""
    return replace(
        setup,
        connections=connections,
        sources_off=setup.sources_off & set(connections),
        values={name: value for name, value in setup.values.items() if name in connections},
    )


def _settled(before: Run, after: Run) -> Run:
    """Try every setup that changed, and bring what is asked for up to date."""
    for name, setup in after.setups.items():
        if before.setups.get(name) != setup or before.parts != after.parts:
            _try(after, setup)
    was, now = usual_readings(before), usual_readings(after)
    wanted, known = {target.key for target in before.asked}, {target.key for target in was}
    kept = tuple(target for target in now if target.key in wanted or target.key not in known)
    return replace(after, asked=kept, readings=(), claims=(), placements={})


def accepted(run: Run) -> Run:
    """A circuit from elsewhere, every setup tried, asking for all usual readings where it asks for none."""
    if not run.setups:
        raise EditError("There is no circuit in it: an experiment needs a setup.")
    if len(run.parts) > MOST_PARTS:
        raise EditError(f"A circuit has at most {MOST_PARTS} parts; here are {len(run.parts)}.")
    for setup in run.setups.values():
        _try(run, setup)
    return run if run.asked else asking_everything(run)


def _try(run: Run, setup: Setup) -> None:
    """`try_circuit`, its error carrying the attempt."""
    try:
        try_circuit(run, setup)
    except EditError as error:
        error.attempt = run, setup
        raise


def asking_everything(run: Run) -> Run:
    """The run with all its usual readings asked for."""
    return replace(run, asked=tuple(usual_readings(run)))


def usual_readings(run: Run) -> list[Target]:
    """The readings that all setups ask for when nothing is left out, each target once."""
    found = {target.key: target for setup in run.setups.values() for target in asked(run, setup)}
    by_itself = [target for target in found.values() if target.of is not None]
    return by_itself + [target for target in found.values() if target.of is None]


def setup_named(run: Run, name: str) -> Setup:
    """A setup of the run. Raises `EditError` when it has none of that name."""
    if name not in run.setups:
        raise EditError(f"There is no setup {name}.")
    return run.setups[name]


def _known(run: Run, name: str) -> None:
    if name not in run.parts:
        raise EditError(f"There is no part {name}.", (name,))


def _leads(run: Run, setup: str, name: str) -> Leads:
    connections = setup_named(run, setup).connections
    if name not in connections:
        raise EditError(f"There is no part {name} in this setup.", (name,))
    return connections[name]


def _free_node(setup: Setup) -> str:
    letters = (chr(65 + k) for k in range(26))
    numbered = (f"N{k}" for k in range(27, 27 + len(setup.nodes) + 1))
    return next(node for node in (*letters, *numbered) if node not in setup.nodes)
