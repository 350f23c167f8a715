"""The circuit as built against the circuit as drawn: the same, the same in another order, or how it differs.

Parts are told apart by their names, so both circuits have the same parts and only the joints can differ.
A kind says whether it matters which lead is where.
"""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from recensor.core.boards.breadboard import Built, Hole, Nets, Strip
from recensor.core.circuit import Leads, Setup, Sheet
from recensor.core.solving import operate


class Likeness(StrEnum):
    """What can be said of a board against its drawing."""

    SAME = "same circuit"
    ANOTHER_ORDER = "electrically the same in another order"
    DIFFERS = "differs"


@dataclass(frozen=True)
class Difference:
    """One thing that is built otherwise, in words with holes; `parts` and `holes` are concerned.

    `alone` has the drawn connections with just this difference in them, where that is a circuit.
    """

    kind: str
    text: str
    parts: tuple[str, ...] = ()
    holes: tuple[Hole, ...] = ()
    alone: Mapping[str, Leads] | None = None


@dataclass(frozen=True)
class Comparison:
    """A board held against a drawn setup. `nodes` names each net of the board that stands for a drawn node."""

    likeness: Likeness
    differences: tuple[Difference, ...]
    nodes: Mapping[Strip, str]


def compare(sheet: Sheet, setup: Setup, built: Built) -> Comparison:
    """Hold a board against a drawn setup, whose sources that are off are expected off the board."""
    return _Comparer(sheet, setup, built).comparison()


def built_setup(sheet: Sheet, built: Built, reference: str, nodes: Mapping[Strip, str]) -> Setup:
    """The circuit that the board makes; its nets are named as drawn where they stand for a drawn node."""
    connections = {
        name: (nodes.get(first, first.words), nodes.get(second, second.words))
        for name, (first, second) in built.nets().connections.items()
        if name in sheet.parts and first != second
    }
    found = {node for leads in connections.values() for node in leads}
    return Setup("as built", reference if reference in found else min(found, default=reference), connections)


