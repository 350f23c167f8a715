"""Edits that make a point: a setup multiplied into the states that a theorem is about."""

from dataclasses import replace

from recensor.core.circuit import (
    RESISTOR,
    VOLTAGE_SOURCE,
    Across,
    Leads,
    Part,
    PartAlone,
    Setup,
    Sheet,
    Target,
    Through,
    TouchedLeads,
    asking_everything,
)
from recensor.core.editing.edits import EditError, setup_named, try_circuit
from recensor.core.figures import to_four_figures
from recensor.core.quantity import OHM, RESISTANCE, VOLT, VOLTAGE, Quantity
from recensor.core.solving import dead, operate, resistance_between, stated


def superposition(sheet: Sheet, setup: str) -> Sheet:
    """The setup with all its sources, and one more for each source alone. Raises `EditError` for fewer than two."""
    whole = setup_named(sheet, setup)
    sources = whole.driving(sheet.parts)
    if len(sources) < 2:
        raise EditError("Superposition needs at least two sources in this setup.", tuple(sources))
    alone = {
        f"{name} alone": replace(
            whole, name=f"{name} alone", sources_off=whole.sources_off | frozenset(set(sources) - {name})
        )
        for name in sources
    }
    together = replace(whole, name="all sources")
    return _asked_again(sheet, {"all sources": together, **alone})


def equivalent_source(sheet: Sheet, setup: str, load: str) -> Sheet:
    """The setup, without its load, looking back into it, and its equivalent with the same load.

    Raises `EditError` when `load` is no resistor of the setup, or the rest has no single equivalent.
    """
    whole = setup_named(sheet, setup)
    if load not in whole.connections or sheet.parts[load].kind.drives:
        raise EditError(f"{load or 'Nothing'} is no resistor of this setup; choose the load first.")
    first, second = whole.connections[load]
    rest = {name: leads for name, leads in whole.connections.items() if name != load}
    opened = replace(whole, name="open circuit", connections=rest)
    sources = frozenset(name for name in rest if sheet.parts[name].kind.drives)
    looking_back = replace(opened, name="looking back", sources_off=sources)
    volts, ohms = _equivalent(sheet, opened, looking_back, (first, second))
    named = {"Ve": Part("Ve", VOLTAGE_SOURCE, volts), "Re": Part("Re", RESISTOR, ohms)}
    taken = sorted(set(named) & set(sheet.parts))
    if taken:
        raise EditError(f"There is a part named {taken[0]} already.", tuple(taken))
    inside = "E" if "E" not in (first, second) else "F"
    joined = {"Ve": (inside, second), "Re": (inside, first), load: (first, second)}
    setups = {
        "loaded": replace(whole, name="loaded"),
        "open circuit": opened,
        "looking back": looking_back,
        "equivalent": Setup("equivalent", second, joined),
    }
    changed = _asked_again(replace(sheet, parts={**sheet.parts, **named}), setups)
    across = (first, second)
    wanted: list[Target] = [target for target in changed.asked if isinstance(target, PartAlone | TouchedLeads)]
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
            f"{' and '.join(values.missing)} is unmarked: the equivalent source needs every value.", values.missing
        )
    try_circuit(sheet, opened)
    (back,) = resistance_between(dead(looking_back, sheet.parts, values.known), [across])
    if back is None:
        raise EditError(
            "Without the load nothing joins its two nodes: there is no equivalent resistance.", nodes=across
        )
    volts, ohms = float(operate(sheet, opened).solution.voltage(*across)), back[0]
    if volts <= 0 or ohms <= 0:
        raise EditError("The equivalent source would be zero or negative; turn the load round or choose another.")
    return to_four_figures(volts, VOLT), to_four_figures(ohms, OHM)


def _asked_again(sheet: Sheet, setups: dict[str, Setup]) -> Sheet:
    changed = asking_everything(replace(sheet, setups=setups))
    for setup in setups.values():
        try_circuit(changed, setup)
    return changed
