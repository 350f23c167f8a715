"""The circuit as built against the circuit as drawn: the same, the same in another order, or how it differs.

Parts are told apart by their names, so both circuits have the same parts and only the joints can differ.
A kind says whether it matters which lead is where. What differs is told as the fewest acts that mend it.
"""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from recensor.core.boards.breadboard import Board, Built, Hole, Strip
from recensor.core.boards.matching import DrawnCircuit, Nodes, Placed
from recensor.core.boards.repairs import BoardRepair, Fault, RepairSearch
from recensor.core.circuit import Leads, Setup, Sheet
from recensor.core.quantity import VOLTAGE
from recensor.core.sentences import say, several
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

    kind: Fault
    text: str
    parts: tuple[str, ...] = ()
    holes: tuple[Hole, ...] = ()
    alone: Mapping[str, Leads] | None = None


@dataclass(frozen=True)
class BoardComparison:
    """A board held against a drawn setup. `nodes` names each net of the board that stands for a drawn node."""

    likeness: Likeness
    differences: tuple[Difference, ...]
    nodes: Mapping[Strip, str]


def compare(sheet: Sheet, setup: Setup, built: Built) -> BoardComparison:
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
        self.setup = setup
        self.built = built
        self.nets = built.nets()
        drawn = {name: leads for name, leads in setup.connections.items() if name not in setup.sources_off}
        self.all_drawn = drawn
        self.placed = {name: ends for name, ends in self.nets.connections.items() if name in drawn}
        polarised = [name for name in self.placed if sheet.parts[name].kind.polarised]
        self.drawn = DrawnCircuit({name: leads for name, leads in drawn.items() if name in self.placed}, polarised)

    def comparison(self) -> BoardComparison:
        """The likeness, every difference, and what each net stands for."""
        counts = (*self._missing(), *self._extra())
        exact = self.drawn.matching(self.placed)
        if exact is not None:
            named = {net: node for node, net in exact.items()}
            return BoardComparison(Likeness.DIFFERS if counts else Likeness.SAME, counts, named)
        acts = RepairSearch(self.sheet, self.setup, self.built, self.drawn, self.placed).acts()
        if not acts:
            nodes = _nearest(self.drawn, self.placed)
            named = {net: node for node, net in nodes.items()}
            return BoardComparison(Likeness.DIFFERS, (*counts, *self._misfits(nodes)), named)
        nodes = acts[-1].nodes
        differences = (*counts, *(self._difference(act, nodes) for act in acts))
        named = self._names_of_nets(nodes)
        if not counts and self._same_voltages(acts, named):
            return BoardComparison(Likeness.ANOTHER_ORDER, differences, named)
        return BoardComparison(Likeness.DIFFERS, differences, named)

    def _missing(self) -> Iterator[Difference]:
        for name in self.all_drawn:
            if name not in self.placed:
                yield Difference(
                    Fault.MISSING, say("boards.not_on_board", name=name), (name,), alone=self._without(name)
                )

    def _extra(self) -> Iterator[Difference]:
        for name in self.nets.connections:
            if name not in self.all_drawn:
                holes = self.built.placements[name].holes
                text = say("boards.on_board_and_not", name=name)
                yield Difference(Fault.EXTRA_PART, text, (name,), holes)

    def _names_of_nets(self, nodes: Nodes) -> dict[Strip, str]:
        """The net of the board that stands for each node: of several that a mend would join, the fullest."""
        leads = Counter(net for pair in self.placed.values() for net in pair)
        votes: dict[str, Counter[Strip]] = {}
        for name, pair in self.all_drawn.items():
            for node, net in zip(pair, self.placed.get(name, ()), strict=False):
                if nodes.get(node) == net:
                    votes.setdefault(node, Counter())[net] += 1
        return {net: node for node, net in nodes.items() if leads[net] or node in votes}

    def _difference(self, act: BoardRepair, nodes: Nodes) -> Difference:
        """An act in words: what is wrong, and what to do."""
        if act.fault in (Fault.JUMPER_MISSING, Fault.LINK_MISSING):
            return self._unjoined(act, nodes)
        name = act.names[0]
        holes = self.built.placements[name].holes
        if act.fault is Fault.PULLED:
            one, other = (hole.name for hole in holes)
            return Difference(act.fault, say("boards.link_from_pulled_put", name=name, one=one, other=other), (), holes)
        if act.fault is Fault.EXTRA_CONNECTION:
            one, other = (hole.name for hole in holes)
            shorted = [part for part, (x, y) in self.placed.items() if x == y and part in self.drawn.polarised]
            warning = say("boards.it_shorts", shorted=" and ".join(shorted)) if shorted else ""
            what = several(say("boards.from_joins_what_not", name=name, one=one, other=other), warning)
            return Difference(act.fault, what, (), holes)
        if act.fault is Fault.REVERSED:
            turned = {**self.all_drawn, name: self.all_drawn[name][::-1]}
            text = say("boards.wrong_way_round_in", name=name, holes_name=holes[0].name)
            return Difference(act.fault, text, (name,), holes, turned)
        if act.fault is Fault.EXCHANGED:
            return self._exchanged(act)
        return self._misplaced(act, nodes)

    def _exchanged(self, act: BoardRepair) -> Difference:
        one, other = act.names
        holes = (*self.built.placements[one].holes, *self.built.placements[other].holes)
        places = [" and ".join(hole.name for hole in self.built.placements[name].holes) for name in act.names]
        text = say("boards.and_exchanged_belongs_in", one=one, other=other, places=places[1], places_2=places[0])
        alone = {**self.all_drawn, one: self.all_drawn[other], other: self.all_drawn[one]}
        return Difference(act.fault, text, act.names, holes, alone)

    def _unjoined(self, act: BoardRepair, nodes: Nodes) -> Difference:
        """Two nets that a jumper or link should join."""
        node = next((node for node, net in nodes.items() if net == act.nets[0]), "")
        what = "jumper" if act.fault is Fault.JUMPER_MISSING else "link"
        ends = [self._free_hole(net, None) for net in act.nets]
        rows = " and ".join(self._words(net) for net in act.nets)
        text = say("boards.node_in_two_pieces", node=node, rows=rows, what=what)
        if ends[0] and ends[1]:
            first, second = ends[0].name, ends[1].name
            text = say("boards.node_in_two_pieces_from_to", node=node, rows=rows, what=what, first=first, second=second)
        parts = tuple(name for name, pair in self.placed.items() if act.nets[1] in pair)
        apart = say("boards.piece_of_node", node=node, row=self._words(act.nets[1]))
        alone: dict[str, Leads] = {}
        for name in self.all_drawn:
            first, second = (apart if net == act.nets[1] else end for end, net in self._ends(name, nodes, act))
            alone[name] = (first, second)
        return Difference(act.fault, text, parts, tuple(hole for hole in ends if hole), alone)

    def _ends(self, name: str, nodes: Nodes, act: BoardRepair) -> list[tuple[str, Strip | None]]:
        """A part's drawn nodes, each with the net that its lead is in on the board."""
        ends = self.all_drawn[name]
        if name not in self.placed:
            return [(end, None) for end in ends]
        here, mended = self.placed[name], act.mended[name]
        straight = nodes.get(ends[0]) == mended[0] and nodes.get(ends[1]) == mended[1]
        return list(zip(ends, here if straight else here[::-1], strict=True))

    def _misplaced(self, act: BoardRepair, nodes: Nodes) -> Difference:
        """A lead that should be elsewhere: what it should meet, and the hole to move it to."""
        name, board = act.names[0], self.built.board
        hole = self.built.placements[name].holes[act.lead]
        wanted, ordinal = act.mended[name][act.lead], ("first", "second")[act.lead]
        target = self._free_hole(wanted, hole) if wanted.column else None
        move = say("boards.move_it_to", target=target.name) if target else ""
        alone = self._moved(name, act.node, hole, nodes)
        here = board.strip(hole).words
        if act.fault is Fault.BOTH_LEADS_JOINED:
            text = several(say("boards.both_leads_in_shorted", name=name, here=here, ordinal=ordinal), move)
            return Difference(act.fault, text, (name,), self.built.placements[name].holes, alone)
        if self.placed[name][0] == self.placed[name][1] and self.sheet.parts[name].kind.polarised:
            text = several(say("boards.shorted_both_leads_joined_in", name=name, words=here), move)
            return Difference(act.fault, text, (name,), self.built.placements[name].holes, alone)
        mates = {
            self.built.placements[other].holes[k]: other
            for other in self.placed
            for k, net in enumerate(self.placed[other])
            if other != name and net == wanted
        }
        beside = min(mates, key=lambda one: _distance(board, one, hole), default=None)
        if beside is None:
            kind = "boards.lead_not_at_node" if wanted.column else "boards.lead_meets_others"
            text = several(say(kind, name=name, ordinal=ordinal, here=here, node=act.node), move)
            return Difference(act.fault, text, (name,), (hole,), alone)
        mate, there = mates[beside], board.strip(beside).words
        text = say(
            "boards.lead_meets_nothing", name=name, ordinal=ordinal, here=here, mate=mate, node=act.node, there=there
        )
        text = several(text, move)
        return Difference(act.fault, text, (name, mate), (hole, beside), alone)

    def _misfits(self, nodes: Nodes) -> Iterator[Difference]:
        """Where no few acts mend the board: every lead that is not where most of the circuit wants it."""
        yield from self._pulled()
        for name, ends in self.drawn.leads.items():
            here, holes = self.placed[name], self.built.placements[name].holes
            wanted = [nodes.get(end) for end in ends]
            if here[0] == here[1] and ends[0] != ends[1]:
                words = self.built.board.strip(holes[0]).words
                text = say("boards.both_leads_joined_in", name=name, words=words)
                if self.sheet.parts[name].kind.polarised:
                    text = say("boards.shorted_both_leads_joined_in", name=name, words=words)
                yield Difference(Fault.BOTH_LEADS_JOINED, text, (name,), holes, self._without(name))
                continue
            straight = sum(w == h for w, h in zip(wanted, here, strict=True))
            crossed = sum(w == h for w, h in zip(wanted, here[::-1], strict=True))
            if name in self.drawn.polarised and crossed == 2:
                text = say("boards.wrong_way_round_in", name=name, holes_name=holes[0].name)
                turned = {**self.all_drawn, name: ends[::-1]}
                yield Difference(Fault.REVERSED, text, (name,), holes, turned)
                continue
            order = (0, 1) if straight >= crossed or name in self.drawn.polarised else (1, 0)
            for k, end in enumerate(ends):
                lead = order[k]
                if here[lead] != wanted[k]:
                    after = {**self.placed, name: _with(here, lead, wanted[k] or Strip("", 0))}
                    act = BoardRepair(Fault.MISPLACED, (name,), after, nodes, lead, end)
                    yield self._misplaced(act, nodes)

    def _pulled(self) -> Iterator[Difference]:
        for placement in self.built.placements.values():
            first, second = (self.nets.of(hole) for hole in placement.holes)
            if placement.pulled and first != second:
                one, other = (hole.name for hole in placement.holes)
                text = say("boards.link_from_pulled_put_back", placement=placement.name, one=one, other=other)
                yield Difference(Fault.PULLED, text, (), placement.holes)

    def _without(self, name: str) -> dict[str, Leads]:
        return {key: leads for key, leads in self.all_drawn.items() if key != name}

    def _moved(self, name: str, node: str, hole: Hole, nodes: Nodes) -> dict[str, Leads]:
        """The drawn connections with one lead where it is on the board."""
        net = self.nets.of(hole)
        there = next((other for other, known in nodes.items() if known == net), net.words)
        first, second = (there if end == node else end for end in self.all_drawn[name])
        return self._without(name) if first == second else {**self.all_drawn, name: (first, second)}

    def _words(self, net: Strip) -> str:
        """A net by the strips that something is pushed into."""
        return " with ".join(strip.words for strip in self.nets.strips(net)) or net.words

    def _free_hole(self, net: Strip, near: Hole | None) -> Hole | None:
        taken = {hole for placement in self.built.placements.values() for hole in placement.holes}
        strips = self.nets.strips(net) or [net]
        free = [hole for strip in strips for hole in self.built.board.holes(strip) if hole not in taken]
        if near is None:
            return min(free, default=None)
        return min(free, key=lambda hole: (abs(hole.row - near.row), hole.column != near.column, hole), default=None)

    def _same_voltages(self, acts: Sequence[BoardRepair], named: Mapping[Strip, str]) -> bool:
        """Whether every voltage that is asked for is the same in both, sign included; a turned source never is.

        Without any asked for it is every voltage between two drawn nodes. Each part must do the same in both.
        """
        if any(act.fault is Fault.REVERSED for act in acts):
            return False
        drawn = operate(self.sheet, Setup("drawn", self.setup.reference, self.all_drawn))
        built = operate(self.sheet, built_setup(self.sheet, self.built, self.setup.reference, named))
        if drawn.problem or built.problem:
            return False
        for name, part in drawn.parts.items():
            there = built.parts.get(name)
            if there is None or abs(abs(part.volts) - abs(there.volts)) > 1e-9 * drawn.solution.driving_voltage:
                return False
            if abs(abs(part.amperes) - abs(there.amperes)) > 1e-9 * drawn.solution.driving_current:
                return False
        nodes = list(dict.fromkeys(node for leads in self.all_drawn.values() for node in leads))
        asked = [
            target.nodes
            for target in self.sheet.asked
            if target.is_across and target.setup == self.setup.name and target.measurand is VOLTAGE
        ] or [(node, nodes[0]) for node in nodes[1:]]
        scale = 1e-9 * drawn.solution.driving_voltage
        for pair in asked:
            network, other = drawn.solution.network, built.solution.network
            if not network.has_joined(*pair):
                continue
            if not other.has_joined(*pair):
                return False
            if abs(float(drawn.solution.voltage(*pair)) - float(built.solution.voltage(*pair))) > scale:
                return False
        return True


def _with(pair: tuple[Strip, Strip], lead: int, net: Strip) -> tuple[Strip, Strip]:
    return (net, pair[1]) if lead == 0 else (pair[0], net)


def _distance(board: Board, hole: Hole, other: Hole) -> int:
    """How far apart two holes are for a hand, those of the other half of the board farther."""
    return abs(hole.row - other.row) + 20 * (board.strip(hole).column != board.strip(other).column)


def _nearest(drawn: DrawnCircuit, placed: Placed) -> Nodes:
    """A net for each drawn node where no exact ones are to be had: each the one that most of its leads are in."""
    votes: Counter[tuple[str, Strip]] = Counter()
    for name, pair in drawn.leads.items():
        weight = 3 if name in drawn.polarised else 1
        ways = [placed[name]] if name in drawn.polarised else [placed[name], placed[name][::-1]]
        for way in ways:
            votes.update(dict.fromkeys(zip(pair, way, strict=True), weight))
    nodes: Nodes = {}
    for (node, net), _ in sorted(votes.items(), key=lambda one: (-one[1], one[0][0], one[0][1].row)):
        if node not in nodes and net not in nodes.values():
            nodes[node] = net
    return nodes
