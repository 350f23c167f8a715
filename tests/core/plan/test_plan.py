"""The plan: no unsafe step can be reached, few moves are made, and what is opened lets the ammeter read the target."""

import json
from dataclasses import replace
from itertools import pairwise, permutations
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.boards import Built, Piece, planned
from recensor.core.circuit import (
    RESISTOR,
    Across,
    PartAlone,
    Setup,
    Sheet,
    Through,
    asking_everything,
    loops,
    node_list,
    one_line,
)  # fmt: skip
from recensor.core.examples import experiments
from recensor.core.judgement import assess
from recensor.core.meters import SHIPPED, Profile
from recensor.core.plan import (
    Bench,
    Order,
    State,
    Step,
    Way,
    bench_of,
    in_order,
    opening,
    plan,
    shortest,
    unsafe,
    unsafe_change,
    walk,
)  # fmt: skip
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import SimulatedBench as TrueBench
from recensor.core.simulation import SimulatedMeter, draw_sheet, draw_values
from recensor.core.solving import Element, operate, solve
from recensor.formats.documents.plan import to_tree
from tests.samples import samples
from tests.written import part as written_part

DIVIDER = asking_everything(one_line.read("9V: 1k5 + 3k3; 5%"))
MANUAL = {"bench": SHIPPED["3½-digit manual"]}


def sheet_of(seed: int) -> Sheet:
    draw = np.random.default_rng(seed)
    return draw_sheet(draw) if seed % 4 else experiments.two_source_superposition().sheet


class Safe(TestCase):
    def check(self, start: State, steps: list[Step]) -> None:
        """Every step and every change on the way is safe, by rules that are written here once more."""
        for before, after in pairwise([start, *(step.state for step in steps)]):
            self.assertEqual((unsafe(after), unsafe_change(before, after)), ("", ""))
            live = after.powered and after.connected
            self.assertFalse(after.powered and after.measurand is RESISTANCE)
            self.assertFalse(live and after.opened and after.measurand is not CURRENT)
            if before.powered and after.powered:
                self.assertEqual((before.opened, before.setup, before.connected, before.jack, before.dial),
                                 (after.opened, after.setup, after.connected, after.jack, after.dial))  # fmt: skip
            if live and after.measurand is CURRENT:
                self.assertIsNotNone(after.opened)
                self.assertEqual({after.red, after.black}, {after.opened.node, after.opened.freed})
        for step in steps:
            if step.reads:
                is_ohms = step.reads.measurand is RESISTANCE
                self.assertEqual(step.state.powered, not is_ohms or False)
                self.assertEqual(step.state.opened is not None, isinstance(step.reads, Through))
                self.assertEqual(step.state.connected, step.state.powered and not isinstance(step.reads, PartAlone))

    def test_every_state_that_six_points_can_be_read_in_and_left_at(self) -> None:
        asked = DIVIDER.asked
        points = [
            asked[0], next(t for t in asked if isinstance(t, Across) and t.measurand is RESISTANCE),
            PartAlone("V1", VOLTAGE), Across(VOLTAGE, ("A", "B"), "main"), Through("R1", "main"), Through("V1", "main"),
        ]  # fmt: skip
        for way in Way:
            run = Run(DIVIDER, meters=MANUAL)
            bench = replace(bench_of(run, assess(run)), way=way)
            seen, waiting = {State()}, [State()]
            while waiting:
                at = waiting.pop()
                for steps in [*(bench.steps(at, target) for target in points), bench.put_back(at)]:
                    self.check(at, steps)
                    # Left at any step of the way, the plan goes on from there.
                    fresh = {step.state for step in steps} - seen
                    seen |= fresh
                    waiting += fresh
            self.assertGreater(len(seen), 20)

    @given(st.integers(0, 10_000), st.sampled_from(Way), st.sampled_from(Order), st.data())
    @settings(max_examples=samples(30, 60), deadline=None)
    def test_jumping_about_in_any_circuit(self, seed: int, way: Way, order: Order, data: st.DataObject) -> None:
        run = Run(sheet_of(seed), meters=MANUAL)
        found = plan(run, order=order, way=way)
        self.check(State(), list(found.steps))
        self.assertEqual({step.reads for step in found.steps if step.reads}, set(run.sheet.asked))
        bench = replace(bench_of(run, assess(run)), way=way)
        jumps = data.draw(st.lists(st.sampled_from(run.sheet.asked), min_size=2, max_size=8))
        self.check(State(), walk(bench, State(), jumps))

    def test_the_end_is_the_red_lead_in_the_voltage_jack_and_nothing_opened(self) -> None:
        last = plan(Run(DIVIDER, meters=MANUAL)).steps[-1]
        self.assertEqual((last.state.jack, last.state.dial, last.state.opened, last.state.powered, last.reads),
                         ("V/Ω", "V DC", None, False, None))  # fmt: skip

    def test_meter_and_fuse_are_proved_by_a_current_that_is_known_or_by_a_step_of_their_own(self) -> None:
        for line, proves in [("9V: 1k5 + 3k3", "a zero here is a blown fuse"), ("9V: ? + ?", "Prove the fuse first")]:
            words = [step.words for step in plan(Run(asking_everything(one_line.read(line)))).steps]
            self.assertEqual(sum(proves in text for text in words), 1, line)

    def test_a_current_above_every_fuse_is_left_out_and_said(self) -> None:
        run = Run(asking_everything(one_line.read("12V: 1 | 1k")), meters=MANUAL)
        found = plan(run)
        self.assertEqual({target.part for target in found.left_out}, {"V1", "R1"})
        self.assertFalse({step.reads for step in found.steps} & set(found.left_out))
        self.assertEqual(to_tree(found)["left_out"][0]["quantity"], "current")

    def test_above_sixty_volts_there_are_no_steps_unless_it_is_read_off_a_screen(self) -> None:
        high = Run(asking_everything(one_line.read("61V: 10k + 10k")))
        self.assertEqual(plan(high).steps, ())
        self.assertIn("paper only", plan(high).refused)
        simulated = plan(replace(high, simulated=True)).steps
        self.assertEqual(len(simulated), len(high.sheet.asked))
        self.assertTrue(all(step.reads and "ower" not in step.words for step in simulated))


