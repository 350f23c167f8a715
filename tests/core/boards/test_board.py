"""Boards: what holes join, planned layouts, and built circuits held against drawn ones."""

import random
from dataclasses import replace
from unittest import TestCase

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.boards import (
    FULL,
    HALF,
    Board,
    BoardError,
    Built,
    Consequences,
    Fault,
    Hole,
    Likeness,
    Piece,
    Placement,
    Shown,
    compare,
    planned,
    probe,
)
from recensor.core.circuit import RESISTOR, Across, Sheet, node_list, one_line
from recensor.core.examples import circuits
from recensor.core.quantity import VOLTAGE, Measurand, parse
from recensor.core.solving import NetworkError, operate
from recensor.core.solving.current_path import follow
from tests.samples import samples
from tests.strategies import lines, planar_lists

COLUMNS = "abcdefghij"


def placement(board: Board, text: str) -> Placement:
    """``R1 b7 b12``, with J for a jumper and K for a link."""
    name, first, second = text.split()
    piece = {"J": Piece.JUMPER, "K": Piece.LINK}.get(name[0], Piece.PART)
    return Placement(name, piece, (board.hole(first), board.hole(second)))


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
            whole = whole.put(Placement(f"K{k}", Piece.LINK, (first, second), pulled))
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
    def lay_out(self, sheet: Sheet, links: list[str]) -> None:
        setup = sheet.setups["main"]
        layout = planned(sheet, setup, links)
        found = compare(sheet, setup, layout)
        self.assertEqual((found.likeness, found.differences), (Likeness.SAME, ()))
        self.assertEqual(sum(one.piece is Piece.LINK for one in layout.placements.values()), len(set(links)))
        for one in layout.placements.values():
            if one.piece is Piece.PART and not sheet.parts[one.name].kind.is_source:
                self.assertTrue(3 <= one.reach <= 12)
        nets = layout.nets()
        taken = {hole for one in layout.placements.values() for hole in one.holes}
        for net in {nets.of(hole) for hole in taken}:
            holes = [hole for strip in nets.strips(net) for hole in layout.board.holes(strip)]
            self.assertTrue(any(hole not in taken for hole in holes), "room for a probe at every node")

    @settings(max_examples=samples(6, 250))
    @given(lines(), st.data())
    def test_layouts_of_series_parallel_circuits_are_the_circuits(self, line: str, data: st.DataObject) -> None:
        sheet = one_line.read(line)
        self.lay_out(sheet, data.draw(st.lists(st.sampled_from(list(sheet.parts)), max_size=4, unique=True)))

    @settings(max_examples=samples(6, 250))
    @given(planar_lists(), st.data())
    def test_layouts_of_any_circuits_are_the_circuits(self, text: str, data: st.DataObject) -> None:
        sheet = node_list.read(text)
        self.lay_out(sheet, data.draw(st.lists(st.sampled_from(list(sheet.parts)), max_size=4, unique=True)))

    def test_supply_on_the_rails_and_series_parts_stepping_along(self) -> None:
        sheet = circuits.chain(4)
        layout = planned(sheet, sheet.setups["main"])
        self.assertEqual([hole.name for hole in layout.placements["V1"].holes], ["+L1", "-L1"])
        rows = [max(hole.row for hole in layout.placements[f"R{k}"].holes) for k in (1, 2, 3)]
        self.assertEqual(rows, sorted(rows))

    def test_too_many_parts_for_a_board_are_said(self) -> None:
        many = node_list.read("V1 n0 gnd 9V\n" + "\n".join(f"R{k} n{k} n{k + 1} 1k" for k in range(80)))
        with self.assertRaisesRegex(BoardError, "too small"):
            planned(many, many.setups["main"], board=Board(HALF))


