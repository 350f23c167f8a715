"""A lamp or a diode in its circuit, as a person works it out: by the load line, and by guessing again and again."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from recensor.core.circuit import CURRENT_SOURCE, RESISTOR, VOLTAGE_SOURCE
from recensor.core.solving.laws import Element, NetworkError, NonlinearLaw, Rated, law_of
from recensor.core.solving.network import Network, solve

_TEST = "\0test"

# So many guesses are made at most, and no more once nothing changes by more than this share.
_MOST_GUESSES, _SETTLED = 12, 1e-3

# What stands for a diode that blocks, in ohms.
_BLOCKED = 1e9

# So many places has a part's own curve.
_CURVE, _FINE = 80, 4000


@dataclass(frozen=True)
class LoadLine:
    """What the rest of a circuit gives a lamp or diode: `volts` with the part out, `ohms` looking back from its place.

    `curve` are the part's own volts and amperes; (`at_volts`, `at_amperes`) is where both meet.
    """

    part: str
    volts: float
    ohms: float
    curve: tuple[tuple[float, float], ...]
    at_volts: float
    at_amperes: float

    @property
    def shorted(self) -> float:
        """The amperes that flow where the part would be a wire."""
        return self.volts / self.ohms


@dataclass(frozen=True)
class Guess:
    """One round: what was assumed of each nonlinear part, in words' terms volts or ohms, and what then lies across it.

    `assumed` are ohms of a lamp and volts of a diode; `volts` and `amperes` what the straight circuit then gives.
    """

    part: str
    is_ohms: bool
    assumed: float
    volts: float
    amperes: float


def nonlinear_parts(elements: Sequence[Element]) -> list[Element]:
    """The elements whose law is no straight line, as far as it is known."""
    return [element for element in elements if isinstance(law_of(element), NonlinearLaw)]


def load_line(elements: Sequence[Element], reference: str) -> LoadLine | None:
    """The load line of the only nonlinear part; None where there are several, or the rest is no source for it."""
    curved = nonlinear_parts(elements)
    if len(curved) != 1:
        return None
    (part,) = curved
    law, rated = law_of(part), part.rated
    rest = [element for element in elements if element is not part]
    if not isinstance(law, NonlinearLaw) or rated is None:
        return None
    test = Element(_TEST, CURRENT_SOURCE, part.first, part.second, 0.0)
    try:
        network = Network([*rest, test], reference)
        if not network.joined(part.first, part.second):
            return None
        values = np.array([[e.value for e in rest] + [0.0], [e.value for e in rest] + [1.0]])
        seen = np.asarray(network.solve(values).voltage(part.first, part.second))
        whole = solve(elements, reference)
    except NetworkError:
        return None
    volts, ohms = float(seen[0]), float(seen[1] - seen[0])
    if not volts or ohms <= 0:
        return None
    curve = tuple(_curve(law, rated, part.value, volts, 1.15 * abs(volts / ohms)))
    drop = float(whole.drop(part.name))
    return LoadLine(part.name, volts, ohms, curve, drop, float(whole.current(part.name)))


def _curve(law: NonlinearLaw, rated: Rated, value: float, volts: float, top: float) -> Iterator[tuple[float, float]]:
    """A part's own volts and amperes up to some volts, as far as the amperes stay below the top; evenly along it."""
    places = np.linspace(0.0, volts, _FINE)
    amperes = np.asarray(law.at(rated, value, places).amperes)
    inside = np.abs(amperes) <= top
    x, y = places[inside], amperes[inside]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x) / volts, np.diff(y) / top))])
    chosen = np.unique(np.searchsorted(along, np.linspace(0.0, along[-1], _CURVE)))
    yield from zip(x[chosen].tolist(), y[chosen].tolist(), strict=True)


def guesses(elements: Sequence[Element], reference: str) -> Iterator[list[Guess]]:
    """Round after round: each lamp a resistance, each diode a voltage; the straight circuit says what to take next."""
    curved = nonlinear_parts(elements)
    assumed = {e.name: e.value if e.kind.polarised else _ohms(e, e.value) for e in curved}
    for _ in range(_MOST_GUESSES):
        straight = [_straight(e, assumed[e.name]) if e in curved else e for e in elements]
        try:
            solution = solve(straight, reference)
        except NetworkError:
            return
        found = []
        for element in curved:
            volts, amperes = float(solution.drop(element.name)), float(solution.current(element.name))
            flows = -amperes if element.kind.polarised and assumed[element.name] < _BLOCKED else amperes
            found.append(Guess(element.name, not element.kind.polarised, assumed[element.name], volts, flows))
        yield found
        after = {e.name: _next(e, guess) for e, guess in zip(curved, found, strict=True)}
        if all(abs(after[name] - assumed[name]) <= _SETTLED * abs(assumed[name]) for name in after):
            return
        assumed = after


def _straight(element: Element, assumed: float) -> Element:
    """What stands for a nonlinear part in a round."""
    if element.kind.polarised and assumed < _BLOCKED:
        return element._replace(kind=VOLTAGE_SOURCE, value=assumed, rated=None)
    return element._replace(kind=RESISTOR, value=assumed, rated=None)


def _next(element: Element, guess: Guess) -> float:
    """What is assumed next: of a lamp its resistance at those volts, of a diode its drop at that current."""
    law, rated = law_of(element), element.rated
    if not isinstance(law, NonlinearLaw) or rated is None:
        return guess.assumed
    if guess.is_ohms:
        return _ohms(element, guess.volts)
    if guess.amperes <= 0:
        return _BLOCKED
    # The drop at which its law gives that current, by halving.
    low, high = 0.0, 4.0 * element.value
    for _ in range(60):
        middle = (low + high) / 2.0
        if float(law.at(rated, element.value, middle).amperes) < guess.amperes:
            low = middle
        else:
            high = middle
    return (low + high) / 2.0


def _ohms(element: Element, volts: float) -> float:
    """A lamp's volts over amperes at some volts."""
    law, rated = law_of(element), element.rated
    if not isinstance(law, NonlinearLaw) or rated is None:
        return element.value
    small = 1e-3 * element.value
    volts = volts if abs(volts) > small else small
    return float(volts / law.at(rated, element.value, volts).amperes)
