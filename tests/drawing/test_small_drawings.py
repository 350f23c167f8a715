"""Boards, histograms and range bars as drawn: everything at its place, well-formed, inside its frame."""

import re
from math import hypot
from unittest import TestCase
from xml.etree import ElementTree

from django.template.loader import render_to_string
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.boards import Piece, compare, planned
from recensor.core.circuit import node_list, one_line
from recensor.drawing.board import PITCH, Lies, board_view
from recensor.drawing.histogram import histogram
from recensor.drawing.range_bar import MARGIN, WIDTH, range_bar
from recensor.drawing.time_line import Moment, time_line
from tests.strategies import lines, planar_lists


class Boards(TestCase):
    @given(lines() | planar_lists())
    def test_every_placement_is_drawn_from_hole_to_hole(self, text: str) -> None:
        run = one_line.read(text) if ":" in text else node_list.read(text)
        setup = run.setups["main"]
        layout = planned(run, setup, [next(iter(run.parts))])
        view = board_view(layout, run.parts, compare(run, setup, layout).nodes)
        places = {dot.name: (dot.x, dot.y) for dot in view.dots}
        bodies = {body.name: body for body in view.bodies}
        wires = {wire.name: wire for wire in view.wires}
        for one in layout.placements.values():
            (x1, y1), (x2, y2) = (places[hole.name] for hole in one.holes)
            self.assertAlmostEqual(hypot(x2 - x1, y2 - y1) / PITCH, one.reach)
            if one.name in bodies:
                body = bodies[one.name]
                self.assertEqual((body.x, body.y), ((x1 + x2) / 2, (y1 + y2) / 2))
                self.assertAlmostEqual(2 * body.reach, hypot(x2 - x1, y2 - y1), delta=0.2)
            elif one.piece is not Piece.PART:
                start, end = re.fullmatch(r"M(\S+ \S+)Q\S+ \S+ (\S+ \S+)", wires[one.name].path).groups()
                self.assertEqual((start, end), (f"{x1:g} {y1:g}", f"{x2:g} {y2:g}"))
        self.assertEqual({lead.sign for lead in view.supplies}, {"+", "−"})
        tree = ElementTree.fromstring(render_to_string("drawing/board.svg", {"board": view}))
        holes = {element.get("data-hole") for element in tree.iter() if element.get("data-hole")}
        self.assertEqual(len(holes), 14 * layout.board.rows)

    @given(lines())
    def test_however_it_lies_and_folded_every_part_goes_from_hole_to_hole_and_stays_inside(self, text: str) -> None:
        run = one_line.read(text)
        setup = run.setups["main"]
        layout = planned(run, setup, [next(iter(run.parts))])
        nodes = compare(run, setup, layout).nodes
        upright = board_view(layout, run.parts, nodes)
        for lies in Lies:
            view = board_view(layout, run.parts, nodes, lies=lies, whole=False)
            self.assertEqual(view.across, "across" in lies)
            self.assertLessEqual(view.width * view.height, upright.width * upright.height)
            places = {dot.name: (dot.x, dot.y) for dot in view.dots}
            for body in view.bodies:
                first, second = (places[hole.name] for hole in layout.placements[body.name].holes)
                self.assertEqual((body.x, body.y), ((first[0] + second[0]) / 2, (first[1] + second[1]) / 2))
            for _, x, y in view.marks:
                self.assertTrue(0 < x < view.width and 0 < y < view.height)
            ElementTree.fromstring(render_to_string("drawing/board.svg", {"board": view}))


class Charts(TestCase):
    @given(st.lists(st.integers(0, 500), min_size=14, max_size=14), st.none() | st.floats(-1, 1))
    def test_a_histogram_has_a_column_for_every_count_and_the_mean_between_the_limits(
        self, columns: list[int], mean: float | None
    ) -> None:
        drawn = histogram(columns, mean)
        inside, outside = drawn.inside.count("M"), drawn.outside.count("M")
        self.assertEqual(
            (inside, outside), (sum(c > 0 for c in columns[1:-1]), sum(c > 0 for c in (columns[0], columns[-1])))
        )
        if mean is not None:
            self.assertTrue(drawn.limits[0] <= drawn.mean <= drawn.limits[1])
        ElementTree.fromstring(render_to_string("drawing/histogram.svg", {"histogram": drawn}))

    @given(st.floats(-1e3, 1e3), st.floats(-1e3, 1e3), st.none() | st.floats(0, 50), st.floats(0, 50))
    def test_a_range_bar_keeps_order_and_frame(self, now: float, then: float, half: float | None, sigma: float) -> None:
        worst = None if half is None else (now - half, now + half)
        bar = range_bar(now, then, worst, sigma, "R1")
        places = [bar.now, bar.then, *bar.likely, *(bar.worst or ())]
        self.assertTrue(all(MARGIN <= place <= WIDTH - MARGIN for place in places))
        self.assertLessEqual(bar.likely[0], bar.now)
        self.assertLessEqual(bar.now, bar.likely[1])
        if then < now - 1:
            self.assertLess(bar.then, bar.now)
        ElementTree.fromstring(render_to_string("drawing/range_bar.svg", {"bar": bar}))


class TimeLines(TestCase):
    @given(st.lists(st.tuples(st.floats(0, 1e5), st.floats(-30, 30), st.floats(0, 1)), min_size=2, max_size=12))
    def test_later_is_to_the_right_higher_is_up_and_everything_is_inside(self, readings: list) -> None:
        begun = min(seconds for seconds, _, _ in readings)
        moments = [Moment(seconds - begun, value, own, f"{value} V") for seconds, value, own in sorted(readings)]
        line = time_line(moments, "V", 9.0, "V1")
        for one, other, first, second in zip(line.marks, line.marks[1:], moments, moments[1:], strict=False):
            self.assertLessEqual(one.x, other.x)
            if abs(first.value - second.value) > 1e-6:
                self.assertEqual(one.y >= other.y, first.value < second.value or one.y == other.y)
        for mark in line.marks:
            self.assertTrue(line.left <= mark.x <= line.right and 0 <= mark.high <= mark.y <= mark.low <= line.bottom)
        self.assertEqual(line.path.count("L"), len(moments) - 1)

    def test_without_times_they_stand_in_order_and_the_setting_where_it_lies_among_them(self) -> None:
        line = time_line([Moment(0.0, 9.02, 0.02, "open"), Moment(0.0, 8.61, 0.02, "loaded")], "V", 9.0, "V1")
        self.assertLess(line.marks[0].x, line.marks[1].x)
        self.assertEqual(line.minutes, "")
        self.assertTrue(line.marks[0].y < line.setting < line.marks[1].y)
        far = time_line([Moment(0.0, 9.02, 0.02, "a"), Moment(600.0, 9.0, 0.02, "b")], "V", 5.0, "V1")
        self.assertEqual((far.setting, far.minutes), (None, "10 min"))
        self.assertEqual([text for _, text in line.sides], ["9.020 V", "8.610 V"])
        self.assertIn("V1 over time: open, loaded", line.description)