class NotAtAll(TestCase):
    def test_a_current_beyond_every_range_is_left_out_whether_its_jack_has_a_fuse_or_not(self) -> None:
        def profile(fuse: float | None) -> Profile:
            return replace(SHIPPED["3½-digit manual"], name="own", fuses={"mA": 0.2, "10A": fuse})

        for amps, fuse, is_read in ((9.9, None, True), (10.1, None, False), (9.9, 10.0, True), (10.1, 10.0, False)):
            sheet = asking_everything(one_line.read(f"10V: {10 / amps:.4f}"))
            planned_run = plan(Run(sheet, meters={"m": profile(fuse)}))
            currents = [step for step in planned_run.steps if isinstance(step.reads, Through)]
            with self.subTest(amps=amps, fuse=fuse):
                self.assertEqual(bool(currents), is_read)
                self.assertEqual([type(target) for target in planned_run.left_out], [] if is_read else [Through])
                self.assertEqual(any("fuse" in step.words for step in currents), bool(currents and fuse))

    def test_the_probes_of_an_ammeter_are_in_their_places_before_power_comes_on(self) -> None:
        line = "I1 A gnd 5mA compliance 12V\nI2 A gnd 2mA compliance 12V\nR1 A gnd 1k"
        sheet = asking_everything(node_list.read(line))
        run = Run(sheet, meters=MANUAL)
        steps = plan(run).steps
        alone = [k for k, step in enumerate(steps) if step.reads and step.reads.measurand is CURRENT]
        self.assertGreaterEqual(len(alone), 2)
        for k in alone:
            self.assertFalse([move for move in steps[k].moves if move.probe], steps[k].words)
        states = [State(), *(step.state for step in steps)]
        for before, after in pairwise(states):
            self.assertEqual(unsafe_change(before, after), "")


