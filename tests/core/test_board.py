"""Boards: what holes join, planned layouts, and built circuits held against drawn ones."""

import random
from dataclasses import replace
from unittest import TestCase

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core import node_list, notation, starting
from recensor.core.as_built import Likeness, changed_readings, compare
from recensor.core.board_plan import planned
from recensor.core.breadboard import FULL, HALF, Board, BoardError, Built, Hole, Placement, Sort
from recensor.core.circuit import Kind
from recensor.core.record import Run
from tests.web.test_drawing import lines, planar_lists

COLUMNS = "abcdefghij"


def placement(board: Board, text: str) -> Placement:
    """``R1 b7 b12``, with J for a jumper and K for a link."""
    name, first, second = text.split()
    sort = {"J": Sort.JUMPER, "K": Sort.LINK}.get(name[0], Sort.PART)
    return Placement(name, sort, (board.hole(first), board.hole(second)))


def built(*texts: str, board: Board = Board()) -> Built:  # noqa: B008
    """A board with these placements."""
    whole = Built(board)
    for text in texts:
        one = placement(board, text)
        whole = whole.put(one, is_rigid=one.name[0] == "R")
    return whole


class Holes(TestCase):
    def test_names_in_and_out(self) -> None:
        board = Board(FULL)
        for name, hole in [
            ("b7", Hole("b", 7)),
            ("J63", Hole("j", 63)),
            ("+l7", Hole("+L", 7)),
            ("−R3", Hole("-R", 3)),
        ]:
            self.assertEqual(board.hole(name), hole)
            self.assertEqual(board.hole(hole.name), hole)
        for name in ("", "k7", "b0", "b64", "7b", "b7.5", "+X3", "b" * 99, "+L99"):
            with self.assertRaises(BoardError):
                board.hole(name)
        with self.assertRaisesRegex(BoardError, "rows go from 1 to 30"):
            Board(HALF).hole("a31")

    @settings(max_examples=60)
    @given(st.booleans(), st.lists(st.tuples(st.integers(0, 599), st.integers(0, 599)), max_size=25))
    def test_nets_are_the_connected_components_of_strips_and_wires(
        self, split: bool, wires: list[tuple[int, int]]
    ) -> None:
        """Against networkx, on holes one by one."""
        board = Board(HALF, split)
        holes = [Hole(column, row) for column in (*COLUMNS, "+L", "-L", "+R", "-R") for row in range(1, HALF + 1)]
        graph = nx.Graph()
        graph.add_nodes_from(holes)
        for hole in holes:
            graph.add_edges_from((hole, other) for other in board.holes(board.strip(hole)))
        whole, used = Built(board), set()
        for k, (a, b) in enumerate(wires):
            first, second = holes[a % len(holes)], holes[b % len(holes)]
            if first == second or {first, second} & used:
                continue
            used |= {first, second}
            pulled = k % 5 == 4
            whole = whole.put(Placement(f"K{k}", Sort.LINK, (first, second), pulled))
            if not pulled:
                graph.add_edge(first, second)
        nets = whole.nets()
        component = {hole: k for k, group in enumerate(nx.connected_components(graph)) for hole in group}
        draw = random.Random(len(wires))
        for _ in range(200):
            first, second = draw.choice(holes), draw.choice(holes)
            self.assertEqual(nets.of(first) == nets.of(second), component[first] == component[second])

    def test_what_cannot_be_is_said_at_once(self) -> None:
        whole = built("R1 b7 b12")
        for text, said in [
            ("R2 b7 b15", "a lead of R1 already"),
            ("R2 c7 c8", "3 holes apart at least"),
            ("R2 c1 c20", "12 holes at most"),
            ("J1 c3 c3", "Both leads"),
        ]:
            one = placement(whole.board, text)
            with self.assertRaisesRegex(BoardError, said):
                whole.put(one, is_rigid=one.name[0] == "R")
        self.assertEqual(
            whole.put(placement(whole.board, "R1 b7 b13"), is_rigid=True).placements["R1"].holes[1].row, 13
        )
        with self.assertRaises(BoardError):
            whole.take_out("R9")


class Planned(TestCase):
    def lay_out(self, run: Run, links: list[str]) -> None:
        setup = run.setups["main"]
        layout = planned(run.parts, setup, links)
        found = compare(run.parts, setup, layout)
        self.assertEqual((found.likeness, found.differences), (Likeness.SAME, ()))
        self.assertEqual(sum(one.sort is Sort.LINK for one in layout.placements.values()), len(set(links)))
        for one in layout.placements.values():
            if one.sort is Sort.PART and not run.parts[one.name].kind.is_source:
                self.assertTrue(3 <= one.reach <= 12)
        nets = layout.nets()
        taken = {hole for one in layout.placements.values() for hole in one.holes}
        for net in {nets.of(hole) for hole in taken}:
            holes = [hole for strip in nets.strips(net) for hole in layout.board.holes(strip)]
            self.assertTrue(any(hole not in taken for hole in holes), "room for a probe at every node")

    @settings(max_examples=250)
    @given(lines(), st.data())
    def test_layouts_of_series_parallel_circuits_are_the_circuits(self, line: str, data: st.DataObject) -> None:
        run = notation.read(line)
        self.lay_out(run, data.draw(st.lists(st.sampled_from(list(run.parts)), max_size=4, unique=True)))

    @settings(max_examples=250)
    @given(planar_lists(), st.data())
    def test_layouts_of_any_circuits_are_the_circuits(self, text: str, data: st.DataObject) -> None:
        run = node_list.read(text)
        self.lay_out(run, data.draw(st.lists(st.sampled_from(list(run.parts)), max_size=4, unique=True)))

    def test_supply_on_the_rails_and_series_parts_stepping_along(self) -> None:
        run = starting.chain(4)
        layout = planned(run.parts, run.setups["main"])
        self.assertEqual([hole.name for hole in layout.placements["V1"].holes], ["+L1", "-L1"])
        rows = [max(hole.row for hole in layout.placements[f"R{k}"].holes) for k in (1, 2, 3)]
        self.assertEqual(rows, sorted(rows))

    def test_too_many_parts_for_a_board_are_said(self) -> None:
        many = node_list.read("V1 n0 gnd 9V\n" + "\n".join(f"R{k} n{k} n{k + 1} 1k" for k in range(80)))
        with self.assertRaisesRegex(BoardError, "too small"):
            planned(many.parts, many.setups["main"], board=Board(HALF))


