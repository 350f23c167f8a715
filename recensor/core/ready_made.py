"""Experiments of several setups: one list of parts in several states, and the readings that make the point."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from recensor.core import network, notation, starting
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.editing import EditError, asking_everything, setup_named, try_circuit
from recensor.core.quantity import OHM, VOLT, Quantity, parse, rounded
from recensor.core.record import CURRENT, RESISTANCE, VOLTAGE, Run, Target


@dataclass(frozen=True)
class ReadyMade:
    """An experiment as it may be taken into the library: the sheet, and its aim in words."""

    run: Run
    aim: str


def series_against_parallel() -> ReadyMade:
    """The same parts in series and side by side."""
    run = notation.read("9V: 1k + 2k2; 5%", "Series against parallel")
    series = replace(run.setups["main"], name="series")
    parallel = replace(series, name="parallel", connections=dict.fromkeys(series.connections, ("A", "gnd")))
    return ReadyMade(
        asking_everything(replace(run, setups={"series": series, "parallel": parallel})),
        "The same two resistors in series, then in parallel: which total is above the larger, which below the "
        "smaller? What is shared each time, voltage or current?",
    )


def substitution() -> ReadyMade:
    """One branch with another resistor in it."""
    run = notation.read("9V: 1k + (2k2 | 3k3); 5%", "Substitution in one branch")
    first = replace(run.setups["main"], name="with R2")
    swapped = {"R4" if name == "R2" else name: leads for name, leads in first.connections.items()}
    parts = {**run.parts, "R4": replace(run.parts["R2"], name="R4", nominal=parse("4k7", OHM))}
    setups = {"with R2": first, "with R4": replace(first, name="with R4", connections=swapped)}
    return ReadyMade(
        asking_everything(replace(run, parts=parts, setups=setups)),
        "R4 takes the place of R2. Which voltages and currents change, also in the parts that stay?",
    )


def two_source_superposition() -> ReadyMade:
    """Both sources, then each alone."""
    run = starting.two_sources(0)
    return ReadyMade(
        superposition(replace(run, title="Superposition"), "main"),
        "Both sources together, then each alone with a wire in place of the other: "
        "with their signs, the currents alone add up to the current with both.",
    )


def equivalent_of_a_divider() -> ReadyMade:
    """A network and its load, then the equivalent source with the same load."""
    run = notation.read("10V: 3k9 + (8k2 | 4k7 + RL=3k3); 5%", "Equivalent source")
    return ReadyMade(
        equivalent_source(run, "main", "RL"),
        "What does the load see? The open-circuit voltage, the resistance looking back with the source replaced by "
        "a wire, then one source and one resistor that do the same. A load takes most power when it is as large as "
        "that resistor.",
    )


def loaded_divider() -> ReadyMade:
    """A divider by itself, and loaded."""
    run = replace(starting.loaded_divider(0), title="Divider, unloaded and loaded")
    loaded = replace(run.setups["main"], name="loaded")
    open_ended = {name: leads for name, leads in loaded.connections.items() if name != "RL"}
    setups = {"unloaded": replace(loaded, name="unloaded", connections=open_ended), "loaded": loaded}
    return ReadyMade(
        asking_everything(replace(run, setups=setups)),
        "How far does the divided voltage sink when a load draws current from it, and why?",
    )


READY_MADE: dict[str, Callable[[], ReadyMade]] = {
    "series against parallel": series_against_parallel,
    "substitution": substitution,
    "superposition": two_source_superposition,
    "equivalent source": equivalent_of_a_divider,
    "divider, unloaded and loaded": loaded_divider,
}


def superposition(run: Run, setup: str) -> Run:
    """The setup with all its sources, and one more for each source alone. Raises `EditError` for fewer than two."""
    whole = setup_named(run, setup)
    sources = [name for name in whole.connections if run.parts[name].kind.is_source and name not in whole.sources_off]
    if len(sources) < 2:
        raise EditError("Superposition needs at least two sources in this setup.", tuple(sources))
    alone = {
        f"{name} alone": replace(
            whole, name=f"{name} alone", sources_off=whole.sources_off | frozenset(set(sources) - {name})
        )
        for name in sources
    }
    together = replace(whole, name="all sources")
    return _asked_again(run, {"all sources": together, **alone})


def equivalent_source(run: Run, setup: str, load: str) -> Run:
    """The setup, without its load, looking back into it, and its equivalent with the same load.

    Raises `EditError` when `load` is no resistor of the setup, or the rest has no single equivalent.
    """
    whole = setup_named(run, setup)
    if load not in whole.connections or run.parts[load].kind is not Kind.RESISTOR:
        raise EditError(f"{load or 'Nothing'} is no resistor of this setup; choose the load first.")
    first, second = whole.connections[load]
    rest = {name: leads for name, leads in whole.connections.items() if name != load}
    opened = replace(whole, name="open circuit", connections=rest)
    sources = frozenset(name for name in rest if run.parts[name].kind.is_source)
    dead = replace(opened, name="looking back", sources_off=sources)
    volts, ohms = _equivalent(run, opened, dead, (first, second))
    named = {"Ve": Part("Ve", Kind.VOLTAGE_SOURCE, volts), "Re": Part("Re", Kind.RESISTOR, ohms)}
    taken = sorted(set(named) & set(run.parts))
    if taken:
        raise EditError(f"There is a part named {taken[0]} already.", tuple(taken))
    inside = "E" if "E" not in (first, second) else "F"
    joined = {"Ve": (inside, second), "Re": (inside, first), load: (first, second)}
    setups = {
        "loaded": replace(whole, name="loaded"),
        "open circuit": opened,
        "looking back": dead,
        "equivalent": Setup("equivalent", second, joined),
    }
    changed = _asked_again(replace(run, parts={**run.parts, **named}), setups)
    across = (first, second)
    wanted = [target for target in changed.asked if target.of is not None]
    wanted += [
        Target(VOLTAGE, across=across, setup="open circuit"),
        Target(RESISTANCE, across=across, setup="looking back"),
    ]
    for name in ("loaded", "equivalent"):
        wanted += [Target(VOLTAGE, across=across, setup=name), Target(CURRENT, through=load, setup=name)]
    return replace(changed, asked=tuple(wanted))


def _equivalent(run: Run, opened: Setup, dead: Setup, across: tuple[str, str]) -> tuple[Quantity, Quantity]:
    """Open-circuit voltage, and resistance looking back, as four digits say them."""
    stated = {name: opened.stated(run.parts[name]) for name in opened.connections}
    unmarked = [name for name, value in stated.items() if value is None]
    if unmarked:
        raise EditError(
            f"{' and '.join(unmarked)} is unmarked: the equivalent source needs every value.", tuple(unmarked)
        )
    values = {name: float(value) for name, value in stated.items() if value is not None}
    try_circuit(run, opened)
    solution = network.solve(network.elements_of(opened, run.parts, values), opened.reference)
    back = network.ohmmeter(network.elements_of(dead, run.parts, values), *across)
    if back is None:
        raise EditError(
            "Without the load nothing joins its two nodes: there is no equivalent resistance.", nodes=across
        )
    volts, ohms = float(solution.voltage(*across)), float(back.voltage(*across))
    if volts <= 0 or ohms <= 0:
        raise EditError("The equivalent source would be zero or negative; turn the load round or choose another.")
    return tuple(  # type: ignore[return-value]
        parse(rounded(value, None, unit).replace(" ", ""), unit) for value, unit in ((volts, VOLT), (ohms, OHM))
    )


def _asked_again(run: Run, setups: dict[str, Setup]) -> Run:
    changed = asking_everything(replace(run, setups=setups))
    for setup in setups.values():
        try_circuit(changed, setup)
    return changed