class Few(TestCase):
    @given(st.lists(st.tuples(st.sampled_from("ABCD"), st.sampled_from("ABCD"), st.sampled_from([2, 20])),
                    min_size=2, max_size=6))  # fmt: skip
    @settings(deadline=None)
    def test_few_points_have_the_fewest_moves_of_all_orders(self, stops: list) -> None:
        def length(way) -> int:
            return sum(a != b for one, other in pairwise([(None,) * 3, *(stops[k] for k in way)])
                       for a, b in zip(one, other, strict=True))  # fmt: skip

        best = min(length(way) for way in permutations(range(len(stops))))
        self.assertEqual(length(shortest(tuple(stops))), best)

    def test_many_points_have_hardly_more_than_the_fewest_known(self) -> None:
        # A walk of single moves, shuffled: its length is known to be reachable.
        draw = np.random.default_rng(5)
        for _ in range(20):
            stop, stops = ["n0", "n1", 2], []
            for k in range(24):
                stop[int(draw.integers(2))] = f"n{int(draw.integers(2, 40))}"
                stops.append((*stop[:2], 2 if k < 12 else 20))
            shuffled = [stops[k] for k in draw.permutation(24)]
            way = shortest(tuple(shuffled))
            moved = sum(a != b for one, other in pairwise([(None,) * 3, *(shuffled[k] for k in way)])
                        for a, b in zip(one, other, strict=True))  # fmt: skip
            self.assertLessEqual(moved, 1.1 * (3 + 23 + 1))

    @given(st.integers(0, 10_000))
    @settings(max_examples=samples(20, 40), deadline=None)
    def test_never_more_than_a_tenth_above_the_best_order_of_a_small_plan(self, seed: int) -> None:
        draw = np.random.default_rng(seed)
        sheet = draw_sheet(draw, least=3, most=4)
        five = [sheet.asked[k] for k in sorted(draw.permutation(len(sheet.asked))[:5])]
        run = Run(replace(sheet, asked=tuple(five)), meters=MANUAL)
        bench = bench_of(run, assess(run))
        stages = [in_order([target], sheet) and _stage(bench, target) for target in five]
        allowed = [
            way for way in permutations(range(5)) if sorted(way, key=lambda k: stages[k]) == list(way)
        ]  # stages keep their order
        best = min(sum(len(s.moves) for s in walk(bench, State(), [five[k] for k in way])) for way in allowed)
        self.assertLessEqual(plan(run).moves, 1.1 * best)

    def test_the_order_of_the_document_is_counted_beside(self) -> None:
        mixed = (Through("R1", "main"), Across(VOLTAGE, ("A", "B"), "main"), PartAlone("R1", RESISTANCE),
                 Through("R2", "main"), Across(VOLTAGE, ("B", "gnd"), "main"), PartAlone("R2", RESISTANCE))  # fmt: skip
        found = plan(Run(replace(DIVIDER, asked=mixed)))
        self.assertLess(found.moves, found.moves_as_asked)
        self.assertEqual([step.reads.measurand for step in found.steps if step.reads],
                         [RESISTANCE, RESISTANCE, VOLTAGE, VOLTAGE, CURRENT, CURRENT])  # fmt: skip


def _stage(bench: Bench, target) -> tuple:
    state = bench.during(target, State())
    is_source = isinstance(target, PartAlone) and state.powered
    under_load = isinstance(target, Across) and any(
        bench.sheet.parts[name].kind.is_source for name in bench.sheet.setup().across(*target.nodes)
    )
    return (state.powered, state.setup is not None if not state.powered else not is_source,
            state.measurand is CURRENT, not under_load if state.measurand is VOLTAGE else 0)  # fmt: skip


