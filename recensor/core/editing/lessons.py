"""Edits that make a point: a setup multiplied into the states that a theorem is about."""

from collections.abc import Sequence
from dataclasses import replace

from recensor.core.circuit import (
    MOST_STEPS,
    RESISTOR,
    VOLTAGE_SOURCE,
    Across,
    Comparison,
    Leads,
    Part,
    PartAlone,
    Rule,
    Setup,
    Sheet,
    Sweep,
    TableMeters,
    Target,
    Through,
    asking_everything,
    entering,
    loops,
)
from recensor.core.editing.edits import EditError, setup_named, try_circuit
from recensor.core.figures import to_four_figures
from recensor.core.quantity import OHM, RESISTANCE, VOLT, VOLTAGE, Quantity, parse
from recensor.core.sentences import say
from recensor.core.solving import dead, operate, resistance_between, stated


def superposition(sheet: Sheet, setup: str, branch: str = "") -> Sheet:
    """The setup with all its sources, and one more for each source alone. Raises `EditError` for fewer than two.

    It asks for what makes the point: the sources, and the current of one `branch` in each setup; of the last part
    that stands in no source's own branch where none is named.
    """
    whole = setup_named(sheet, setup)
    sources = whole.driving(sheet.parts)
    if len(sources) < 2:
        raise EditError(say("editing.superposition_needs_at_least"), tuple(sources))
    alone = {
        f"{name} alone": replace(
            whole, name=f"{name} alone", sources_off=whole.sources_off | frozenset(set(sources) - {name})
        )
        for name in sources
    }
    together = replace(whole, name="all sources")
    compare = (Comparison(Rule.SUPERPOSITION, ("all sources", *alone)),)
    changed = _asked_again(replace(sheet, compare=compare), {"all sources": together, **alone})
    through = branch or _between_the_sources(whole, sheet)
    wanted: list[Target] = [PartAlone(name, sheet.parts[name].kind.measured_as) for name in sources]
    wanted += [Through(through, name) for name in changed.setups]
    return replace(changed, asked=tuple(wanted))


def _between_the_sources(setup: Setup, sheet: Sheet) -> str:
    """The last part that lies in no source's own branch; the last that drives nothing where there is none."""
    passive = [name for name in setup.connections if not sheet.parts[name].kind.is_source]
    text = passive[-1]
    for branch in loops.branches(setup.connections):
        names = [passage.part for passage in branch.passages]
        if not any(sheet.parts[name].kind.is_source for name in names):
            text = names[0]
    return text


def sweep(sheet: Sheet, setup: str, part: str, settings: Sequence[Quantity]) -> Sheet:
    """A sweep of one part: its voltage and its current at each setting of the setup's source.

    Without settings it is free: its rows are whatever is read, one after the other. Raises `EditError` where the setup
    has not just one voltage source, or the settings are no table.
    """
    here = setup_named(sheet, setup)
    if part not in here.connections or sheet.parts[part].kind.is_source or sheet.parts[part].kind.is_wire:
        raise EditError(say("editing.choose_part_whose_volts"), (part,))
    sources = here.driving(sheet.parts)
    if len(sources) != 1 or sheet.parts[sources[0]].kind.unit != VOLT:
        raise EditError(say("editing.sweep_turns_one_voltage"), tuple(sources))
    if len(settings) == 1:
        raise EditError(say("editing.line_needs_two_settings"), (part,))
    if len(settings) > MOST_STEPS:
        raise EditError(say("editing.sweep_at_most_rows", most_steps=MOST_STEPS), (part,))
    if settings and len({float(quantity) for quantity in settings}) < 2:
        raise EditError(say("editing.all_settings_same_no"), (part,))
    (source,) = sources
    turned = replace(sheet.parts[source], adjustable=True)
    older = next((one for one in sheet.sweeps.values() if (one.setup, one.amps.part) == (setup, part)), None)
    free = (f"line of {part}", f"line of {part} in {setup}")
    name = older.name if older else next((name for name in free if name not in sheet.sweeps), free[1])
    made = Sweep(
        name, setup, source, Across(VOLTAGE, here.connections[part], setup), Through(part, setup), tuple(settings)
    )
    rows = [row for step in range(len(settings)) for row in (made.volts_at(step), made.amps_at(step))]
    parts = {**sheet.parts, source: turned}
    targets = [target for target in sheet.asked if older is None or sheet.sweep_of(target) is not older]
    return replace(sheet, parts=parts, sweeps={**sheet.sweeps, name: made}, asked=(*targets, *rows))


def free_table(sheet: Sheet, setup: str, of: str | Leads, meters: TableMeters | None = None) -> tuple[Sheet, str]:
    """A V–I table of a part, or of what lies between two nodes, in rows of whatever is read; and its name.

    One that is there already is gone on with, with the meters of before unless those are said. Raises
    `EditError` where no source drives the setup, or no one part carries the current that enters there.
    """
    here = setup_named(sheet, setup)
    sources = here.driving(sheet.parts)
    if not sources:
        raise EditError(say("editing.nothing_drives_table"))
    if isinstance(of, str):
        if of not in here.connections or sheet.parts[of].kind.is_source or sheet.parts[of].kind.is_wire:
            raise EditError(say("editing.choose_part_whose_volts"), (of,))
        nodes, through, words = here.connections[of], of, of
    else:
        found = entering(here, sheet.parts, of)
        if found is None:
            raise EditError(say("editing.no_part_carries_what_enters", first=of[0], second=of[1]), nodes=of)
        nodes, through = of[::-1] if found.is_reversed else of, found.part
        words = " to ".join(nodes)
    volts = Across(VOLTAGE, nodes, here.name)
    for name, other in sheet.sweeps.items():
        if other.volts.key == volts.key and other.amps.part == through and not other.settings:
            if meters in (None, other.meters):
                return sheet, name
            otherwise = replace(other, meters=meters)
            return replace(sheet, sweeps={**sheet.sweeps, name: otherwise}), name
    amps = _amps_of_its_own(sheet, here, through)
    made = Sweep("", here.name, sources[0], volts, amps, meters=meters or TableMeters.APART)
    names = (f"line of {words}", f"line of {words} in {here.name}")
    name = next(name for name in names if name not in sheet.sweeps)
    return replace(sheet, sweeps={**sheet.sweeps, name: replace(made, name=name)}), name


