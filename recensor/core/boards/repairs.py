"""The fewest acts that make a board the drawn circuit: one where one is enough, else two, else none are known.

An act is what a hand does: a lead moved, two parts exchanged, a source turned, a link put back, a jumper put in or
taken out. Of acts that mend a board equally, the one that takes things where a plan would have put them comes first.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property
from itertools import combinations

from recensor.core.boards.breadboard import BoardError, Built, Piece, Strip
from recensor.core.boards.layout import planned
from recensor.core.boards.matching import DrawnCircuit, Nodes, Placed
from recensor.core.circuit import Setup, Sheet

# Up to so many parts two acts at once are looked for.
_MOST_FOR_TWO = 24


class Fault(StrEnum):
    """What is built otherwise."""

    MISSING = "part missing"
    EXTRA_PART = "extra part"
    PULLED = "link pulled"
    REVERSED = "source reversed"
    EXTRA_CONNECTION = "extra connection"
    BOTH_LEADS_JOINED = "both leads joined"
    ONE_ROW_OFF = "lead one row off"
    EXCHANGED = "parts exchanged"
    JUMPER_MISSING = "jumper missing"
    LINK_MISSING = "link missing"
    MISPLACED = "lead misplaced"


@dataclass(frozen=True)
class BoardRepair:
    """One act that mends: what was wrong, and the parts, link or jumper concerned.

    For a lead: `lead` is 0 or 1, `node` the drawn node that it belongs to. `nets` are those to be joined. `mended`
    are all leads' places afterwards, and `nodes` the nets that then stand for the drawn nodes.
    """

    fault: Fault
    names: tuple[str, ...]
    mended: Placed
    nodes: Nodes
    lead: int = 0
    node: str = ""
    nets: tuple[Strip, ...] = ()


class RepairSearch:
    """Looks for acts on one board."""

    def __init__(self, sheet: Sheet, setup: Setup, built: Built, drawn: DrawnCircuit, placed: Placed) -> None:
        self.sheet = sheet
        self.setup = setup
        self.built = built
        self.nets = built.nets()
        self.drawn = drawn
        self.placed = placed

    def acts(self) -> list[BoardRepair]:
        """The fewest acts found, best first; empty where none are needed or none were found."""
        if self.drawn.matching(self.placed):
            return []
        single = self._best(self._single(self.drawn, self.placed))
        if single:
            return [single]
        return self._two() if len(self.drawn.leads) <= _MOST_FOR_TWO else []

    def _best(self, acts: Iterator[BoardRepair]) -> BoardRepair | None:
        """The act to be named of those that mend equally; a plan is asked for only where there are several."""
        repairs = list(acts)
        best = min(repairs, key=self._rank) if len(repairs) > 1 else next(iter(repairs), None)
        if best and best.fault is Fault.JUMPER_MISSING and self._planned_between(*best.nets) is Piece.LINK:
            best = replace(best, fault=Fault.LINK_MISSING)
        return best

    def _two(self) -> list[BoardRepair]:
        """Two acts: a quick one first and any other behind it, or two leads of different parts."""
        for first, placed in self._quick(self.drawn, self.placed):
            second = self._best(self._single(self.drawn, placed))
            if second:
                both = [replace(first, mended=second.mended, nodes=second.nodes), second]
                return sorted(both, key=lambda act: act.fault is not Fault.BOTH_LEADS_JOINED)
        for one, other in combinations(self.drawn.leads, 2):
            for nodes in self.drawn.without(one, other).matchings(self.placed):
                for act in self._moves(self.drawn, self.placed, one, nodes):
                    also = next(self._moves(self.drawn, act.mended, other, {**nodes, **act.nodes}), None)
                    if also:
                        return [replace(act, mended=also.mended, nodes=also.nodes), also]
        return []

    def _single(self, drawn: DrawnCircuit, placed: Placed) -> Iterator[BoardRepair]:
        """Every single act after which the board is the drawn circuit."""
        for act, after in self._quick(drawn, placed):
            nodes = drawn.matching(after)
            if nodes:
                yield replace(act, mended=after, nodes=nodes)
        yield from self._exchanges(drawn, placed)
        for name in drawn.leads:
            for nodes in drawn.without(name).matchings(placed):
                yield from self._moves(drawn, placed, name, nodes)
        yield from self._joins(drawn, placed)

    def _quick(self, drawn: DrawnCircuit, placed: Placed) -> Iterator[tuple[BoardRepair, Placed]]:
        """Links put back, jumpers and links taken out, sources turned, each with the leads' places afterwards."""
        for placement in self.built.placements.values():
            first, second = (self.nets.of(hole) for hole in placement.holes)
            if placement.piece is Piece.PART:
                continue
            if placement.pulled and first != second:
                yield BoardRepair(Fault.PULLED, (placement.name,), placed, {}), _merged(placed, first, second)
            elif not placement.pulled:
                without = self.built.take_out(placement.name).nets()
                after = {name: without.connections[name] for name in placed}
                if placed is self.placed and len(_used(after)) > len(_used(placed)):
                    yield BoardRepair(Fault.EXTRA_CONNECTION, (placement.name,), placed, {}), after
        for name in drawn.polarised & drawn.leads.keys():
            yield BoardRepair(Fault.REVERSED, (name,), placed, {}), {**placed, name: placed[name][::-1]}

    def _exchanges(self, drawn: DrawnCircuit, placed: Placed) -> Iterator[BoardRepair]:
        """Two parts of one kind that are in each other's places."""
        for one, other in combinations(drawn.leads, 2):
            alike = self.sheet.parts[one].kind is self.sheet.parts[other].kind
            if alike and set(placed[one]) != set(placed[other]):
                after = {**placed, one: placed[other], other: placed[one]}
                nodes = drawn.matching(after)
                if nodes:
                    yield BoardRepair(Fault.EXCHANGED, (one, other), after, nodes)

    def _moves(self, drawn: DrawnCircuit, placed: Placed, name: str, nodes: Nodes) -> Iterator[BoardRepair]:
        """The lead of a part that is elsewhere than where the rest of the circuit wants it."""
        ends, here = drawn.leads[name], placed[name]
        taken = {net: node for node, net in nodes.items()}
        ways = [(0, 1)] if name in drawn.polarised else [(0, 1), (1, 0)]
        for way in ways:
            wanted = [nodes.get(ends[k]) for k in way]  # of the first lead in its hole, and of the second
            for lead in (0, 1):
                kept, moved = 1 - lead, ends[way[lead]]
                stays = ends[way[kept]]
                fits = wanted[kept] == here[kept] if wanted[kept] else taken.get(here[kept], stays) == stays
                if not fits or ends[0] == ends[1]:
                    continue
                target = wanted[lead]
                if target == here[lead] or (target is None and here[lead] not in {**taken, here[kept]: stays}):
                    continue  # it is not this lead
                if target is None:
                    target = Strip("", 0)  # an empty row
                after = {**placed, name: (target, here[1]) if lead == 0 else (here[0], target)}
                strips = {**nodes, stays: here[kept], moved: target}
                if len(set(strips.values())) == len(strips):
                    yield BoardRepair(self._lead_fault(name, lead, target), (name,), after, strips, lead, moved)

    def _lead_fault(self, name: str, lead: int, wanted: Strip) -> Fault:
        """What a lead that is elsewhere is called, by where it is."""
        holes, board = self.built.placements[name].holes, self.built.board
        if board.strip(holes[0]) == board.strip(holes[1]):
            return Fault.BOTH_LEADS_JOINED
        hole = holes[lead]
        rows = {strip.row for strip in self.nets.strips(wanted) if strip.column == board.strip(hole).column}
        return Fault.ONE_ROW_OFF if {hole.row - 1, hole.row + 1} & rows and not hole.is_rail else Fault.MISPLACED

    def _joins(self, drawn: DrawnCircuit, placed: Placed) -> Iterator[BoardRepair]:
        """Two nets that are one node in the drawing: a jumper or a link is missing between them."""
        used = _used(placed)
        if len(used) != len({node for leads in drawn.leads.values() for node in leads}) + 1:
            return
        for first, second in combinations(used, 2):
            after = _merged(placed, first, second)
            nodes = drawn.matching(after)
            if nodes:
                yield BoardRepair(Fault.JUMPER_MISSING, (), after, nodes, nets=(first, second))

    def _rank(self, act: BoardRepair) -> tuple[bool, float, int]:
        """Acts that a plan agrees with first, then the commoner faults, then those that leave the most in its row."""
        order: float = _ORDER.index(act.fault)
        if act.fault is Fault.JUMPER_MISSING and any(self._leads_in(net) == 1 for net in act.nets):
            order = _ORDER.index(Fault.MISPLACED) + 0.5  # rather a single lead that is somewhere else
        return not self._as_planned(act), order, self._company(act)

    def _leads_in(self, net: Strip) -> int:
        return sum(net in pair for pair in self.placed.values())

    def _company(self, act: BoardRepair) -> int:
        """How much else is in the row of a lead that is to be moved: a lead that went astray is mostly alone."""
        if not act.node:
            return 0
        board = self.built.board
        strip = board.strip(self.built.placements[act.names[0]].holes[act.lead])
        there = [board.strip(hole) for placement in self.built.placements.values() for hole in placement.holes]
        return there.count(strip)

    def _as_planned(self, act: BoardRepair) -> bool:
        """Whether an act takes things where the plan has them, or out of where it has none."""
        plan = self._plan
        if plan is None:
            return act.fault in (Fault.PULLED, Fault.REVERSED)
        holes = {name: placement.holes for name, placement in self.built.placements.items()}
        wanted = {name: placement.holes for name, placement in plan.placements.items()}
        if act.fault is Fault.EXTRA_CONNECTION:
            return wanted.get(act.names[0]) != holes[act.names[0]]
        if act.fault is Fault.JUMPER_MISSING:
            return self._planned_between(*act.nets) is not None
        if act.fault is Fault.EXCHANGED:
            one, other = act.names
            return (wanted.get(one), wanted.get(other)) == (holes[other], holes[one])
        if act.fault is Fault.REVERSED:
            return wanted.get(act.names[0]) == holes[act.names[0]][::-1]
        if act.node:
            own, kept = wanted.get(act.names[0]), 1 - act.lead
            return own is not None and own[kept] == holes[act.names[0]][kept] and own != holes[act.names[0]]
        return True

    def _planned_between(self, first: Strip, second: Strip) -> Piece | None:
        """The link or jumper that the plan has between two nets, and that is not on the board."""
        for name, placement in self._plan.placements.items() if self._plan else ():
            there = self.built.placements.get(name)
            joins = {self.nets.of(hole) for hole in placement.holes} == {first, second}
            if placement.piece is not Piece.PART and joins and not (there and there.holes == placement.holes):
                return placement.piece
        return None

    @cached_property
    def _plan(self) -> Built | None:
        """The plan that the board was built by, if most of it stands as planned."""
        behind, alone = tuple(self._behind_links()), tuple(self._behind_links(taken_out=True))
        passive = tuple(name for name in behind if not self.sheet.parts[name].kind.is_source)
        best, agreed = None, 0.5
        for links in dict.fromkeys((behind, passive, (), (*behind, *alone))):
            try:
                plan = planned(self.sheet, self.setup, links, self.built.board)
            except BoardError:
                continue
            stands = [
                name in self.built.placements and self.built.placements[name].holes == placement.holes
                for name, placement in plan.placements.items()
            ]
            if sum(stands) > agreed * len(stands):
                best, agreed = plan, sum(stands) / len(stands)
        return best

    def _behind_links(self, *, taken_out: bool = False) -> Iterator[str]:
        """The parts whose first lead is alone in a row with a first end of a link, or with none: it is `taken_out`."""
        board = self.built.board
        leads: dict[Strip, list[tuple[str, int]]] = {}
        ends: set[Strip] = set()
        for placement in self.built.placements.values():
            if placement.piece is Piece.LINK:
                ends.add(board.strip(placement.holes[0]))
            for k, hole in enumerate(placement.holes if placement.piece is Piece.PART else ()):
                leads.setdefault(board.strip(hole), []).append((placement.name, k))
        for strip, there in leads.items():
            if (
                (strip in ends) is not taken_out
                and len(there) == 1
                and there[0][1] == 0
                and there[0][0] in self.drawn.leads
            ):
                yield there[0][0]


# The commoner faults first, of those that mend a board equally.
_ORDER = (
    Fault.PULLED, Fault.REVERSED, Fault.EXTRA_CONNECTION, Fault.BOTH_LEADS_JOINED, Fault.ONE_ROW_OFF, Fault.EXCHANGED,
    Fault.JUMPER_MISSING, Fault.MISPLACED,
)  # fmt: skip


def _merged(placed: Placed, first: Strip, second: Strip) -> Mapping[str, tuple[Strip, Strip]]:
    """The leads' places with two nets made one."""
    return {name: (first if x == second else x, first if y == second else y) for name, (x, y) in placed.items()}


def _used(placed: Placed) -> list[Strip]:
    """The nets that parts have a lead in."""
    return list(dict.fromkeys(net for pair in placed.values() for net in pair))
