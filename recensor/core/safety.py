"""How far a circuit may be measured at all: extra-low voltage is the product's field, and parts have ratings.

Above 30 V DC a circuit carries a standing warning, above 60 V DC it is for paper only. The 60 V is
the common limit of extra-low voltage for ripple-free DC; both are the project's own rule here.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import product
from types import MappingProxyType

import numpy as np

from recensor.core.circuit import Across, Part, Setup, Sheet, loops
from recensor.core.errors import Refused
from recensor.core.quantity import VOLT, VOLTAGE, as_ratio
from recensor.core.sentences import say
from recensor.core.solving import Element, Network, NetworkError, elements_of, stated
from recensor.core.uncertainty import Array

Read = Mapping[str, float]
NOTHING_READ: Read = MappingProxyType({})

WARNING_ABOVE, PAPER_ONLY_ABOVE = 30.0, 60.0

# The commonest leaded resistor takes a quarter watt (common practice, no source).
USUAL_RATING = 0.25

# A lamp takes so many times its rated power for a while, and a small light diode carries so many amperes (common
# practice, no source).
_LAMP_TAKES, _LIGHT_DIODE_CARRIES = 1.2, 0.02

# Up to so many resistors with a tolerance every corner is tried, beyond them the one that the slopes point to.
MOST_CORNERS = 12


class Caution(StrEnum):
    """What a circuit's largest voltage asks for."""

    NONE = ""
    WARNING = "warning"
    PAPER_ONLY = "paper only"


def largest_voltage(sheet: Sheet, read: Read = NOTHING_READ) -> float:
    """The largest voltage in volts between any two nodes of any setup, each source up or down by its tolerance.

    A source counts with its open-circuit voltage, a current source with its compliance voltage, and every place
    where the circuit is opened for a current with what stands across it. A setup that cannot be solved counts with
    all its voltages in series. `read` has the values in SI units of parts that are unmarked and were read.
    """
    return max((_largest_in(setup, sheet, read) for setup in sheet.setups.values()), default=0.0)


def caution(sheet: Sheet, read: Read = NOTHING_READ) -> Caution:
    """Judge a sheet by its largest voltage."""
    return of_volts(largest_voltage(sheet, read))


def of_volts(volts: float) -> Caution:
    """Judge a voltage."""
    if volts > PAPER_ONLY_ABOVE:
        return Caution.PAPER_ONLY
    return Caution.WARNING if volts > WARNING_ABOVE else Caution.NONE


def refuse_paper_only(sheet: Sheet, *, simulated: bool = False) -> None:
    """Raise `Refused` for a circuit that is for paper only; one that is `simulated`, read off a screen, may be any."""
    if not simulated and caution(sheet) is Caution.PAPER_ONLY:
        raise Refused(say("safety.at_top_tolerance_more", paper_only_above=PAPER_ONLY_ABOVE))


def unbounded(sheet: Sheet) -> list[str]:
    """The current sources that no stated compliance voltage bounds: into an open circuit they push without limit."""
    driving = {name for setup in sheet.setups.values() for name in setup.driving(sheet.parts)}
    return [
        name
        for name, part in sheet.parts.items()
        if name in driving and part.kind.can_state("compliance") and part.compliance is None
    ]


@dataclass(frozen=True)
class Dissipation:
    """The power that a resistor may take in a setup at worst, and its rating, both in watts.

    The power is None where it is not known, because parts are neither marked nor read.
    """

    part: str
    setup: str
    power: float | None
    rating: float

    @property
    def is_over(self) -> bool:
        """Whether it takes more than it may."""
        return self.power is not None and self.power > self.rating


def dissipations(sheet: Sheet, read: Read = NOTHING_READ) -> list[Dissipation]:
    """Every resistor's worst power in every setup, closed and with each branch in turn opened for a current.

    Each source and each resistor is up or down by its tolerance by itself, whichever is worst. Without a stated rating
    a quarter watt is taken. Beside parts that are neither marked nor read only those straight across a source are
    known. A setup that cannot be solved is left out.
    """
    found = []
    for setup in sheet.setups.values():
        known = _known(setup, sheet, read)
        missing = [name for name in setup.connections if name not in known and name not in setup.sources_off]
        worst = _across_sources(setup, sheet, known) if missing else _worst_powers(*_circuit(setup, sheet, known))
        if worst is None:
            continue
        for name in setup.connections:
            part = sheet.parts[name]
            if part.kind.ohmic or part.kind.is_nonlinear:
                allowed = float(part.rating) if part.rating else _usually(part)
                found.append(Dissipation(name, setup.name, worst.get(name), allowed))
    return found


