"""The way of the current, from a source's + round to its −: at every node what comes in and how it goes on."""

from collections.abc import Mapping
from dataclasses import dataclass

from recensor.core import network
from recensor.core.circuit import Part, Setup


@dataclass(frozen=True)
class Stop:
    """One node on the way: the parts whose current arrives, and those by which it goes on, with amperes and node."""

    node: str
    volts: float
    arrives: tuple[tuple[str, float], ...]
    goes_on: tuple[tuple[str, float, str], ...]


def follow(parts: Mapping[str, Part], setup: Setup) -> list[Stop]:
    """Every node that current passes, from the highest potential down, so that each is met after what feeds it.

    Raises the errors of `network`; empty while a part is unmarked or no current flows.
    """
    stated = {name: setup.stated(parts[name]) for name in setup.connections}
    if not all(stated.values()):
        return []
    values = {name: float(value) for name, value in stated.items() if value is not None}
    solution = network.solve(network.elements_of(setup, parts, values), setup.reference)
    arrives: dict[str, list[tuple[str, float]]] = {}
    goes_on: dict[str, list[tuple[str, float, str]]] = {}
    for element in solution.network.elements:
        current = float(solution.current(element.name))
        if abs(current) <= 1e-9 * solution.largest_current:
            continue
        # A source delivers out of its first lead, a resistor takes in at its first lead.
        out_of_first = (current > 0) == element.kind.is_source
        start, end = (element.second, element.first) if out_of_first else (element.first, element.second)
        goes_on.setdefault(start, []).append((element.name, abs(current), end))
        arrives.setdefault(end, []).append((element.name, abs(current)))
    volts = {node: solution.voltage(node, setup.reference) for node in setup.nodes}
    passed = [node for node in setup.nodes if node in goes_on and volts[node] is not None]
    return [
        Stop(node, float(volts[node]), tuple(arrives.get(node, ())), tuple(goes_on[node]))
        for node in sorted(passed, key=lambda node: -float(volts[node]))
    ]
