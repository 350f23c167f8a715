"""One circuit in many variants at once: other values, other joints, and how every answer hangs on every value.

Where a tolerance is asked about, values change a little; where a fault is, a part may be open, shorted, or stand
elsewhere. All variants are solved in one batch, by the inverses of their matrices (modified nodal analysis as in
`network`), so that slopes, and what a meter meets at each point, come without another solution.

All in ohms, volts and amperes; signs as in `network`. A faint leak ties every node to the reference, so that no variant
is without a solution: what is open shows as more than `OPEN_OHMS`.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from recensor.core.circuit import Across, Through
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say
from recensor.core.solving.laws import LAWS, Element, NetworkError
from recensor.core.uncertainty import Array

# Between two points that nothing joins lie more ohms than this.
OPEN_OHMS = 1e8

_LEAK, _GLANCING_LEAK = 1e-11, 1e-8

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
        held = {*self._held, *self._pushed}
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

    def has_element(self, name: str) -> bool:
        """Whether the circuit has an element."""
        return name in self._place

    def has_node(self, node: str | None) -> bool:
        """Whether the circuit has a node; an empty row it always has."""
        return node in self._nodes

    def glance(self, values: Array, inner: Array, moved: Iterable[MovedLead] = ()) -> Array:
        """The answers alone, (variants, asked), several times as fast, and good to a few per mille.

        Every node has a leak like that of a meter, so that what touches nothing is at the reference. Raises the errors
        of `respond`.
        """
        incidence, matrix, driven = self._system(values, inner, moved, _GLANCING_LEAK)
        ground = self._ground
        right = np.concatenate([driven[:, :, None], self._ohmic_sources(len(values))], axis=2)
        try:
            solved = np.linalg.solve(matrix, right)
        except np.linalg.LinAlgError:
            raise self._too_far_apart() from None
        answers = self._between[:, :ground] @ solved[:, :ground, 0, None]
        answers = answers[:, :, 0]
        conducts = self._conducting(values, inner)
        for k, part in self._through:
            if part in self._held:
                answers[:, k] = self._signs[part] * solved[:, ground + self._held.index(part), 0]
                continue
            drop = (np.broadcast_to(incidence, (len(values), *incidence.shape[1:]))[:, :ground, part]
                    * solved[:, :ground, 0]).sum(axis=1)  # fmt: skip
            own = conducts[:, part] * drop
            answers[:, k] = values[:, part] - own if part in self._pushed else own
        for j, k in enumerate(np.flatnonzero(self._ohms).tolist()):
            answers[:, k] = (self._between[k, :ground] * solved[:, :ground, 1 + j]).sum(axis=1)
        return np.asarray(answers, np.float64)

    def _ohmic_sources(self, count: int) -> Array:
        """One ampere into each pair of points between which a resistance is asked for."""
        size = self._ground + len(self._held)
        right = np.zeros((size, int(self._ohms.sum())))
        right[: self._ground] = self._between[self._ohms, : self._ground].T
        return np.broadcast_to(right, (count, *right.shape))

    def respond(self, values: Array, inner: Array, moved: Iterable[MovedLead] = ()) -> Responses:
        """Answer for variants of these values and sources' own resistances, both of shape (variants, elements).

        Raises `NetworkError` where values are too far apart to be counted with.
        """
        incidence, matrix, driven = self._system(values, inner, moved, _LEAK)
        try:
            inverse = np.asarray(np.linalg.inv(matrix), np.float64)
        except np.linalg.LinAlgError:
            raise self._too_far_apart() from None
        return self._answers(values, inner, incidence, self._conducting(values, inner), inverse, driven)

    def _too_far_apart(self) -> NetworkError:
        names = [e.name for e in self.elements]
        return NetworkError(say("solving.values_too_far_apart"), names)

    def _system(
        self, values: Array, inner: Array, moved: Iterable[MovedLead], leak: float
    ) -> tuple[Array, Array, Array]:
        """Which element has which lead where, the matrix of each variant, and what drives it."""
        count, ground, held = len(values), self._ground, self._held
        incidence = self._joined(count, moved)
        size = ground + len(held)
        conducts = self._conducting(values, inner)
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
        return incidence, matrix, driven

    def _conducting(self, values: Array, inner: Array) -> Array:
        """What each element conducts beside its other doings, in siemens."""
        conducts = np.zeros_like(values)
        conducts[:, self._ohmic] = 1.0 / values[:, self._ohmic]
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

    def _answers(
        self, values: Array, inner: Array, incidence: Array, conducts: Array, inverse: Array, driven: Array
    ) -> Responses:
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
                fixed[:, k] = values[:, part] if pushes else 0.0
        adjoints = measures @ inverse
        across = adjoints[:, :, :ground] @ joined
        between = adjoints[:, :, ground:]
        answers = (adjoints @ driven[:, :, None])[:, :, 0] + fixed
        by_value = self._slopes(values, conducts, across, drops, between, answers)
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

    def _slopes(
        self, values: Array, conducts: Array, across: Array, drops: Array, between: Array, answers: Array
    ) -> Array:
        """Derivatives by the logarithm of each value; a resistance is its own adjoint."""
        own = np.where(self._ohms[:, None], -across, drops[:, None, :]) if self._ohms.any() else drops[:, None, :]
        slopes = np.zeros_like(across)
        ohmic, pushed = self._ohmic, self._pushed
        slopes[:, :, ohmic] = across[:, :, ohmic] * own[:, :, ohmic] * conducts[:, None, ohmic]
        slopes[:, :, pushed] = across[:, :, pushed] * values[:, None, pushed]
        slopes[:, :, self._held] = -between * values[:, None, self._held]
        for k, part in self._through:
            if part in self._pushed:
                slopes[:, k, part] += values[:, part]
            elif part not in self._held:
                slopes[:, k, part] -= answers[:, k]
        return np.where(self._ohms[:, None], -slopes, slopes) if self._ohms.any() else slopes
