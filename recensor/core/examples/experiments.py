"""Experiments of several setups: one list of parts in several states, and the readings that make the point."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from recensor.core.circuit import Sheet, asking_everything, one_line
from recensor.core.editing import equivalent_source, superposition
from recensor.core.examples import circuits
from recensor.core.quantity import OHM, parse


@dataclass(frozen=True)
class Example:
    """An experiment as it may be begun from: the sheet, and its aim in words."""

    sheet: Sheet
    aim: str


def series_against_parallel() -> Example:
    """The same parts in series and side by side."""
    sheet = one_line.read("9V: 1k + 2k2; 5%", "Series against parallel")
    series = replace(sheet.setups["main"], name="series")
    parallel = replace(series, name="parallel", connections=dict.fromkeys(series.connections, ("A", "gnd")))
    return Example(
        asking_everything(replace(sheet, setups={"series": series, "parallel": parallel})),
        "The same two resistors in series, then in parallel: which total is above the larger, which below the "
        "smaller? What is shared each time, voltage or current?",
    )


def substitution() -> Example:
    """One branch with another resistor in it."""
    sheet = one_line.read("9V: 1k + (2k2 | 3k3); 5%", "Substitution in one branch")
    first = replace(sheet.setups["main"], name="with R2")
    swapped = {"R4" if name == "R2" else name: leads for name, leads in first.connections.items()}
    parts = {**sheet.parts, "R4": replace(sheet.parts["R2"], name="R4", nominal=parse("4k7", OHM))}
    setups = {"with R2": first, "with R4": replace(first, name="with R4", connections=swapped)}
    return Example(
        asking_everything(replace(sheet, parts=parts, setups=setups)),
        "R4 takes the place of R2. Which voltages and currents change, also in the parts that stay?",
    )


def two_source_superposition() -> Example:
    """Both sources, then each alone."""
    sheet = circuits.two_sources()
    return Example(
        superposition(replace(sheet, title="Superposition"), "main"),
        "Both sources together, then each alone with a wire in place of the other: "
        "with their signs, the currents alone add up to the current with both.",
    )


def equivalent_of_a_divider() -> Example:
    """A network and its load, then the equivalent source with the same load."""
    sheet = one_line.read("10V: 3k9 + (8k2 | 4k7 + RL=3k3); 5%", "Equivalent source")
    return Example(
        equivalent_source(sheet, "main", "RL"),
        "What does the load see? The open-circuit voltage, the resistance looking back with the source replaced by "
        "a wire, then one source and one resistor that do the same. A load takes most power when it is as large as "
        "that resistor.",
    )


def loaded_divider() -> Example:
    """A divider by itself, and loaded."""
    sheet = replace(circuits.loaded_divider(), title="Divider, unloaded and loaded")
    loaded = replace(sheet.setups["main"], name="loaded")
    open_ended = {name: leads for name, leads in loaded.connections.items() if name != "RL"}
    setups = {"unloaded": replace(loaded, name="unloaded", connections=open_ended), "loaded": loaded}
    return Example(
        asking_everything(replace(sheet, setups=setups)),
        "How far does the divided voltage sink when a load draws current from it, and why?",
    )


EXPERIMENTS: dict[str, Callable[[], Example]] = {
    "series against parallel": series_against_parallel,
    "substitution": substitution,
    "superposition": two_source_superposition,
    "equivalent source": equivalent_of_a_divider,
    "divider, unloaded and loaded": loaded_divider,
}
