"""A planned layout: where a careful person would push a drawn circuit into a board.

The first source's leads go to the left rails. Every node gets strips as it needs them, parts stand along one
column between two strips, and where a current is asked for a part's first lead has a strip of its own, joined
by a removable link. One hole of every strip stays free for a probe or a jumper.
"""

from collections.abc import Collection, Iterator
from dataclasses import dataclass, field

from recensor.core.boards.breadboard import (
    FULL,
    HALF,
    LEFT,
    LONGEST,
    RAILS,
    RIGHT,
    SHORTEST,
    Board,
    BoardError,
    Built,
    Hole,
    Piece,
    Placement,
    Strip,
)
from recensor.core.circuit import Setup, Sheet
from recensor.core.sentences import say

# How far apart the strips of a part's two nodes are put, best first, in rows.
_STEPS = (4, 3, 5, 6, 7, 8, 9, 10, 11, 12)
_OVER = 30.0  # what lying over another part costs, in pitches
_LONGER = 2.0  # what one strip more costs


def planned(sheet: Sheet, setup: Setup, links: Collection[str] = (), board: Board | None = None) -> Built:
    """Lay a setup out, with a removable link at every part named in `links`.

    On a half board where it fits, else on a full one. Raises `BoardError` when that is too small too.
    """
    boards = [board] if board else [Board(HALF), Board(FULL)]
    for tried in boards:
        try:
            return _Planner(tried, sheet, setup, frozenset(links)).lay_out()
        except BoardError as error:
            refused = error
    raise refused