def _amps_of_its_own(sheet: Sheet, setup: Setup, part: str) -> Through:
    """Where the current of one more table is read: beside another part of the branch where a table has it already.

    Rows are told apart by their measurements alone. Raises `EditError` where there is no such part.
    """
    taken = {sweep.amps.key for sweep in sheet.sweeps.values()}
    branches = ([passage.part for passage in branch.passages] for branch in loops.branches(setup.joined(sheet.parts)))
    beside = next((names for names in branches if part in names), [])
    for at in (None, *(name for name in beside if name != part)):
        amps = Through(part, setup.name, at)
        if amps.key not in taken:
            return amps
    raise EditError(say("editing.current_is_in_other_table", part=part), (part,))


def evenly(first: float, last: float, rows: int, unit: str) -> tuple[Quantity, ...]:
    """So many settings, evenly from the first to the last, in figures that a person can set.

    Examples
    --------
    >>> [one.text for one in evenly(1.0, 9.0, 5, "V")]
    ['1V', '3V', '5V', '7V', '9V']
    """
    step = (last - first) / max(rows - 1, 1)
    values = [round(first + k * step, 3) for k in range(rows)]
    return tuple(replace(parse(f"{value:g}{unit}", unit), unit=unit) for value in values)


def held_against(sheet: Sheet, rule: Rule, setups: Sequence[str]) -> Sheet:
    """The sheet with setups held against each other. Raises `EditError` for fewer than two."""
    if len(set(setups)) < 2:
        raise EditError(say("editing.choose_another_setup_hold"))
    for name in setups:
        setup_named(sheet, name)
    comparison = Comparison(rule, tuple(setups))
    return sheet if comparison in sheet.compare else replace(sheet, compare=(*sheet.compare, comparison))


def equivalent_source(sheet: Sheet, setup: str, load: str) -> Sheet:
    """The setup, without its load, looking back into it, and its equivalent with the same load.

    Raises `EditError` when `load` is no resistor of the setup, or the rest has no single equivalent.
    """
    whole = setup_named(sheet, setup)
    if load not in whole.connections or sheet.parts[load].kind.is_source:
        kind = "editing.load_is_no_resistor" if load else "editing.load_first"
        raise EditError(say(kind, load=load))
    first, second = whole.connections[load]
    rest = {name: leads for name, leads in whole.connections.items() if name != load}
    opened = replace(whole, name="open circuit", connections=rest)
    sources = frozenset(name for name in rest if sheet.parts[name].kind.is_source)
    looking_back = replace(opened, name="looking back", sources_off=sources)
    volts, ohms = _equivalent(sheet, opened, looking_back, (first, second))
    named = {"Ve": Part("Ve", VOLTAGE_SOURCE, volts), "Re": Part("Re", RESISTOR, ohms)}
    taken = sorted(set(named) & set(sheet.parts))
    if taken:
        raise EditError(say("editing.name_is_taken", taken=taken[0]), tuple(taken))
    inside = "E" if "E" not in (first, second) else "F"
    joined = {"Ve": (inside, second), "Re": (inside, first), load: (first, second)}
    setups = {
        "loaded": replace(whole, name="loaded"),
        "open circuit": opened,
        "looking back": looking_back,
        "equivalent": Setup("equivalent", second, joined),
    }
    compare = (Comparison(Rule.EQUIVALENT, ("loaded", "equivalent")),)
    changed = _asked_again(replace(sheet, parts={**sheet.parts, **named}, compare=compare), setups)
    across = (first, second)
    wanted: list[Target] = [target for target in changed.asked if not target.in_circuit]
    wanted += [
        Across(VOLTAGE, across, "open circuit"),
        Across(RESISTANCE, across, "looking back"),
    ]
    for name in ("loaded", "equivalent"):
        wanted += [Across(VOLTAGE, across, name), Through(load, name)]
    return replace(changed, asked=tuple(wanted))


def _equivalent(sheet: Sheet, opened: Setup, looking_back: Setup, across: Leads) -> tuple[Quantity, Quantity]:
    """Open-circuit voltage, and resistance looking back, as four digits say them."""
    values = stated(sheet, opened)
    if values.missing:
        raise EditError(
            say("editing.unmarked_equivalent_source_needs", missing=" and ".join(values.missing)), values.missing
        )
    try_circuit(sheet, opened)
    (back,) = resistance_between(dead(looking_back, sheet.parts, values.known), [across])
    if back is None:
        raise EditError(say("editing.without_load_nothing_joins"), nodes=across)
    volts, ohms = float(operate(sheet, opened).solution.voltage(*across)), back[0]
    if volts <= 0 or ohms <= 0:
        raise EditError(say("editing.equivalent_source_would_zero"))
    return to_four_figures(volts, VOLT), to_four_figures(ohms, OHM)


def _asked_again(sheet: Sheet, setups: dict[str, Setup]) -> Sheet:
    changed = asking_everything(replace(sheet, setups=setups))
    for setup in setups.values():
        try_circuit(changed, setup)
    return changed