class Openings(TestCase):
    @given(st.integers(0, 10_000), st.sampled_from(Way), st.booleans())
    @settings(max_examples=samples(30, 60), deadline=None)
    def test_an_ammeter_in_the_gap_reads_the_target_with_its_sign(self, seed: int, way: Way, beside: bool) -> None:
        sheet = sheet_of(seed)
        for setup in sheet.setups.values():
            true = operate(sheet, setup).solution
            for target in (t for t in sheet.asked if isinstance(t, Through) and t.setup == setup.name):
                if beside:
                    branch = next(b for b in loops.branches(setup.connections)
                                  if target.part in [p.part for p in b.passages])  # fmt: skip
                    target = replace(target, at=branch.passages[-1].part)
                board = planned(sheet, setup, [target.at or target.part]) if way is Way.LINK and seed % 4 else None
                gap = opening(target, sheet, way, board)
                part, lead = self.freed(gap, board, target)
                elements = [
                    e._replace(**{("first", "second")[lead]: "freed"}) if e.name == part else e
                    for e in operate(sheet, setup).elements
                ]
                sides = ["freed" if side == gap.freed else side for side in (gap.red, gap.black)]
                meter = Element("meter", RESISTOR, *sides, 1e-6)
                read = solve([*elements, meter], setup.reference).current("meter")
                self.assertAlmostEqual(float(read), float(true.answer(target)), delta=1e-6 * true.driving_current)
                if board:
                    self.assertEqual(gap.way, Way.LINK)
                    self.assertEqual(board.placements[gap.name].piece, Piece.LINK)

    def test_a_part_in_no_loop_is_opened_like_any_other(self) -> None:
        parts = {name: written_part(name, text) for name, text in (("V1", "9"), ("R1", "1k"), ("R2", "1k"))}
        open_one = Setup("main", "gnd", {"V1": ("top", "gnd"), "R1": ("top", "mid"), "R2": ("low", "gnd")})
        sheet = Sheet("Open", parts, {"main": open_one})
        for way in Way:
            for name in parts:
                found = opening(Through(name, "main"), sheet, way)
                self.assertEqual(found.name, f"{name}.1")

    @staticmethod
    def freed(gap, board: Built | None, target: Through) -> tuple[str, int]:
        if gap.way is Way.LINK:
            return target.at or target.part, 0
        part, _, lead = gap.name.rpartition(".")
        return part, int(lead) - 1


class Again(TestCase):
    def test_a_source_is_read_once_more_where_what_it_drifts_would_change_a_verdict(self) -> None:
        sheet = replace(DIVIDER, asked=(Across(VOLTAGE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "B"), "main")))
        for text, again in [("2.81", 0), ("2.955", 1), ("2.50", 0)]:  # 5 % of 2.8125 V is 0.14 V
            readings = tuple(
                Reading(target, parse(value)) for target, value in zip(sheet.asked, ["9.000", text], strict=True)
            )
            steps = plan(Run(sheet, readings, meters={"m": SHIPPED["4½-digit bench"]})).steps
            self.assertEqual(sum(step.reads is not None for step in steps), again, text)

    def test_the_plan_goes_on_from_what_was_read(self) -> None:
        meter = SimulatedMeter(SHIPPED["4½-digit bench"], np.random.default_rng(2))
        run = TrueBench(DIVIDER, draw_values(DIVIDER, np.random.default_rng(1)), meter).run(DIVIDER.asked[:4])
        left = [step.reads for step in plan(run).steps if step.reads]
        self.assertEqual((len(left), set(left)), (len(DIVIDER.asked) - 4, set(DIVIDER.asked[4:])))


class Printed(TestCase):
    def test_each_step_states_the_bench_and_a_sealed_plan_no_expected_value(self) -> None:
        for sealed in (False, True):
            run = Run(replace(DIVIDER, sealed=sealed), meters=MANUAL)
            tree = to_tree(plan(run))
            self.assertEqual(tree["moves"], sum(step["moves"] for step in tree["steps"]))
            drop = next(s for s in tree["steps"] if s["reads"] and s["reads"].get("across") == ["A", "B"]
                        and s["function"] == "volts")  # fmt: skip
            self.assertEqual(drop["expects"], None if sealed else {"display": "2.81", "value": 2.8125})
            self.assertEqual((drop["red"], drop["black"], drop["jack"], drop["range"], drop["power"], drop["supply"]),
                             ("A", "B", "V/Ω", "20V", "on", "connected"))  # fmt: skip
            amps = next(s for s in tree["steps"] if s["function"] == "amps" and s["reads"])
            self.assertEqual((amps["opened"], amps["jack"], amps["range"]),
                             ({"lead": "V1.1"}, *(("10A", "10A") if sealed else ("mA", "2mA"))))  # fmt: skip
            if sealed:
                self.assertNotIn("1.87", json.dumps(tree))

    def test_a_link_is_pulled_where_the_board_has_one(self) -> None:
        board = planned(DIVIDER, DIVIDER.setup(), ["R2"])
        asked = (Through("R2", "main"),)
        tree = to_tree(plan(Run(replace(DIVIDER, asked=asked), boards={"main": board})))
        (step,) = [s for s in tree["steps"] if s["reads"]]
        self.assertEqual(step["opened"], {"link": "K1"})
        self.assertEqual(step["red"], "B")
        self.assertIn(step["black"], ("K1.a", "K1.b"))