class Faults(TestCase):
    @settings(max_examples=samples(5, 150))
    @given(lines() | planar_lists(), st.data())
    def test_every_single_fault_is_found_and_named(self, text: str, data: st.DataObject) -> None:
        sheet = one_line.read(text) if ":" in text else node_list.read(text)
        setup = sheet.setups["main"]
        layout = planned(sheet, setup, [next(iter(sheet.parts))])
        name = data.draw(st.sampled_from(list(sheet.parts)))
        fault = data.draw(st.sampled_from(["missing", "moved", "turned", "pulled"]))
        one = layout.placements[name]
        if fault == "missing":
            broken = layout.take_out(name)
        elif fault == "pulled":
            link = next(key for key, other in layout.placements.items() if other.piece is Piece.LINK)
            broken = layout.put(replace(layout.placements[link], pulled=True))
        elif fault == "turned":
            broken = layout.put(replace(one, holes=one.holes[::-1]))
        else:
            broken = self.moved(layout, one, data)
            if broken is None:
                return
        found = compare(sheet, setup, broken)
        if fault == "turned" and sheet.parts[name].kind is RESISTOR:
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
        others = {nets.of(h) for p in layout.placements.values() for h in p.holes if h != hole}
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
                if nets.of(at) != nets.of(hole) and {nets.of(at), nets.of(hole)} & others:
                    return broken
        return None

    def test_a_planned_link_that_was_taken_out_is_the_link_that_is_missing(self) -> None:
        """Not a lead to be moved, which would mend the circuit and leave no opening for an ammeter."""
        for line in ("9V: 1k + 2k2 + 3k3", "9V: 1k + (2k2 | 3k3) + 470", "9V: 1k | 2k2 | 3k3"):
            sheet = one_line.read(line)
            whole = planned(sheet, sheet.setups["main"], list(sheet.parts))
            links = [name for name, one in whole.placements.items() if one.piece is Piece.LINK]
            for link in links:
                [only] = compare(sheet, sheet.setups["main"], whole.take_out(link)).differences
                self.assertIs(only.kind, Fault.LINK_MISSING, (line, link, only.text))

    def test_a_lead_one_row_off_is_told_with_the_hole_it_belongs_in(self) -> None:
        sheet = one_line.read("9V: 1k + 2k2 + 3k3")
        whole = built("V1 +L1 -L1", "J1 +L3 e3", "R1 b3 b7", "R2 c8 c12", "R3 d12 d16", "J2 e16 -L4")
        found = compare(sheet, sheet.setups["main"], whole)
        self.assertIs(found.likeness, Likeness.DIFFERS)
        [only] = found.differences
        self.assertEqual(only.kind, "lead one row off")
        self.assertRegex(
            only.text, r"R[12]'s .* lead is in row [78] a–e, R[12]'s at node B in row [78] a–e: nothing joins"
        )
        self.assertIn("Move it to", only.text)
        rows = Consequences.of(sheet, sheet.setups["main"]).of_board(whole, found)
        now = {row.part: (round(row.volts, 9), round(row.amperes, 9)) for row in rows if row.part != "V1"}
        self.assertEqual(now, dict.fromkeys(("R1", "R2", "R3"), (0.0, 0.0)))

    def test_each_difference_says_what_it_alone_does_to_the_readings(self) -> None:
        sheet = one_line.read("9V: 1k + (2k | 2k)")
        setup = sheet.setups["main"]
        whole = built("V1 +L1 -L1", "J1 +L3 e3", "R1 a3 a7", "R2 b7 b11", "R3 c8 c12", "J2 d11 -L4", "J3 d12 -L5")
        [only] = compare(sheet, setup, whole).differences
        changed = {row.part: (row.volts, row.amperes) for row in Consequences.of(sheet, setup).of_difference(only)}
        self.assertEqual(set(changed), {"V1", "R1", "R2", "R3"})
        self.assertAlmostEqual(changed["R2"][0], 6.0)
        self.assertAlmostEqual(changed["R1"][1], 0.003)
        shorted = whole.put(placement(whole.board, "J9 +L7 -L7"))
        said = [one.text for one in compare(sheet, setup, shorted).differences]
        self.assertTrue(any("It shorts V1: do not switch it on" in text for text in said), said)

    @given(lines() | planar_lists(), st.data())
    def test_one_difference_alone_does_what_the_whole_board_does(self, text: str, data: st.DataObject) -> None:
        """With a single fault the two ways of saying what it changes must agree."""
        sheet = one_line.read(text.replace("?", "1k")) if ":" in text else node_list.read(text)
        setup = sheet.setups["main"]
        name = data.draw(st.sampled_from(list(sheet.parts)))
        broken = planned(sheet, setup).take_out(name)
        found = compare(sheet, setup, broken)
        missing = next(one for one in found.differences if one.kind is Fault.MISSING and one.parts == (name,))
        if len(found.differences) == 1:
            whole = {row.part: row.volts for row in Consequences.of(sheet, setup).of_board(broken, found)}
            for row in Consequences.of(sheet, setup).of_difference(missing):
                if row.part != name and row.volts is not None and whole.get(row.part) is not None:
                    self.assertAlmostEqual(row.volts, whole[row.part], places=6)

    def test_both_leads_in_one_row_and_a_source_turned(self) -> None:
        sheet = one_line.read("9V: 1k + 2k2")
        setup = sheet.setups["main"]
        shorted = built("V1 +L1 -L1", "J1 +L3 e3", "R1 a3 a7", "R2 b7 e7", "J2 d7 -L4")
        first, second = compare(sheet, setup, shorted).differences
        self.assertEqual((first.kind, first.parts, second.kind), (Fault.BOTH_LEADS_JOINED, ("R2",), "extra connection"))
        turned = built("V1 -L1 +L1", "J1 +L3 e3", "R1 a3 a7", "R2 b7 b11", "J2 e11 -L4")
        [only] = compare(sheet, setup, turned).differences
        self.assertIn("V1 is the wrong way round", only.text)

    def test_series_parts_in_another_order_are_the_same_where_no_asked_voltage_changes(self) -> None:
        sheet = one_line.read("9V: 1k + 2k2 + 3k3")
        whole = built("V1 +L1 -L1", "J1 +L3 e3", "R2 b3 b7", "R1 c7 c12", "R3 d12 d16", "J2 e16 -L4")
        for pair, likeness in [(("A", "gnd"), Likeness.ANOTHER_ORDER), (("C", "gnd"), Likeness.ANOTHER_ORDER),
                               (("B", "gnd"), Likeness.DIFFERS)]:  # fmt: skip
            asking = replace(sheet, asked=(Across(VOLTAGE, pair, "main"),))
            found = compare(asking, sheet.setups["main"], whole)
            self.assertIs(found.likeness, likeness, pair)
            self.assertEqual([one.kind for one in found.differences], ["parts exchanged"])
        self.assertIs(compare(sheet, sheet.setups["main"], whole).likeness, Likeness.DIFFERS)


