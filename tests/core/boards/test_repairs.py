"""Single faults put into boards on purpose: told as the one act that mends, and none on boards that are right.

Whether a fault changes the circuit at all is judged by networkx: isomorphism of graphs whose edges bear names.
"""

import random
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import pairwise
from unittest import TestCase

import networkx as nx
import numpy as np

from recensor.core.boards import (
    Board,
    BoardError,
    Built,
    Consequences,
    Fault,
    Hole,
    Likeness,
    Piece,
    Placement,
    compare,
    planned,
)
from recensor.core.circuit import Setup, Sheet, one_line
from recensor.core.simulation import draw_sheet
from tests.samples import samples

BOARDS = 60
Broken = tuple[Built, tuple[str, ...]] | None


def graph(sheet: Sheet, pairs: dict[str, tuple[object, object]]) -> nx.MultiDiGraph:
    """Parts as edges with their names; those without polarity both ways."""
    found = nx.MultiDiGraph()
    for name, (a, b) in pairs.items():
        found.add_edge(a, b, name=name)
        if not sheet.parts[name].kind.polarised:
            found.add_edge(b, a, name=name)
    return found


def is_the_drawn_circuit(sheet: Sheet, setup: Setup, built: Built) -> bool:
    """The independent judge."""
    names = nx.algorithms.isomorphism.categorical_multiedge_match("name", None)
    return nx.is_isomorphic(graph(sheet, setup.connections), graph(sheet, built.nets().connections), edge_match=names)