def _usually(part: Part) -> float:
    """What a part takes where no rating is stated, in watts: a lamp a little more than it is made for."""
    if part.nominal is None or part.current is None:
        return USUAL_RATING
    if part.kind.has_cold:
        return _LAMP_TAKES * float(part.nominal) * float(part.current)
    if part.kind.lights:
        return float(part.nominal) * max(_LIGHT_DIODE_CARRIES, 2.0 * float(part.current))
    return USUAL_RATING


# A setup's elements, its reference, and each element's tolerance as a ratio.
_Circuit = tuple[tuple[Element, ...], str, tuple[float, ...]]


def _known(setup: Setup, sheet: Sheet, read: Read) -> dict[str, float]:
    return {name: read[name] for name in setup.connections if name in read} | stated(sheet, setup).known


def _circuit(setup: Setup, sheet: Sheet, known: Mapping[str, float]) -> _Circuit:
    elements = tuple(elements_of(setup, sheet.parts, known))
    tolerances = (sheet.parts[element.name].tolerance for element in elements)
    return elements, setup.reference, tuple(as_ratio(tolerance) if tolerance else 0.0 for tolerance in tolerances)


def _opened(elements: tuple[Element, ...]) -> Iterator[list[int]]:
    """Which elements are left: all of them, and all but the first of each branch in turn."""
    yield list(range(len(elements)))
    place = {element.name: k for k, element in enumerate(elements)}
    for branch in loops.branches({element.name: (element.first, element.second) for element in elements}):
        opened = place[branch.passages[0].part]
        yield [k for k in range(len(elements)) if k != opened]


@lru_cache(maxsize=256)
def _worst_powers(elements: tuple[Element, ...], reference: str, tolerances: tuple[float, ...]) -> Read | None:
    """The most power that each resistor may take, in watts; None where the closed circuit has no solution."""
    worst: dict[str, float] = {}
    for left in _opened(elements):
        try:
            powers = list(_powers([elements[k] for k in left], reference, np.array([tolerances[k] for k in left])))
        except NetworkError:
            if not worst:
                return None
            continue
        for name, power in powers:
            worst[name] = max(power, worst.get(name, 0.0))
    return worst


def _powers(elements: list[Element], reference: str, tolerances: Array) -> Iterator[tuple[str, float]]:
    network = Network(elements, reference)
    resistors = [k for k, element in enumerate(elements) if not element.kind.is_source and not element.kind.is_wire]
    if network.is_nonlinear:
        yield from _nonlinear_powers(network, resistors, tolerances)
        return
    corners = _corners(network, resistors, tolerances)
    for k in resistors:
        if elements[k].value > 0 and elements[k].name in corners:
            volts, ohms = corners[elements[k].name]
            yield elements[k].name, float((volts**2 / ohms).max())


def _nonlinear_powers(network: Network, resistors: list[int], tolerances: Array) -> Iterator[tuple[str, float]]:
    """Where lamps or diodes are what sources make does not add up: each source up or down with the resistors."""
    nominal = np.array([element.value for element in network.elements])
    loose = [int(k) for k in np.flatnonzero(tolerances)][:MOST_CORNERS]
    signs = np.zeros((2 ** len(loose), len(nominal)))
    signs[:, loose] = list(product((-1.0, 1.0), repeat=len(loose)))
    solution = network.solve(nominal * (1.0 + signs * tolerances))
    for k in resistors:
        name = network.elements[k].name
        yield name, float(np.abs(solution.power(name)).max())


def _corners(network: Network, resistors: list[int], tolerances: Array) -> dict[str, tuple[Array, Array]]:
    """Each resistor's largest voltage at every corner that may be its worst, with its own resistance there."""
    nominal = np.array([element.value for element in network.elements])
    loose = [k for k in resistors if tolerances[k]]
    if len(loose) <= MOST_CORNERS:
        signs = np.zeros((2 ** len(loose), len(nominal)))
        signs[:, loose] = list(product((-1.0, 1.0), repeat=len(loose)))
        values = nominal * (1.0 + signs * tolerances)
        volts = _largest_drops(network, values, tolerances)
        return {network.elements[k].name: (volts[k], values[:, k]) for k in resistors}
    asked = [Across(VOLTAGE, (network.elements[k].first, network.elements[k].second), "") for k in resistors]
    solution = network.solve(nominal, asked)
    found = {}
    for row, k in enumerate(resistors):
        drop, ohms = float(solution.drop(network.elements[k].name)), nominal[k]
        slopes = 2.0 * drop / ohms * solution.slopes[row] if ohms else solution.slopes[row]
        slopes[k] -= (drop / ohms) ** 2 if ohms else 0.0
        signs = np.where(np.isin(np.arange(len(nominal)), loose), np.sign(slopes), 0.0)
        values = (nominal * (1.0 + signs * tolerances))[None, :]
        found[network.elements[k].name] = (_largest_drops(network, values, tolerances)[k], values[:, k])
    return found