class Faults(TestCase):
    @settings(max_examples=150)
    @given(lines() | planar_lists(), st.data())
    def test_every_single_fault_is_found_and_named(self, text: str, data: st.DataObject) -> None:
        run = notation.read(text) if ":" in text else node_list.read(text)
        setup = run.setups["main"]
        layout = planned(run.parts, setup, [next(iter(run.parts))])
        name = data.draw(st.sampled_from(list(run.parts)))
        fault = data.draw(st.sampled_from(["missing", "moved", "turned", "pulled"]))
        one = layout.placements[name]
        if fault == "missing":
            broken = layout.take_out(name)
        elif fault == "pulled":
            link = next(key for key, other in layout.placements.items() if other.sort is Sort.LINK)
            broken = layout.put(replace(layout.placements[link], pulled=True))
        elif fault == "turned":
            broken = layout.put(replace(one, holes=one.holes[::-1]))
        else:
            broken = self.moved(layout, one, data)
            if broken is None:
                return
        found = compare(run.parts, setup, broken)
        if fault == "turned" and run.parts[name].kind is Kind.RESISTOR:
            self.assertIs(found.likeness, Likeness.SAME)
            return
        if fault == "turned" and found.likeness is Likeness.SAME:
            return  # the whole circuit is its own mirror image: only the rails changed places
        self.assertTrue(found.differences)
        said = " ".join(one.text for one in found.differences)
        if fault == "pulled":
            self.assertIn(f"The link {link}", said)
        elif fault in ("missing", "turned"):
            self.assertIn(name, said)

    def moved(self, layout: Built, one: Placement, data: st.DataObject) -> Built | None:
        """One lead in the next row, where it meets what it should not, or nothing."""
        lead = data.draw(st.integers(0, 1))
        hole = one.holes[lead]
        nets = layout.nets()
        for by in (1, -1):
            for column in COLUMNS[:5]:
                if not 1 <= hole.row + by <= layout.board.rows or hole.is_rail:
                    continue
                at = Hole(column, hole.row + by)
                holes = (at, one.holes[1]) if lead == 0 else (one.holes[0], at)
                try:
                    broken = layout.put(replace(one, holes=holes), is_rigid=True)
                except BoardError:
                    continue
                if nets.of(at) != nets.of(hole):
                    return broken
        return None

    def test_a_lead_one_row_off_is_told_with_the_hole_it_belongs_in(self) -> None:
        run = notation.read("9V: 1k + 2k2 + 3k3")
        whole = built("V1 +L1 -L1", "J1 +L3 e3", "R1 b3 b7", "R2 c8 c12", "R3 d12 d16", "J2 e16 -L4")
        found = compare(run.parts, run.setups["main"], whole)
        self.assertIs(found.likeness, Likeness.DIFFERS)
        [only] = found.differences
        self.assertEqual(only.kind, "lead one row off")
        self.assertRegex(
            only.text, r"R[12]'s .* lead is in row [78] a–e, R[12]'s at node B in row [78] a–e: nothing joins"
        )
        self.assertIn("move it to", only.text)
        rows = changed_readings(run.parts, run.setups["main"], whole, found)
        now = {row.part: (round(row.volts, 9), round(row.amperes, 9)) for row in rows if row.part != "V1"}
        self.assertEqual(now, dict.fromkeys(("R1", "R2", "R3"), (0.0, 0.0)))

    def test_both_leads_in_one_row_and_a_source_turned(self) -> None:
        run = notation.read("9V: 1k + 2k2")
        setup = run.setups["main"]
        shorted = built("V1 +L1 -L1", "J1 +L3 e3", "R1 a3 a7", "R2 b7 e7", "J2 d7 -L4")
        self.assertEqual([one.kind for one in compare(run.parts, setup, shorted).differences], ["shorted by its row"])
        turned = built("V1 -L1 +L1", "J1 +L3 e3", "R1 a3 a7", "R2 b7 b11", "J2 e11 -L4")
        [only] = compare(run.parts, setup, turned).differences
        self.assertIn("V1 is the wrong way round", only.text)

    def test_series_parts_in_another_order_are_electrically_the_same(self) -> None:
        run = notation.read("9V: 1k + 2k2 + 3k3")
        whole = built("V1 +L1 -L1", "J1 +L3 e3", "R2 b3 b7", "R1 c7 c12", "R3 d12 d16", "J2 e16 -L4")
        self.assertIs(compare(run.parts, run.setups["main"], whole).likeness, Likeness.ANOTHER_ORDER)