class _Comparer:
    def __init__(self, sheet: Sheet, setup: Setup, built: Built) -> None:
        self.sheet = sheet
        self.built = built
        self.nets: Nets = built.nets()
        self.drawn = {name: leads for name, leads in setup.connections.items() if name not in setup.sources_off}
        self.placed = {name: ends for name, ends in self.nets.connections.items() if name in self.drawn}
        self.unpolarised = [name for name in self.placed if not sheet.parts[name].kind.polarised]
        self.turned: set[str] = set()
        self.assigned: dict[str, Strip] = {}
        # Begun with the first part either way round; what misfits least is what was meant.
        followed = [self._followed(is_turned) for is_turned in (False, True)]
        tried = followed + [self._assign(weight, turned) for _, turned in followed for weight in (3, 0)]
        self.assigned, self.turned = min(tried, key=lambda one: self._misfits(*one))

    def comparison(self) -> Comparison:
        """The likeness, every difference, and what each net stands for."""
        differences = (*self._missing(), *self._pulled(), *self._polarity(), *self._joints())
        named = {net: node for node, net in self.assigned.items()}
        if not differences:
            return Comparison(Likeness.SAME, (), named)
        if set(self.placed) == set(self.drawn) == set(self.nets.connections) and self._same_electrically():
            return Comparison(Likeness.ANOTHER_ORDER, differences, named)
        return Comparison(Likeness.DIFFERS, differences, named)

    def _followed(self, is_turned: bool) -> tuple[dict[str, Strip], set[str]]:
        """Match nodes to nets part by part from the first source on: exact where the circuits are the same."""
        assigned: dict[str, Strip] = {}
        turned: set[str] = set()
        left = sorted(self.placed, key=lambda name: name in self.unpolarised)
        while left:
            name = next((one for one in left if any(node in assigned for node in self.drawn[one])), left[0])
            left.remove(name)
            (a, b), (x, y) = self.drawn[name], self.placed[name]
            straight = (assigned.get(a) == x) + (assigned.get(b) == y)
            crossed = (assigned.get(a) == y) + (assigned.get(b) == x)
            if crossed > straight or (not assigned and is_turned):
                x, y = y, x
                turned |= {name} & set(self.unpolarised)
            for node, net in ((a, x), (b, y)):
                if net not in assigned.values():
                    assigned.setdefault(node, net)
        return assigned, turned

    def _assign(self, source_weight: int, turned: set[str]) -> tuple[dict[str, Strip], set[str]]:
        """Match each drawn node to the net that most of its leads are in, turning parts where that fits better."""
        self.turned = set(turned)
        for _ in range(4):
            votes: Counter[tuple[str, Strip]] = Counter()
            for name in self.placed:
                for pair in self._pairs(name):
                    votes[pair] += 1 if name in self.unpolarised else source_weight
            self.assigned = {}
            used: set[Strip] = set()
            for (node, net), _ in sorted(votes.items(), key=lambda one: (-one[1], one[0][0], one[0][1].row)):
                if node not in self.assigned and net not in used:
                    self.assigned[node] = net
                    used.add(net)
            before = set(self.turned)
            for name in self.unpolarised:
                fits = self._fitting(name)
                self.turned ^= {name}
                if self._fitting(name) <= fits:
                    self.turned ^= {name}
            if before == self.turned:
                break
        return self.assigned, set(self.turned)

    def _misfits(self, assigned: dict[str, Strip], turned: set[str]) -> int:
        self.assigned, self.turned = assigned, turned
        return sum(
            1 if name not in self.unpolarised and self._is_turned(name) else 2 - self._fitting(name)
            for name in self.placed
        )

    def _pairs(self, name: str) -> Iterator[tuple[str, Strip]]:
        first, second = self.placed[name]
        yield from zip(self.drawn[name], (second, first) if name in self.turned else (first, second), strict=True)

    def _fitting(self, name: str) -> int:
        return sum(self.assigned.get(node) == net for node, net in self._pairs(name))

    def _is_turned(self, name: str) -> bool:
        plus, minus = (self.assigned.get(node) for node in self.drawn[name])
        return self.placed[name] == (minus, plus) and plus != minus

    def _missing(self) -> Iterator[Difference]:
        for name in self.drawn:
            if name not in self.placed:
                yield Difference("missing", f"{name} is not on the board.", (name,), alone=self._without(name))
        for name in self.nets.connections:
            if name not in self.drawn:
                holes = self.built.placements[name].holes
                yield Difference("extra", f"{name} is on the board and not in this circuit.", (name,), holes)

    def _pulled(self) -> Iterator[Difference]:
        for placement in self.built.placements.values():
            first, second = (self.nets.of(hole) for hole in placement.holes)
            if placement.pulled and first != second:
                one, other = (hole.name for hole in placement.holes)
                text = f"The link {placement.name} from {one} to {other} is pulled: put it back."
                yield Difference("link pulled", text, (), placement.holes)

    def _polarity(self) -> Iterator[Difference]:
        for name in self.placed:
            if name not in self.unpolarised and self._is_turned(name):
                holes = self.built.placements[name].holes
                text = f"{name} is the wrong way round: its + is in {holes[0].name}."
                turned = {**self.drawn, name: self.drawn[name][::-1]}
                yield Difference("source turned", text, (name,), holes, turned)

    def _joints(self) -> Iterator[Difference]:
        """Parts shorted by their own row, leads in the wrong net, and nodes joined that are not one."""
        told: set[str] = set()
        for name, (first, second) in self.placed.items():
            holes = self.built.placements[name].holes
            if first == second:
                told |= set(self.drawn[name])
                text = f"Both leads of {name} are in {first.words}: it is shorted by its own row."
                if name not in self.unpolarised:
                    text = f"{name} is shorted: both its leads are joined, in {first.words}. Do not switch it on."
                yield Difference("shorted by its row", text, (name,), holes, self._without(name))
            elif name in self.unpolarised or not self._is_turned(name):
                order = holes[::-1] if name in self.turned else holes
                for (node, net), hole, ordinal in zip(self._pairs(name), order, ("first", "second"), strict=True):
                    if self.assigned.get(node, net) != net:
                        yield self._misplaced(name, ordinal, node, hole)
        for node in dict.fromkeys(node for leads in self.drawn.values() for node in leads):
            if node not in self.assigned and node not in told and any(node in self.drawn[name] for name in self.placed):
                yield self._joined(node)

    def _misplaced(self, name: str, ordinal: str, node: str, hole: Hole) -> Difference:
        """A lead that should be elsewhere: what it should meet, and the hole to move it to."""
        wanted, board = self.assigned[node], self.built.board
        mates = {
            self.built.placements[other].holes[k]: other
            for other, leads in self.drawn.items()
            if other != name and node in leads and other in self.placed
            for k, net in enumerate(self.placed[other])
            if net == wanted
        }
        here, half = board.strip(hole).words, board.strip(hole).column
        beside = min(
            mates, key=lambda one: abs(one.row - hole.row) + 20 * (board.strip(one).column != half), default=None
        )
        target = self._free_hole(wanted, hole)
        move = f"; move it to {target.name}" if target else ""
        if beside is None:
            text = f"{name}'s {ordinal} lead is in {here}, not at node {node}{move}."
            return Difference("lead misplaced", text, (name,), (hole,), self._moved(name, node, hole))
        mate, there = mates[beside], board.strip(beside).words
        kind = "lead one row off" if abs(beside.row - hole.row) == 1 and not hole.is_rail else "lead misplaced"
        text = f"{name}'s {ordinal} lead is in {here}, {mate}'s at node {node} in {there}: nothing joins them{move}."
        return Difference(kind, text, (name, mate), (hole, beside), self._moved(name, node, hole))

    def _joined(self, node: str) -> Difference:
        """A drawn node without a net of its own: its leads share one with another node."""
        names = [name for name, leads in self.drawn.items() if node in leads and name in self.placed]
        nets = {net for name in names for at, net in self._pairs(name) if at == node}
        others = sorted(other for other, net in self.assigned.items() if net in nets)
        where = ", ".join(sorted(net.words for net in nets))
        text = f"Node {node} and node {' and '.join(others)} are joined, in {where}: they are two nodes in the drawing."
        holes = tuple(
            hole for name in names for hole in self.built.placements[name].holes if self.nets.of(hole) in nets
        )
        one = others[0] if others else node
        joined = {name: (one if a == node else a, one if b == node else b) for name, (a, b) in self.drawn.items()}
        return Difference("nodes joined", text, tuple(names), holes, {n: p for n, p in joined.items() if p[0] != p[1]})

    def _without(self, name: str) -> dict[str, Leads]:
        return {key: leads for key, leads in self.drawn.items() if key != name}

    def _moved(self, name: str, node: str, hole: Hole) -> dict[str, Leads]:
        """The drawn connections with one lead where it is on the board."""
        net = self.nets.of(hole)
        there = next((other for other, known in self.assigned.items() if known == net), net.words)
        first, second = (there if end == node else end for end in self.drawn[name])
        return self._without(name) if first == second else {**self.drawn, name: (first, second)}

    def _free_hole(self, net: Strip, near: Hole) -> Hole | None:
        taken = {hole for one in self.built.placements.values() for hole in one.holes}
        free = [hole for strip in self.nets.strips(net) for hole in self.built.board.holes(strip) if hole not in taken]
        return min(free, key=lambda hole: (abs(hole.row - near.row), hole.column != near.column, hole), default=None)

    def _same_electrically(self) -> bool:
        """Whether every part takes the same current in both, tried with two sets of odd values."""
        draw = np.random.default_rng(5)
        for _ in range(2):
            values = {name: float(draw.uniform(1.0, 9.0)) for name in self.drawn}
            answers = []
            for connections in (self.drawn, {n: (a.words, b.words) for n, (a, b) in self.placed.items()}):
                setup = Setup("tried", next(iter(connections.values()))[1], connections)
                operating = operate(self.sheet, setup, values)
                if operating.problem:
                    return False
                currents = {name: operating.parts[name].amperes for name in self.drawn}
                answers.append([abs(i) if name in self.unpolarised else i for name, i in currents.items()])
            if not np.allclose(answers[0], answers[1], rtol=1e-7, atol=1e-9):
                return False
        return True