def _largest_drops(network: Network, values: Array, tolerances: Array) -> Array:
    """The largest voltage across each element for every value set, shape (elements, sets), sources up or down.

    Voltages are sums of what each source makes, so the worst of their corners is known without trying them.
    """
    total, room = np.zeros(values.T.shape), np.zeros(values.T.shape)
    for k, element in enumerate(network.elements):
        if element.kind.is_source and element.value:
            alone = values.copy()
            alone[:, [j for j, other in enumerate(network.elements) if other.kind.is_source and j != k]] = 0.0
            solution = network.solve(alone)
            share = np.array([np.broadcast_to(solution.drop(e.name), len(values)) for e in network.elements])
            total += share
            room += tolerances[k] * np.abs(share)
    return np.asarray(np.abs(total) + room)


def _across_sources(setup: Setup, sheet: Sheet, known: Mapping[str, float]) -> Read:
    """The worst power of resistors straight across a voltage source: all that is sure beside unmarked parts."""
    found = {}
    for name, leads in setup.connections.items():
        part = sheet.parts[name]
        if part.kind.is_source or name not in known or known[name] <= 0:
            continue
        across = [source for source in setup.across(*leads) if source in setup.driving(sheet.parts)]
        volts = [_top(source, sheet, known) for source in across if sheet.parts[source].kind.unit == VOLT]
        if volts:
            lowest = known[name] * (1.0 - as_ratio(part.tolerance) if part.tolerance else 1.0)
            found[name] = max(volts) ** 2 / lowest
    return found


def _top(source: str, sheet: Sheet, known: Mapping[str, float]) -> float:
    tolerance = sheet.parts[source].tolerance
    return abs(known[source]) * (1.0 + as_ratio(tolerance) if tolerance else 1.0)


def _largest_in(setup: Setup, sheet: Sheet, read: Read) -> float:
    known = _known(setup, sheet, read)
    open_circuit = [0.0]
    for name in setup.driving(sheet.parts):
        part = sheet.parts[name]
        if part.kind.unit == VOLT:
            open_circuit.append(_top(name, sheet, known))
        elif part.compliance:
            open_circuit.append(float(part.compliance))
        elif part.internal_resistance:
            open_circuit.append(_top(name, sheet, known) * part.internal_resistance)
    missing = [name for name in setup.connections if name not in known and name not in setup.sources_off]
    solved = None if missing else _largest_between(*_circuit(setup, sheet, known))
    return max(sum(open_circuit) if solved is None else solved, *open_circuit)


@lru_cache(maxsize=256)
def _largest_between(elements: tuple[Element, ...], reference: str, tolerances: tuple[float, ...]) -> float | None:
    """The largest voltage between two joined nodes, closed and opened; None where nothing solves the closed circuit."""
    largest: float | None = None
    for left in _opened(elements):
        try:
            found = _between_nodes([elements[k] for k in left], reference, [tolerances[k] for k in left])
        except NetworkError:
            if largest is None:
                return None
            continue
        largest = max(found, largest or 0.0)
    return largest


def _between_nodes(elements: list[Element], reference: str, tolerances: list[float]) -> float:
    network = Network(elements, reference)
    nodes = list(network.node_index)
    if network.is_nonlinear:
        top = np.array(
            [e.value * (1.0 + t) if e.kind.is_source else e.value for e, t in zip(elements, tolerances, strict=True)]
        )
        return network.solve(top).largest_voltage
    islands = np.array([network.island_of(node) for node in nodes])
    joined = islands[:, None] == islands[None, :]
    total = room = np.zeros((len(nodes), len(nodes)))
    for k, element in enumerate(elements):
        if element.kind.is_source and element.value:
            values = [0.0 if e.kind.is_source and j != k else e.value for j, e in enumerate(elements)]
            potentials = network.solve(np.array(values)).potentials
            share = potentials[:, None] - potentials[None, :]
            total, room = total + share, room + tolerances[k] * np.abs(share)
    return float(np.where(joined, np.abs(total) + room, 0.0).max())
