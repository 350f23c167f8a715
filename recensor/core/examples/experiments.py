"""Experiments of several setups: one list of parts in several states, and the readings that make the point."""

from collections.abc import Callable
from dataclasses import dataclass, replace

from recensor.core.circuit import Comparison, PartAlone, Rule, Sheet, asking_everything, one_line
from recensor.core.editing import equivalent_source, evenly, superposition, sweep
from recensor.core.examples import circuits
from recensor.core.quantity import OHM, RESISTANCE, VOLT, WATT, parse


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
        asking_everything(
            _held(replace(sheet, setups={"series": series, "parallel": parallel}), Rule.SERIES_AND_PARALLEL)
        ),
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
        asking_everything(_held(replace(sheet, parts=parts, setups=setups), Rule.EXCHANGE)),
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
        asking_everything(_held(replace(sheet, setups=setups), Rule.LOADED)),
        "How far does the divided voltage sink when a load draws current from it, and why?",
    )


def branch_added() -> Example:
    """One branch, then another beside it."""
    sheet = one_line.read("9V: 2k2 | 3k3; 5%", "A branch more")
    both = replace(sheet.setups["main"], name="two branches")
    one = {name: leads for name, leads in both.connections.items() if name != "R2"}
    setups = {"one branch": replace(both, name="one branch", connections=one), "two branches": both}
    return Example(
        asking_everything(_held(replace(sheet, setups=setups), Rule.BRANCH_ADDED)),
        "Another resistor more, and yet the total sinks: by how much, and what does the source deliver?",
    )


def line_of_a_resistor() -> Example:
    """A resistance as the slope of a line."""
    sheet = one_line.read("V1=9V: R1=100 5%", "Dew heater coil, its line")
    asked = (PartAlone("R1", RESISTANCE),)
    parts = {
        name: replace(part, rating=parse("1W", WATT)) if name == "R1" else part for name, part in sheet.parts.items()
    }
    return Example(
        sweep(replace(sheet, asked=asked, parts=parts), "main", "R1", evenly(1, 9, 5, VOLT)),
        "Volts and amps at five settings: is it one straight line, does it pass through zero, and is its slope what "
        "the ohmmeter reads?",
    )


def lamp_curve() -> Example:
    """A lamp, whose cold ohms say nothing about it lit."""
    sheet = one_line.read("V1=6V: L1=lamp 6V 50mA", "Mast lamp, cold and lit")
    settings = tuple(replace(parse(text, VOLT), unit=VOLT) for text in ("0.5V", "1V", "2V", "3V", "4V", "5V", "6V"))
    asked = (PartAlone("L1", RESISTANCE),)
    return Example(
        sweep(replace(sheet, asked=asked), "main", "L1", settings),
        "Read the lamp cold with the ohmmeter, then light it step by step: why is volts over amps never that again?",
    )


def light_diode() -> Example:
    """A light diode behind its resistor, and turned round."""
    sheet = one_line.read("5V: 330 5% + led 1.9V 10mA", "Station light and its resistor")
    forward = replace(sheet.setups["main"], name="right way round")
    leads = {**forward.connections, "LED1": forward.connections["LED1"][::-1]}
    setups = {"right way round": forward, "turned round": replace(forward, name="turned round", connections=leads)}
    return Example(
        asking_everything(_held(replace(sheet, setups=setups), Rule.EXCHANGE)),
        "The diode takes nearly the same drop whatever flows, and the resistor the rest. And turned round?",
    )


def switched() -> Example:
    """A branch that a switch puts in."""
    sheet = one_line.read("9V: 1k + (2k2 | switch + 1k); 5%", "Alarm contact, open and closed")
    closed = replace(sheet.setups["main"], name="pressed")
    setups = {"not pressed": replace(closed, name="not pressed", open=frozenset({"S1"})), "pressed": closed}
    return Example(
        asking_everything(_held(replace(sheet, setups=setups), Rule.LOADED)),
        "The contact puts a second branch beside R2: what does the line see before and after?",
    )


def set_by_meter() -> Example:
    """A rheostat that is set by meter, twice."""
    sheet = one_line.read("9V: 1k 5% + rheostat 1k", "Trimmer of the rain gauge")
    low = replace(sheet.setups["main"], name="at a quarter", values={"RV1": parse("250", OHM)})
    setups = {"at a quarter": low, "at three quarters": replace(low, name="at three quarters",
                                                                values={"RV1": parse("750", OHM)})}  # fmt: skip
    return Example(
        asking_everything(_held(replace(sheet, setups=setups), Rule.EXCHANGE)),
        "Set the trimmer by meter, out of the circuit, and see its share of the voltage; then once more.",
    )


def _held(sheet: Sheet, rule: Rule) -> Sheet:
    """A sheet whose setups are held against each other."""
    return replace(sheet, compare=(Comparison(rule, tuple(sheet.setups)),))


EXPERIMENTS: dict[str, Callable[[], Example]] = {
    "series against parallel": series_against_parallel,
    "substitution": substitution,
    "superposition": two_source_superposition,
    "equivalent source": equivalent_of_a_divider,
    "divider, unloaded and loaded": loaded_divider,
    "a branch more": branch_added,
    "line of a resistor": line_of_a_resistor,
    "lamp, cold and lit": lamp_curve,
    "light diode": light_diode,
    "switch": switched,
    "set by meter": set_by_meter,
}
