"""A setup with values, solved: what every part drops, carries and takes."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from recensor.core.circuit import RESISTOR, Leads, Part, Setup, Sheet
from recensor.core.quantity import counts_as_zero
from recensor.core.sentences import say
from recensor.core.solving.laws import Element, NetworkError, Rated
from recensor.core.solving.network import Network
from recensor.core.solving.solution import Asked, Solution
from recensor.core.solving.values import STAND_IN_OHMS, stated


class UnmarkedError(NetworkError):
    """Parts have no value, and nothing can be calculated without them."""


@dataclass(frozen=True)
class PartState:
    """What one part drops from its first lead to its second, carries, and takes up or delivers; SI units."""

    volts: float
    amperes: float
    watts: float


def elements_of(setup: Setup, parts: Mapping[str, Part], known: Mapping[str, float]) -> list[Element]:
    """A setup's parts with these values in ohms, volts or amperes; a part without a value is left out.

    What is off is replaced as its kind says; internal resistance goes out with it. What is open is left out.
    """
    elements = []
    wires = set(setup.wires(parts))
    for name, (first, second) in setup.closed.items():
        part = parts[name]
        if name in wires or part.kind.is_wire:
            elements.append(Element(name, part.kind, first, second, 0.0))
        elif name in known and name not in setup.sources_off:
            inside = part.internal_resistance
            elements.append(Element(name, part.kind, first, second, known[name], inside, _rated(part)))
    return elements


def _rated(part: Part) -> Rated | None:
    """What is known of a nonlinear part beside its voltage; None where that is not enough for its law."""
    if not part.kind.is_nonlinear or part.nominal is None or part.current is None:
        return None
    return Rated(float(part.current), float(part.cold or 0.0))


@dataclass(frozen=True)
class Operating:
    """A setup solved with its values. `problem` says why there is no solution, where there is none."""

    setup: Setup
    elements: tuple[Element, ...]
    problem: NetworkError | None
    _solution: Solution | None = None

    @property
    def solution(self) -> Solution:
        """The solved network. Raises the problem."""
        if self._solution is None:
            raise self.problem or NetworkError(say("solving.no_solution"))
        return self._solution

    @cached_property
    def parts(self) -> dict[str, PartState]:
        """The state of every part that is in the circuit; empty where there is no solution."""
        if self._solution is None:
            return {}
        states = {}
        for element in self.elements:
            volts, amperes = float(self._solution.drop(element.name)), float(self._solution.current(element.name))
            states[element.name] = PartState(volts, amperes, volts * amperes)
        return states

    def carries(self, name: str) -> bool:
        """Whether more than round-off flows through a part."""
        return not counts_as_zero(self.parts[name].amperes, self.solution.driving_current)


def operate(
    sheet: Sheet, setup: Setup, values: Mapping[str, float] | None = None, asked: Sequence[Asked] = ()
) -> Operating:
    """Solve a setup, with stated values unless others are given; never raises for a circuit that has no solution.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + 2k")
    >>> round(operate(sheet, sheet.setup()).parts["R2"].volts, 6)
    6.0
    """
    known = stated(sheet, setup).known if values is None else values
    elements = tuple(elements_of(setup, sheet.parts, known))
    solved = {element.name for element in elements}
    missing = [name for name in setup.closed if name not in solved and name not in setup.sources_off]
    if missing:
        return Operating(
            setup,
            elements,
            UnmarkedError(say("solving.no_value", missing=" and ".join(missing), count=len(missing)), missing),
        )
    try:
        return Operating(setup, elements, None, Network(elements, setup.reference).solve(asked=asked))
    except NetworkError as error:
        return Operating(setup, elements, error)


def dead(
    setup: Setup, parts: Mapping[str, Part], known: Mapping[str, float], *, left_in: bool = False
) -> list[Element]:
    """What an ohmmeter meets: parts that drive nothing, and a wire for each source that is off.

    Other sources are taken out, or with `left_in` switched off in their places. A lamp is there with its cold
    resistance; where that is not stated, and for a diode, some resistance stands in.
    """
    taken_out = frozenset(name for name in setup.connections if parts[name].kind.is_source) - setup.sources_off
    if left_in:
        off = replace(setup, sources_off=setup.sources_off | taken_out)
        return [_cold(element) for element in elements_of(off, parts, known)]
    return [_cold(element) for element in elements_of(setup, parts, known) if element.name not in taken_out]


def _cold(element: Element) -> Element:
    """What an ohmmeter meets in place of a nonlinear part."""
    if not element.kind.is_nonlinear:
        return element
    ohms = float(element.rated.cold) if element.rated else 0.0
    return Element(element.name, RESISTOR, element.first, element.second, ohms or STAND_IN_OHMS)


def resistance_between(
    passive: Sequence[Element], pairs: Sequence[Leads]
) -> list[tuple[float, dict[str, float]] | None]:
    """The resistance in ohms across each pair and its derivative by every value; None where the circuit is open.

    All pairs are solved together. Raises the errors of `Network`.
    """
    network = Network(passive, passive[0].first) if passive else None
    closed = [pair for pair in pairs if network and network.has_joined(*pair)]
    if not network or not closed:
        return [None] * len(pairs)
    names = [element.name for element in passive]
    found = {
        pair: (ohms, dict(zip(names, slopes.tolist(), strict=True)))
        for pair, ohms, slopes in zip(closed, *network.resistances(closed), strict=True)
    }
    return [found.get(pair) for pair in pairs]