class Probing(TestCase):
    SHEET = one_line.read("9V: 1k + 2k")
    LAYOUT = built("V1 +L1 -L1", "J1 +L3 e3", "R1 b3 b7", "R2 c7 c12", "J2 e12 -L4")

    def shown(self, red: str, black: str, quantity: str, layout: Built | None = None) -> Shown:
        board = layout or self.LAYOUT
        return probe(
            self.SHEET, self.SHEET.setup(), board, board.board.hole(red), board.board.hole(black), Measurand(quantity)
        )

    def test_what_the_meter_shows_and_why(self) -> None:
        """Common practice, no source: zero in empty rows and in one row, minus when swapped, ohms on a dead circuit."""
        for red, black, quantity, text, reason in [
            ("a3", "a7", "voltage", "3.00 V", "The voltage of R1"),
            ("a7", "a3", "voltage", "−3.00 V", "swap the probes"),
            ("a7", "-L9", "voltage", "6.00 V", "The voltage of R2"),
            ("a20", "a25", "voltage", "0 V", "Nothing is pushed into the row of a20 and a25"),
            ("a7", "d7", "voltage", "0 V", "both are in row 7"),
            ("a3", "a7", "resistance", "–", "V1 is on the board"),
            ("a20", "a7", "resistance", "OL", "an open"),
            ("a3", "a7", "current", "4.43 mA", "it shorts it"),
        ]:
            shown = self.shown(red, black, quantity)
            self.assertEqual(shown.text, text, (red, black, quantity))
            self.assertIn(reason, shown.reason)

    def test_ohms_without_the_source_and_current_in_an_opened_link(self) -> None:
        dead = self.LAYOUT.take_out("V1")
        self.assertEqual(self.shown("a3", "a12", "resistance", dead).text, "3.00 kΩ")
        beside = dead.put(placement(dead.board, "J9 d3 d12"))
        self.assertIn("R1 with everything beside it", self.shown("a3", "a7", "resistance", beside).reason)
        linked = built("V1 +L1 -L1", "K1 +L3 e3", "R1 b3 b7", "R2 c7 c12", "J2 e12 -L4")
        opened = linked.put(replace(linked.placements["K1"], pulled=True))
        self.assertEqual(self.shown("+L5", "a3", "current", opened).text, "2.99 mA")
        self.assertEqual(self.shown("+L5", "a3", "voltage", opened).text, "9.00 V")  # the open takes the whole source

    def test_what_is_set_differently_here_is_shown_and_a_balanced_bridge_is_no_dead_circuit(self) -> None:
        low = replace(self.SHEET.setup(), values={"V1": parse("6V")})
        holes = self.LAYOUT.board.hole("a3"), self.LAYOUT.board.hole("a7")
        self.assertEqual(probe(self.SHEET, low, self.LAYOUT, *holes, VOLTAGE).text, "2.00 V")
        bridge = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 B gnd 1k\nR3 A C 2k\nR4 C gnd 2k")
        layout = planned(bridge, bridge.setup())
        one, other = layout.placements["R1"].holes[1], layout.placements["R3"].holes[1]
        shown = probe(bridge, bridge.setup(), layout, one, other, VOLTAGE)
        self.assertEqual((shown.text, "balanced" in shown.reason), ("0 V", True))

    def test_only_parts_that_carry_the_meters_current_lie_in_other_paths(self) -> None:
        dead = built("R1 b3 b7", "R2 c3 c7", "R3 b20 b25", "R4 a7 a12")
        sheet = node_list.read("R1 A B 1k\nR2 A B 1k\nR3 C D 1k\nR4 B E 1k")
        hole = dead.board.hole
        shown = probe(sheet, sheet.setup(), dead, hole("a3"), hole("d7"), Measurand.RESISTANCE)
        self.assertEqual(shown.text, "0.500 kΩ")
        self.assertIn("1 other part lies in other paths", shown.reason)

    @given(lines())
    def test_voltages_between_any_holes_are_the_networks_but_for_the_meter(self, line: str) -> None:
        sheet = one_line.read(line.replace("?", "1k"))
        setup = sheet.setups["main"]
        layout = planned(sheet, setup)
        solution = operate(sheet, setup).solution
        for name, (first, second) in setup.connections.items():
            one, other = layout.placements[name].holes
            shown = probe(sheet, setup, layout, one, other, VOLTAGE)
            expected = abs(float(solution.voltage(first, second)))
            self.assertLess(abs(abs(shown.value) - expected), 1e-3 * 9)


