"""One circuit in many variants at once: other values, other joints, and how every answer hangs on every value.

Where a tolerance is asked about, values change a little; where a fault is, a part may be open, shorted, or stand
elsewhere. All variants are solved in one batch, by the inverses of their matrices (modified nodal analysis as in
`network`), so that slopes, and what a meter meets at each point, come without another solution.

All in ohms, volts and amperes; signs as in `network`. A faint leak ties every node to the reference, so that no variant
is without a solution: what is open shows as more than `OPEN_OHMS`.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from recensor.core.circuit import Across, Through
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say
from recensor.core.solving.laws import LAWS, Element, NetworkError, NonlinearLaw
from recensor.core.solving.nonlinear import Alike, settle
from recensor.core.uncertainty import Array

# Between two points that nothing joins lie more ohms than this.
OPEN_OHMS = 1e8

_LEAK, _GLANCING_LEAK = 1e-11, 1e-8

# Which nonlinear elements are plain resistances, (variants, elements); none are where nothing is said.
Plain = NDArray[np.bool_] | None

# What the most ideal source still has inside, in ohms, so that no loop of such is without a solution.
_INSIDE = 1e-6


class MovedLead(NamedTuple):
    """In one variant a lead of an element (0 or 1) is at another node, None for an empty row."""

    variant: int
    element: str
    lead: int
    node: str | None


@dataclass(frozen=True)
class Responses:
    """What was asked of every variant: `answers` (variants, asked), and how they hang on the elements.

    `by_value` (variants, asked, elements) has the derivatives by the logarithm of each value, `by_inner` those by the
    logarithm of a source's own resistance. `meets` (variants, asked) is what a meter meets: the ohms between two
    points, every source off, or the siemens seen from the gap in which an ammeter stands.
    """

    answers: Array
    by_value: Array
    by_inner: Array
    meets: Array


@dataclass(frozen=True)
class _System:
    """Of every variant: which element has which lead where, its matrix, what drives it, what each element conducts.

    Nonlinear elements conduct as they do at their operating point; `beside` is what flows through them besides.
    """

    incidence: Array
    matrix: Array
    driven: Array
    conducts: Array
    beside: Array


class Variants:
    """A circuit whose elements keep their kinds, asked the same in every variant.

    `asked` are voltages, currents, and resistances of a circuit that nothing drives.
    """

    def __init__(self, elements: Sequence[Element], reference: str, asked: Sequence[Across | Through]) -> None:
        self.elements = tuple(elements)
        nodes = dict.fromkeys(node for e in self.elements for node in (e.first, e.second))
        nodes.pop(reference, None)
        # The last two columns are an empty row of the board, and the reference, which is taken out at the end.
        self._nodes = {node: k for k, node in enumerate([*nodes, None])}
        self._nodes[reference] = self._ground = len(self._nodes)
        self._held = [k for k, e in enumerate(self.elements) if LAWS[e.kind].has_branch]
        self._pushed = [k for k, e in enumerate(self.elements) if LAWS[e.kind].pushes]
        self._signs = {k: LAWS[self.elements[k].kind].measures(0.0)[1] for k in self._held}
        self._nonlinear = [k for k, e in enumerate(self.elements) if e.kind.is_nonlinear and e.rated]
        self._alike = self._by_law()
        held = {*self._held, *self._pushed, *self._nonlinear}
        self._ohmic = [k for k in range(len(self.elements)) if k not in held]
        self._place = {e.name: k for k, e in enumerate(self.elements)}
        incidence = np.zeros((self._ground + 1, len(self.elements)))
        for k, e in enumerate(self.elements):
            incidence[self._nodes[e.first], k] += 1.0
            incidence[self._nodes[e.second], k] -= 1.0
        self._incidence = incidence
        self._across = [(k, one) for k, one in enumerate(asked) if one.is_across]
        self._through = [(k, self._place[one.part]) for k, one in enumerate(asked) if one.is_through]
        self._ohms = np.array([target.measurand is RESISTANCE for target in asked], bool)
        self._asked = len(asked)
        self._between = np.zeros((self._asked, self._ground + 1))
        for k, across in self._across:
            self._between[k, self._nodes[across.red]] += 1.0
            self._between[k, self._nodes[across.black]] -= 1.0

    @property
    def is_nonlinear(self) -> bool:
        """Whether it has a lamp or a diode that follows its law."""
        return bool(self._nonlinear)

    def has_element(self, name: str) -> bool:
        """Whether the circuit has an element."""
        return name in self._place

    def has_node(self, node: str | None) -> bool:
        """Whether the circuit has a node; an empty row it always has."""
        return node in self._nodes

    def _by_law(self) -> list[Alike]:
        laws: dict[NonlinearLaw, list[int]] = {}
        for place, k in enumerate(self._nonlinear):
            law = LAWS[self.elements[k].kind]
            if isinstance(law, NonlinearLaw):
                laws.setdefault(law, []).append(place)
        nonlinear = [self.elements[k] for k in self._nonlinear]
        return [Alike.of(law, places, [nonlinear[place] for place in places]) for law, places in laws.items()]

    def glance(self, values: Array, inner: Array, moved: Iterable[MovedLead] = (), *, plain: Plain = None) -> Array:
        """The answers alone, (variants, asked), several times as fast, and good to a few per mille.

        Every node has a leak like that of a meter, so that what touches nothing is at the reference. Raises the errors
        of `respond`.
        """
        system = self._system(values, inner, moved, _GLANCING_LEAK, plain)
        ground, incidence = self._ground, system.incidence
        right = np.concatenate([system.driven[:, :, None], self._ohmic_sources(len(values))], axis=2)
        try:
            solved = np.linalg.solve(system.matrix, right)
        except np.linalg.LinAlgError:
            raise self._too_far_apart() from None
        answers = self._between[:, :ground] @ solved[:, :ground, 0, None]
        answers = answers[:, :, 0]
        conducts = system.conducts
        for k, part in self._through:
            if part in self._held:
                answers[:, k] = self._signs[part] * solved[:, ground + self._held.index(part), 0]
                continue
            drop = (np.broadcast_to(incidence, (len(values), *incidence.shape[1:]))[:, :ground, part]
                    * solved[:, :ground, 0]).sum(axis=1)  # fmt: skip
            own = conducts[:, part] * drop
            answers[:, k] = values[:, part] - own if part in self._pushed else own + system.beside[:, part]
        for j, k in enumerate(np.flatnonzero(self._ohms).tolist()):
            answers[:, k] = (self._between[k, :ground] * solved[:, :ground, 1 + j]).sum(axis=1)
        return np.asarray(answers, np.float64)

    def _ohmic_sources(self, count: int) -> Array:
        """One ampere into each pair of points between which a resistance is asked for."""
        size = self._ground + len(self._held)
        right = np.zeros((size, int(self._ohms.sum())))
        right[: self._ground] = self._between[self._ohms, : self._ground].T
        return np.broadcast_to(right, (count, *right.shape))

    def respond(
        self, values: Array, inner: Array, moved: Iterable[MovedLead] = (), *, plain: Plain = None
    ) -> Responses:
        """Answer for variants of these values and sources' own resistances, both of shape (variants, elements).

        A nonlinear element that is `plain` in a variant has ohms for its value there, and follows Ohm's law. Raises
        `NetworkError` where values are too far apart to be counted with.
        """
        system = self._system(values, inner, moved, _LEAK, plain)
        try:
            inverse = np.asarray(np.linalg.inv(system.matrix), np.float64)
        except np.linalg.LinAlgError:
            raise self._too_far_apart() from None
        return self._answers(values, inner, system, inverse, plain)

    def _too_far_apart(self) -> NetworkError:
        names = [e.name for e in self.elements]
        return NetworkError(say("solving.values_too_far_apart"), names)

    def _system(self, values: Array, inner: Array, moved: Iterable[MovedLead], leak: float, plain: Plain) -> _System:
        """The equations of each variant, the nonlinear elements at their operating points."""
        incidence = self._joined(len(values), moved)
        conducts = self._conducting(values, inner, plain)
        system = self._equations(values, inner, incidence, conducts, leak)
        return self._operating(values, system, plain) if self._nonlinear else system

    def _operating(self, values: Array, system: _System, plain: Plain) -> _System:
        """The same with nonlinear elements as they are where their laws and the rest of the circuit agree."""
        ground, nonlinear, count = self._ground, self._nonlinear, len(values)
        joined = np.broadcast_to(system.incidence[:, :ground][:, :, nonlinear], (count, ground, len(nonlinear)))
        right = np.zeros((count, system.matrix.shape[1], 1 + len(nonlinear)))
        right[:, :, 0] = system.driven
        right[:, :ground, 1:] = joined
        try:
            seen = np.linalg.solve(system.matrix, right)[:, :ground]
        except np.linalg.LinAlgError:
            raise self._too_far_apart() from None
        standing = system.conducts[:, nonlinear]
        ports = np.swapaxes(joined, 1, 2) @ seen
        is_plain = np.zeros((count, len(nonlinear)), bool) if plain is None else plain[:, nonlinear]
        siemens, beside = settle(self._alike, values[:, nonlinear], ports, standing, plain=is_plain)
        matrix, driven = system.matrix.copy(), system.driven.copy()
        more = joined * (siemens - standing)[:, None, :]
        matrix[:, :ground, :ground] += more @ np.swapaxes(joined, 1, 2)
        driven[:, :ground] -= (joined * beside[:, None, :]).sum(axis=2)
        conducts, through = system.conducts.copy(), np.zeros_like(system.conducts)
        conducts[:, nonlinear], through[:, nonlinear] = siemens, beside
        return replace(system, matrix=matrix, driven=driven, conducts=conducts, beside=through)

    def _equations(self, values: Array, inner: Array, incidence: Array, conducts: Array, leak: float) -> _System:
        """The equations with each element conducting so much."""
        count, ground, held = len(values), self._ground, self._held
        size = ground + len(held)
        matrix = np.zeros((count, size, size))
        weighted = incidence * conducts[:, None, :]
        matrix[:, :ground, :ground] = (weighted @ np.swapaxes(incidence, 1, 2))[:, :ground, :ground]
        diagonal = np.arange(ground)
        matrix[:, diagonal, diagonal] += leak
        branches = ground + np.arange(len(held))
        matrix[:, :ground, ground:] = -incidence[:, :ground, held]
        matrix[:, ground:, :ground] = -np.swapaxes(incidence[:, :ground, held], 1, 2)
        matrix[:, branches, branches] = -np.maximum(inner[:, held], _INSIDE)
        driven = np.zeros((count, size))
        driven[:, ground:] = -values[:, held]
        driven[:, :ground] += (incidence[:, :ground, self._pushed] * values[:, None, self._pushed]).sum(axis=2)
        return _System(incidence, matrix, driven, conducts, np.zeros_like(conducts))

    def _conducting(self, values: Array, inner: Array, plain: Plain) -> Array:
        """What each element conducts beside its other doings, in siemens; a nonlinear one to begin with as stated."""
        conducts = np.zeros_like(values)
        conducts[:, self._ohmic] = 1.0 / values[:, self._ohmic]
        for k in self._nonlinear:
            rated = self.elements[k].rated
            stated = (rated.amperes if rated else 1.0) / values[:, k]
            conducts[:, k] = stated if plain is None else np.where(plain[:, k], 1.0 / values[:, k], stated)
        beside = inner[:, self._pushed]
        conducts[:, self._pushed] = np.divide(1.0, beside, out=np.zeros_like(beside), where=beside > 0)
        return conducts

    def _joined(self, count: int, moved: Iterable[MovedLead]) -> Array:
        """Which element has which lead at which node: one table for all variants, or one for each."""
        moved = list(moved)
        if not moved:
            return self._incidence[None]
        incidence = np.repeat(self._incidence[None], count, axis=0)
        for variant, name, lead, node in moved:
            k = self._place[name]
            sign, element = 1.0 - 2.0 * lead, self.elements[k]
            incidence[variant, self._nodes[(element.first, element.second)[lead]], k] -= sign
            incidence[variant, self._nodes[node], k] += sign
        return incidence

    def _answers(self, values: Array, inner: Array, system: _System, inverse: Array, plain: Plain) -> Responses:
        incidence, conducts, driven = system.incidence, system.conducts, system.driven
        count, ground = len(values), self._ground
        joined = np.broadcast_to(incidence[:, :ground], (count, ground, len(self.elements)))
        solved = (inverse @ driven[:, :, None])[:, :, 0]
        drops = (solved[:, None, :ground] @ joined)[:, 0]
        measures = np.zeros((count, self._asked, len(driven[0])))
        measures[:, :, :ground] = self._between[:, :ground]
        fixed = np.zeros((count, self._asked))
        for k, part in self._through:
            if part in self._held:
                measures[:, k, ground + self._held.index(part)] = self._signs[part]
            else:
                pushes = part in self._pushed
                own = conducts[:, part, None] * joined[:, :, part]
                measures[:, k, :ground] = -own if pushes else own
                fixed[:, k] = values[:, part] if pushes else system.beside[:, part]
        adjoints = measures @ inverse
        across = adjoints[:, :, :ground] @ joined
        between = adjoints[:, :, ground:]
        answers = (adjoints @ driven[:, :, None])[:, :, 0] + fixed
        follows = self._follows(values, conducts, drops, plain)
        by_value = self._slopes(values, across, drops, between, follows, conducts)
        by_inner = np.zeros_like(by_value)
        by_inner[:, :, self._held] = between * (solved[:, None, ground:] * inner[:, None, self._held])
        meets = (adjoints * measures).sum(axis=2)
        answers = np.where(self._ohms, meets, answers)
        for k, part in self._through:
            if part in self._held:
                meets[:, k] = -meets[:, k]
            else:
                meets[:, k] = conducts[:, part] * (1.0 - across[:, k, part])
        return Responses(answers, by_value, by_inner, meets)

    def _follows(self, values: Array, conducts: Array, drops: Array, plain: Plain) -> Array:
        """How each element's current follows the logarithm of its value, its drop held."""
        follows = -conducts * drops
        for one in self._alike:
            columns = [self._nonlinear[place] for place in one.places]
            tangent = one.law.at(one.rated, values[:, columns], drops[:, columns])
            nonlinear = tangent.by_value * values[:, columns]
            follows[:, columns] = (
                nonlinear if plain is None else np.where(plain[:, columns], follows[:, columns], nonlinear)
            )
        return follows

    def _slopes(
        self, values: Array, across: Array, drops: Array, between: Array, follows: Array, conducts: Array
    ) -> Array:
        """Derivatives by the logarithm of each value; a resistance is its own adjoint."""
        slopes = np.zeros_like(across)
        ohmic, pushed = [*self._ohmic, *self._nonlinear], self._pushed
        slopes[:, :, ohmic] = -across[:, :, ohmic] * follows[:, None, ohmic]
        if self._ohms.any():
            own = across[:, :, ohmic] ** 2 * conducts[:, None, ohmic]
            slopes[:, :, ohmic] = np.where(self._ohms[:, None], own, slopes[:, :, ohmic])
        slopes[:, :, pushed] = across[:, :, pushed] * values[:, None, pushed]
        slopes[:, :, self._held] = -between * values[:, None, self._held]
        for k, part in self._through:
            if part in self._pushed:
                slopes[:, k, part] += values[:, part]
            elif part not in self._held:
                slopes[:, k, part] += follows[:, part]
        return slopes