@dataclass
class _Planner:
    board: Board
    sheet: Sheet
    setup: Setup
    links: frozenset[str]
    built: Built = field(init=False)
    strips: dict[str, list[Strip]] = field(default_factory=dict)
    owner: dict[Strip, str] = field(default_factory=dict)
    taken: set[Hole] = field(default_factory=set)
    covered: dict[tuple[str, int], int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.built = Built(self.board)

    def lay_out(self) -> Built:
        """Place everything, in the order in which it is met from the supply on."""
        order = list(self._in_order())
        supply = next((name for name in order if self.sheet.parts[name].kind.is_source), None)
        if supply:
            self._supply(supply)
        for name in order:
            if not self.sheet.parts[name].kind.is_source:
                self._passive(name)
        for name in order:
            if self.sheet.parts[name].kind.is_source and name != supply:
                self._source(name)
        return self.built

    def _in_order(self) -> Iterator[str]:
        """Parts by their distance from the first source's +, each once; not back through a source from its −."""
        left = {name: leads for name, leads in self.setup.connections.items() if name not in self.setup.sources_off}
        first = next((name for name in left if self.sheet.parts[name].kind.is_source), next(iter(left), ""))
        waiting = [left[first][0]] if first else []
        reached = set(waiting)
        while left:
            node = waiting.pop(0) if waiting else next(iter(left.values()))[0]
            for name in [key for key, leads in left.items() if node in leads]:
                for other in left.pop(name):
                    if other not in reached and not self.sheet.parts[name].kind.is_source:
                        reached.add(other)
                        waiting.append(other)
                yield name

    def _supply(self, name: str) -> None:
        plus, minus = self.setup.connections[name]
        first = self._behind_link(name, plus) if name in self.links else plus
        self._own(first, self.board.strip(Hole("+L", 1)))
        self._own(minus, self.board.strip(Hole("-L", 1)))
        self._put(name, Piece.PART, Hole("+L", 1), Hole("-L", 1))
        if first != plus:
            self._link(first, plus)

    def _passive(self, name: str) -> None:
        start, end = self.setup.connections[name]
        first = self._behind_link(name, start) if name in self.links else start
        place = min(self._places(first, end), default=None)
        if place is None or place[0] >= _OVER:  # rather a strip more than one part over another
            try:
                place = self._make_room(first, end)
            except BoardError:
                if place is None:
                    raise
        _, hole, other = place
        self._put(name, Piece.PART, hole, other)
        if first != start:
            self._link(first, start)

    def _source(self, name: str) -> None:
        plus, minus = self.setup.connections[name]
        first = self._behind_link(name, plus) if name in self.links else plus
        self._put(name, Piece.PART, self._free_hole(first), self._free_hole(minus))
        if first != plus:
            self._link(first, plus)

    def _behind_link(self, name: str, node: str) -> str:
        """A node of its own for a part's first lead."""
        return say("boards.before", node=node, name=name)

    def _link(self, first: str, second: str) -> None:
        self._put(self.built.free_name(Piece.LINK), Piece.LINK, self._free_hole(first), self._free_hole(second))

    def _places(self, start: str, end: str) -> Iterator[tuple[float, Hole, Hole]]:
        """Where a part may stand between strips that the two nodes have, with what it costs."""
        for strip in self.strips.get(start, []):
            for other in self.strips.get(end, []):
                yield from self._between(strip, other)

    def _between(self, strip: Strip, other: Strip) -> Iterator[tuple[float, Hole, Hole]]:
        if strip.column in RAILS and other.column in RAILS:
            return
        if strip.column in RAILS:
            for cost, hole, at in self._between(other, strip):
                yield cost, at, hole
            return
        if not self._has_room(strip) or not self._has_room(other):
            return
        for column in strip.column:
            hole = Hole(column, strip.row)
            if hole in self.taken:
                continue
            if other.column in RAILS:
                at = Hole(other.column, strip.row)
                if (
                    at not in self.taken
                    and self.board.strip(at) == other
                    and (other.column[1] == "L") == (strip.column == LEFT)
                ):
                    yield from self._priced(hole, at)
            elif other.column == strip.column:
                at = Hole(column, other.row)
                if at not in self.taken:
                    yield from self._priced(hole, at)

    def _priced(self, hole: Hole, at: Hole) -> Iterator[tuple[float, Hole, Hole]]:
        reach = Placement("", Piece.PART, (hole, at)).reach
        if SHORTEST <= reach <= LONGEST:
            yield reach + _OVER * sum(self.covered.get(cell, 0) for cell in _cells(hole, at)), hole, at

    def _make_room(self, start: str, end: str) -> tuple[float, Hole, Hole]:
        """New strips for one node or both, so that a part can stand between them; the cheapest way."""
        found: list[tuple[float, tuple[Hole, Hole], tuple[tuple[str, Strip], ...]]] = []
        for new, old in ((end, start), (start, end)):
            for known in self.strips.get(old, []):
                for strip in self._fresh_near(known):
                    for cost, hole, at in self._between(known, strip):
                        turned = (at, hole) if new == start else (hole, at)
                        found.append((cost + _LONGER * bool(self.strips.get(new)), turned, ((new, strip),)))
        if not found:
            for column in (LEFT, RIGHT):
                free = self._free_rows(column)
                pairs = ((row, row + step) for row in free for step in _STEPS if row + step in free)
                row, after = next(pairs, (0, 0))
                if row:
                    one, other = Strip(column, row), Strip(column, after)
                    cost, hole, at = min(self._between(one, other))
                    found.append((cost, (hole, at), ((start, one), (end, other))))
                    break
        if not found:
            raise BoardError(say("boards.board_rows_too_small", rows=self.board.rows))
        cost, (hole, at), fresh = min(found, key=lambda one: one[0])
        self.taken |= {hole, at}  # no jumper may take what the part needs
        self.owner.update((strip, node) for node, strip in fresh)
        for node, strip in fresh:
            self._extend(node, strip)
        return cost, hole, at

    def _fresh_near(self, known: Strip) -> Iterator[Strip]:
        """Unused strips from which a part would reach a known one."""
        if known.column in RAILS:
            column = LEFT if known.column[1] == "L" else RIGHT
            yield from (Strip(column, row) for row in self._free_rows(column)[1:2])
            return
        free = set(self._free_rows(known.column))
        for step in _STEPS:
            for row in (known.row + step, known.row - step):
                if row in free:
                    yield Strip(known.column, row)
                    break

    def _free_rows(self, column: str) -> list[int]:
        return [row for row in range(2, self.board.rows) if Strip(column, row) not in self.owner]

    def _extend(self, node: str, strip: Strip) -> None:
        """Give a node one strip more, joined to one it has by a jumper."""
        joined = self._free_hole(node) if self.strips.get(node) else None
        self._own(node, strip)
        if joined:
            self._put(self.built.free_name(Piece.JUMPER), Piece.JUMPER, joined, self._hole_in(strip))

    def _free_hole(self, node: str) -> Hole:
        """A free hole of a node, beside one that stays free; another strip is added where there is none."""
        for strip in self.strips.get(node, []):
            if self._has_room(strip):
                return self._hole_in(strip)
        fresh = next((Strip(column, row) for column in (LEFT, RIGHT) for row in self._free_rows(column)), None)
        old = [
            hole for strip in self.strips.get(node, []) for hole in self.board.holes(strip) if hole not in self.taken
        ]
        if fresh is None or (self.strips.get(node) and not old):
            raise BoardError(say("boards.board_rows_too_small", rows=self.board.rows))
        self._own(node, fresh)
        if old:
            self._put(self.built.free_name(Piece.JUMPER), Piece.JUMPER, old[0], self._hole_in(fresh))
        return self._hole_in(fresh)

    def _hole_in(self, strip: Strip) -> Hole:
        """A free hole of a strip: the last of a row, away from the parts, or the first down a rail."""
        free = [hole for hole in self.board.holes(strip) if hole not in self.taken]
        return free[0] if strip.column in RAILS else free[-1]

    def _has_room(self, strip: Strip) -> bool:
        return sum(hole not in self.taken for hole in self.board.holes(strip)) > 1

    def _own(self, node: str, strip: Strip) -> None:
        self.strips.setdefault(node, []).append(strip)
        self.owner[strip] = node

    def _put(self, name: str, piece: Piece, first: Hole, second: Hole) -> None:
        is_rigid = piece is Piece.PART and self.sheet.parts[name].kind.rigid
        self.built = self.built.put(Placement(name, piece, (first, second)), is_rigid=is_rigid)
        self.taken |= {first, second}
        if is_rigid:
            for cell in _cells(first, second):
                self.covered[cell] = self.covered.get(cell, 0) + 1


def _cells(first: Hole, second: Hole) -> list[tuple[str, int]]:
    """The holes that a part lies over, its own among them."""
    if first.column == second.column:
        low, high = sorted((first.row, second.row))
        return [(first.column, row) for row in range(low, high + 1)]
    hole = second if first.is_rail else first
    columns = LEFT[: LEFT.index(hole.column) + 1] if hole.column in LEFT else RIGHT[RIGHT.index(hole.column) :]
    return [(column, hole.row) for column in columns]
