"""Schematics read back: what is drawn is the circuit, nothing lies over anything, nothing crosses without need."""

import re
from collections.abc import Iterator
from itertools import combinations
from unittest import TestCase

from hypothesis import given

from recensor.core.circuit import Setup, Sheet, Through, node_list, one_line
from recensor.drawing.schematic import schematic
from recensor.drawing.schematic.canvas import SYMBOL, Schematic
from tests.strategies import lines, planar_lists

Segment = tuple[float, float, float, float]

# Places are written with six digits.
FINE = 0.01


class ReadBack(TestCase):
    @given(lines())
    def test_series_parallel_circuits(self, line: str) -> None:
        self.read_back(one_line.read(line))

    @given(planar_lists())
    def test_planar_circuits_with_several_sources(self, text: str) -> None:
        self.read_back(node_list.read(text))

    def test_a_circuit_that_no_sheet_holds_without_a_crossing_is_drawn_all_the_same(self) -> None:
        five = "\n".join(f"R{a}{b} n{a} n{b} 1k" for a, b in combinations("abcde", 2))
        self.read_back(node_list.read(f"V1 na ne 9V\n{five}\nreference ne"), is_planar=False)

    def read_back(self, sheet: Sheet, *, is_planar: bool = True) -> None:
        setup = sheet.setups["main"]
        drawn = schematic(sheet, setup)
        segments = [tuple(map(float, re.fullmatch(r"M(\S+) (\S+)L(\S+) (\S+)", wire).groups())) for wire in drawn.wires]
        self.assertEqual(sorted(symbol.name for symbol in drawn.symbols), sorted(setup.connections))
        self.assertEqual({node.name for node in drawn.nodes}, set(setup.nodes))
        self.check_connections(drawn, segments, setup)
        for one, other in combinations(drawn.symbols, 2):
            self.assertTrue(abs(one.x - other.x) >= 50 or abs(one.y - other.y) >= 44, (one.name, other.name))
        for symbol in drawn.symbols:
            self.assertTrue(20 < symbol.x < drawn.width - 20 and 20 < symbol.y < drawn.height - 20)
            for segment in segments:
                self.assertFalse(through_body(segment, symbol), (segment, symbol.name))
        if is_planar:
            self.assertEqual([pair for pair in combinations(segments, 2) if crossing(*pair)], [])

    def check_connections(self, drawn: Schematic, segments: list[Segment], setup: Setup) -> None:
        """Wires that touch are one net; each net has one node's name, and every lead ends on its node's net."""
        nets = {segment: segment for segment in segments}

        def net(segment: Segment) -> Segment:
            while nets[segment] != segment:
                segment = nets[segment]
            return segment

        for one, other in combinations(segments, 2):
            if any(on(point, other) for point in ends(one)) or any(on(point, one) for point in ends(other)):
                nets[net(one)] = net(other)
        names: dict[Segment, set[str]] = {}
        for node in drawn.nodes:
            for segment in segments:
                if on((node.x, node.y), segment):
                    names.setdefault(net(segment), set()).add(node.name)
        self.assertTrue(all(len(named) == 1 for named in names.values()), names)
        for symbol in drawn.symbols:
            half = SYMBOL / 2
            start, end = (
                ((symbol.x, symbol.y - half), (symbol.x, symbol.y + half))
                if symbol.vertical
                else ((symbol.x - half, symbol.y), (symbol.x + half, symbol.y))
            )
            found = [
                {name for segment in segments if on(point, segment) for name in names[net(segment)]}
                for point in ((start, end) if symbol.first_leads else (end, start))
            ]
            self.assertEqual(found, [{node} for node in setup.connections[symbol.name]], symbol.name)


def ends(segment: Segment) -> Iterator[tuple[float, float]]:
    yield segment[:2]
    yield segment[2:]


def on(point: tuple[float, float], segment: Segment) -> bool:
    x, y = point
    x1, y1, x2, y2 = segment
    return min(x1, x2) - FINE <= x <= max(x1, x2) + FINE and min(y1, y2) - FINE <= y <= max(y1, y2) + FINE


def crossing(one: Segment, other: Segment) -> bool:
    """Whether an upright and a level wire cross in the middle of both."""
    for level, upright in ((one, other), (other, one)):
        if level[1] == level[3] and upright[0] == upright[2]:
            left, right = sorted((level[0], level[2]))
            top, bottom = sorted((upright[1], upright[3]))
            if left + FINE < upright[0] < right - FINE and top + FINE < level[1] < bottom - FINE:
                return True
    return False


def through_body(segment: Segment, symbol: object) -> bool:
    """Whether a wire runs through a part's body."""
    wide, high = (9, SYMBOL / 2) if symbol.vertical else (SYMBOL / 2, 9)
    x1, x2 = sorted((segment[0], segment[2]))
    y1, y2 = sorted((segment[1], segment[3]))
    over = x2 > symbol.x - wide + FINE and x1 < symbol.x + wide - FINE
    return over and y2 > symbol.y - high + FINE and y1 < symbol.y + high - FINE


class Ammeter(TestCase):
    def test_it_stands_in_the_gap_with_red_where_the_current_comes_from(self) -> None:
        sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
        for part, side, red in [("R1", -1, 0), ("R2", -1, 0), ("V1", -1, 1)]:  # out of a source into the black lead
            target = Through(part, "main")
            drawn = schematic(sheet, sheet.setup(), target)
            symbol = next(one for one in drawn.symbols if one.name == part)
            apart = drawn.meter.y - symbol.y if symbol.vertical else drawn.meter.x - symbol.x
            self.assertEqual((apart > 0) - (apart < 0), side if symbol.first_leads else -side, part)
            first = [name for name, _, _ in drawn.meter.probes].index("red")
            self.assertEqual(first, red if symbol.first_leads else 1 - red, part)
        # Opened beside V1, the current of R1 comes out of V1: red at the freed lead, toward V1.
        beside = schematic(sheet, sheet.setup(), Through("R1", "main", "V1"))
        source = next(one for one in beside.symbols if one.name == "V1")
        self.assertLess(abs(beside.meter.x - source.x), 1)
        self.assertEqual(beside.meter.probes[0][0], "black")