def scattered(sheet: Sheet, setup: Setup, draw: random.Random) -> Built:
    """A board built without a plan: every node in a few rows anywhere, leads in any of their holes."""
    board = Board(63)
    rows = [(half, row) for half in ("abcde", "fghij") for row in range(1, 64)]
    draw.shuffle(rows)
    leads_at = Counter(node for leads in setup.connections.values() for node in leads)
    free: dict[str, list[Hole]] = {}
    placements = {}
    for node in setup.nodes:
        strips = [rows.pop() for _ in range(leads_at[node] // 3 + draw.randint(1, 2))]
        free[node] = [Hole(column, row) for half, row in strips for column in half]
        for (half, row), (other, below) in pairwise(strips):
            ends = Hole(half[0], row), Hole(other[1], below)
            placements[f"J{len(placements)}"] = Placement(f"J{len(placements)}", Piece.JUMPER, ends)
            free[node] = [hole for hole in free[node] if hole not in ends]
    for name, leads in setup.connections.items():
        holes = []
        for node in leads:
            holes.append(free[node].pop(draw.randrange(len(free[node]))))
        placements[name] = Placement(name, Piece.PART, tuple(holes))
    return Built(board, placements)


class Breaking:
    """A board with one fault put in."""

    def __init__(self, sheet: Sheet, built: Built, draw: random.Random) -> None:
        self.built = built
        self.draw = draw
        self.parts = [name for name, one in built.placements.items() if one.piece is Piece.PART]
        self.resistors = [name for name in self.parts if not sheet.parts[name].kind.is_source]
        self.taken = {hole for one in built.placements.values() for hole in one.holes}

    def of(self, piece: Piece) -> str | None:
        """Any jumper or link."""
        found = [name for name, one in self.built.placements.items() if one.piece is piece]
        return self.draw.choice(found) if found else None

    def with_holes(self, holes: dict[str, tuple[Hole, Hole]]) -> Built:
        """The board with these holes, whether a part's body reaches there or not."""
        moved = {name: replace(self.built.placements[name], holes=pair) for name, pair in holes.items()}
        return replace(self.built, placements={**self.built.placements, **moved})

    def moved(self, rows: Callable[[Hole, Hole], list[int]]) -> Broken:
        """One lead of a resistor in another row of its own half, or of the other lead's."""
        name, lead = self.draw.choice(self.resistors), self.draw.randrange(2)
        holes = self.built.placements[name].holes
        hole, other = holes[lead], holes[1 - lead]
        wanted = rows(hole, other)
        half = other if wanted == [other.row] else hole
        if hole.is_rail or half.is_rail:
            return None
        columns = "abcde" if half.column in "abcde" else "fghij"
        free = [Hole(c, row) for row in wanted if 1 <= row <= self.built.board.rows for c in columns]
        free = [one for one in free if one not in self.taken]
        if not free:
            return None
        new = self.draw.choice(free)
        return self.with_holes({name: (new, other) if lead == 0 else (other, new)}), (name,)

    def faults(self) -> Iterator[tuple[str, Broken]]:
        """Every fault, where the board lends itself to it."""
        placements = self.built.placements
        yield "one row", self.moved(lambda hole, _: [hole.row - 1, hole.row + 1])
        yield "many rows", self.moved(lambda hole, _: [r for r in range(1, 64) if abs(r - hole.row) > 1])
        yield "both in a row", self.moved(lambda _, other: [other.row])
        name = self.draw.choice(self.resistors)
        yield "part missing", (self.built.take_out(name), (name,))
        one, other = self.draw.sample(self.resistors, 2)
        swapped = {one: placements[other].holes, other: placements[one].holes}
        yield "exchanged", (self.with_holes(swapped), (one, other))
        yield "source reversed", (self.with_holes({"V1": placements["V1"].holes[::-1]}), ("V1",))
        link, jumper = self.of(Piece.LINK), self.of(Piece.JUMPER)
        if link:
            pulled = {**placements, link: replace(placements[link], pulled=True)}
            yield "link pulled", (replace(self.built, placements=pulled), (link,))
        if jumper:
            yield "jumper missing", (self.built.take_out(jumper), ())
        strips = {self.built.board.strip(hole) for hole in self.taken}
        free = [hole for strip in sorted(strips, key=lambda s: (s.column, s.row))
                for hole in self.built.board.holes(strip) if hole not in self.taken]  # fmt: skip
        ends = self.draw.sample(free, 2)
        yield "extra jumper", (self.built.put(Placement("J99", Piece.JUMPER, (ends[0], ends[1]))), ("J99",))


LEAD_FAULTS = {Fault.ONE_ROW_OFF, Fault.MISPLACED, Fault.BOTH_LEADS_JOINED}
EXPECTED = {
    "one row": LEAD_FAULTS, "many rows": LEAD_FAULTS, "both in a row": {Fault.BOTH_LEADS_JOINED},
    "part missing": {Fault.MISSING}, "exchanged": {Fault.EXCHANGED}, "source reversed": {Fault.REVERSED},
    "link pulled": {Fault.PULLED}, "jumper missing": {Fault.JUMPER_MISSING}, "extra jumper": {Fault.EXTRA_CONNECTION},
}  # fmt: skip


class SingleFaults(TestCase):
    def trial(self, build: Callable[[Sheet, Setup, random.Random], Built]) -> Counter[str]:
        """How many faults that change the circuit were put in, and how many of them were told first."""
        count: Counter[str] = Counter()
        for seed in range(BOARDS):
            draw = random.Random(seed)
            sheet = draw_sheet(np.random.default_rng(seed))
            setup = sheet.setup()
            try:
                built = build(sheet, setup, draw)
            except BoardError:
                continue
            count["right"] += compare(sheet, setup, built).likeness is Likeness.SAME
            count["boards"] += 1
            for fault, broken in Breaking(sheet, built, draw).faults():
                if broken is None:
                    continue
                found, same = compare(sheet, setup, broken[0]), is_the_drawn_circuit(sheet, setup, broken[0])
                self.assertEqual(found.likeness is Likeness.SAME, same, (seed, fault))
                if not same:
                    first = found.differences[0]
                    count["changed"] += 1
                    count["told as one"] += len(found.differences) == 1
                    named = all(name in first.text for name in broken[1])
                    count["first"] += first.kind in EXPECTED[fault] and named
        return count

    def test_on_planned_boards(self) -> None:
        def build(sheet: Sheet, setup: Setup, draw: random.Random) -> Built:
            return planned(sheet, setup, draw.sample(list(sheet.parts), draw.randrange(len(sheet.parts))))

        count = self.trial(build)
        self.assertEqual((count["right"], count["told as one"]), (count["boards"], count["changed"]))
        self.assertGreater(count["changed"], 5 * BOARDS)
        self.assertGreaterEqual(count["first"], 0.95 * count["changed"], count)

    def test_on_boards_that_nobody_planned(self) -> None:
        """Every fault is told as one act that mends it; of several that do, the injected one mostly first."""
        count = self.trial(scattered)
        self.assertEqual((count["right"], count["told as one"]), (count["boards"], count["changed"]))
        self.assertGreaterEqual(count["first"], 0.85 * count["changed"], count)


class SeveralFaults(TestCase):
    def broken(self, seed: int, times: int) -> tuple[Sheet, Setup, Built] | None:
        """A planned board with several faults of any kind, one after the other."""
        draw = random.Random(seed)
        sheet = draw_sheet(np.random.default_rng(seed))
        setup = sheet.setup()
        built = planned(sheet, setup, draw.sample(list(sheet.parts), draw.randrange(len(sheet.parts))))
        for _ in range(times):
            faults = [found[0] for fault, found in Breaking(sheet, built, draw).faults()
                      if found and fault not in ("part missing", "extra jumper")]  # fmt: skip
            built = draw.choice(faults)
        return (sheet, setup, built) if not is_the_drawn_circuit(sheet, setup, built) else None

    def test_two_are_mostly_told_as_two_acts_at_most(self) -> None:
        told: list[int] = []
        for seed in range(samples(10, 60)):
            case = self.broken(seed, 2)
            if case:
                found = compare(*case)
                self.assertNotEqual(found.likeness, Likeness.SAME)
                told.append(len(found.differences))
        self.assertGreater(len(told), samples(6, 40))
        self.assertGreaterEqual(sum(count <= 2 for count in told), 0.8 * len(told), Counter(told))

    def test_many_are_each_told_by_what_most_leads_agree_with(self) -> None:
        for seed in range(samples(10, 60)):
            case = self.broken(seed, 5)
            if case:
                sheet, setup, built = case
                found = compare(sheet, setup, built)
                self.assertTrue(found.differences)
                for one in found.differences:
                    self.assertTrue(one.text.endswith(".") and "  " not in one.text, one.text)
                Consequences.of(sheet, setup).of_board(built, found)

    def test_a_board_too_crowded_for_two_acts_is_told_all_the_same(self) -> None:
        """Thirty parts in a row, and four of them turned out of it."""
        text = "9V: " + " + ".join(["1k"] * 30)
        sheet = one_line.read(text)
        setup = sheet.setup()
        built = planned(sheet, setup)
        shorted = {f"R{k}": (built.placements[f"R{k}"].holes[0],) * 2 for k in (5, 9, 14)}
        broken = Breaking(sheet, built, random.Random(1)).with_holes(shorted)
        turned = replace(broken.placements["V1"], holes=broken.placements["V1"].holes[::-1])
        found = compare(sheet, setup, replace(broken, placements={**broken.placements, "V1": turned}))
        self.assertIs(found.likeness, Likeness.DIFFERS)
        self.assertLessEqual({"R5", "R9", "R14"}, {name for one in found.differences for name in one.parts})
