"""The way of the current, from a source's + round to its −: at every node what comes in and how it goes on."""

from dataclasses import dataclass

from recensor.core.circuit import Setup, Sheet
from recensor.core.solving.operating import UnmarkedError, operate


@dataclass(frozen=True)
class Waypoint:
    """One node on the way: the parts whose current arrives, and those by which it goes on, with amperes and node."""

    node: str
    volts: float
    arrives: tuple[tuple[str, float], ...]
    goes_on: tuple[tuple[str, float, str], ...]


def follow(sheet: Sheet, setup: Setup) -> list[Waypoint]:
    """Every node that current passes, from the highest potential down, so that each is met after what feeds it.

    Raises the errors of `Network`; empty while a part is unmarked or no current flows.
    """
    operating = operate(sheet, setup)
    if isinstance(operating.problem, UnmarkedError):
        return []
    solution = operating.solution
    arrives: dict[str, list[tuple[str, float]]] = {}
    goes_on: dict[str, list[tuple[str, float, str]]] = {}
    for element in operating.elements:
        current = operating.parts[element.name].amperes
        if not operating.carries(element.name):
            continue
        # A source delivers out of its first lead, a resistor takes in at its first lead.
        out_of_first = (current > 0) == element.kind.is_source
        start, end = (element.second, element.first) if out_of_first else (element.first, element.second)
        goes_on.setdefault(start, []).append((element.name, abs(current), end))
        arrives.setdefault(end, []).append((element.name, abs(current)))
    potentials = {
        node: float(solution.voltage(node, setup.reference))
        for node in setup.nodes
        if node in goes_on and solution.network.joined(node, setup.reference)
    }
    return [
        Waypoint(node, potentials[node], tuple(arrives.get(node, ())), tuple(goes_on[node]))
        for node in sorted(potentials, key=lambda node: -potentials[node])
    ]