class Paths(TestCase):
    @given(lines() | planar_lists())
    def test_what_arrives_goes_on_and_every_step_leads_down_but_through_a_source(self, text: str) -> None:
        sheet = one_line.read(text) if ":" in text else node_list.read(text)
        parts = {name: replace(part, nominal=part.nominal or parse("1k")) for name, part in sheet.parts.items()}
        try:
            stops = follow(replace(sheet, parts=parts), sheet.setups["main"])
        except NetworkError:
            return
        volts = {stop.node: stop.volts for stop in stops}
        self.assertEqual([stop.volts for stop in stops], sorted(volts.values(), reverse=True))
        for stop in stops:
            arriving = sum(current for _, current in stop.arrives)
            self.assertAlmostEqual(arriving, sum(current for _, current, _ in stop.goes_on))
            for name, _, after in stop.goes_on:
                if not parts[name].kind.is_source:
                    self.assertLess(volts[after], stop.volts)

    def test_an_unmarked_part_leaves_the_way_unknown(self) -> None:
        sheet = one_line.read("9V: ? + 1k")
        self.assertEqual(follow(sheet, sheet.setups["main"]), [])


class Tidy(TestCase):
    def test_nothing_lies_over_another_part_where_there_is_room(self) -> None:
        for line in (
            "9V: 1k + 2k + 3k",
            "9V: 1k | 2k | 3k",
            "9V: 1k + (2k | 3k) + 4k",
            "9V: (5k + 2k + 4k + (5k | 5k)) | 5k",
        ):
            sheet = one_line.read(line)
            layout = planned(sheet, sheet.setup())
            spans = [
                {(hole.column, row) for hole in placement.holes
                 for row in range(min(h.row for h in placement.holes), max(h.row for h in placement.holes) + 1)}
                for name, placement in layout.placements.items() if name in sheet.parts and name != "V1"
                and placement.holes[0].column == placement.holes[1].column
            ]  # fmt: skip
            for k, span in enumerate(spans):
                self.assertFalse(any(span & other for other in spans[k + 1 :]), line)
