"""The order of reading: the same however a run began, with jumps, and nothing forgotten before power is switched."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import (
    Across,
    Asked,
    Through,
    all_readings,
    asking_everything,
    one_line,
    read_part,
    readings_of_set,
)
from recensor.core.editing import colour_words, edits, setup_changes
from recensor.core.examples import experiments
from recensor.core.plan import Order, Stage, in_order, next_in, plan, read_at, stage_of
from recensor.core.plan.order import followed
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.core.simulation import draw_sheet

SHEET = asking_everything(one_line.read("9V: 1k + (2k2 | 3k3) + 470; 5%"))


class InOrder(TestCase):
    @given(st.integers(0, 10_000), st.sampled_from(Order))
    def test_followed_without_a_jump_it_is_the_order_and_with_jumps_nothing_is_left_out(
        self, seed: int, order: Order
    ) -> None:
        draw = np.random.default_rng(seed)
        sheet = draw_sheet(draw) if seed % 5 else experiments.two_source_superposition().sheet
        ways, stages = in_order(sheet.asked, sheet, order), [read_at(target, sheet) for target in sheet.asked]
        self.assertEqual(sorted(ways), list(range(len(sheet.asked))))
        for jumps in (False, True):
            left, after, got = list(ways), None, []
            while left:
                k = next_in(ways, left, after, stages)
                if after is not None and any(stages[j].is_as(stages[after]) for j in left):
                    self.assertTrue(stages[k].is_as(stages[after]), "left out before something was switched")
                k = int(draw.choice(left)) if jumps and draw.random() < 0.3 else k
                left.remove(k)
                got.append(k)
                after = k
            self.assertEqual(sorted(got), sorted(ways))
            if not jumps:
                self.assertEqual(got, ways)

    def test_before_a_lead_is_freed_the_voltages_that_were_jumped_over_are_read(self) -> None:
        """`5V: 2k2 + 1k`, the voltage of R2 first: no current is asked for while voltages are left."""
        sheet = asking_everything(one_line.read("5V: 2k2 + 1k"))
        words = [target.words for target in sheet.asked]
        ways, stages = in_order(sheet.asked, sheet), [read_at(target, sheet) for target in sheet.asked]
        after = words.index("voltage from B to gnd")
        got = [words[k] for k in followed(ways, [k for k in ways if k != after], after, stages)]
        self.assertEqual(got[:3], ["voltage from A to gnd", "voltage from A to B", "current through V1"])
        run = Run(sheet, (Reading(sheet.asked[after], parse("1.56", "V")),))
        steps = [step.reads.words for step in plan(run, after=sheet.asked[after]).steps if step.reads]
        self.assertEqual(steps, got)

    def test_each_order_begins_as_it_says(self) -> None:
        for order, stages in [
            (Order.VOLTS_FIRST, [Stage.PARTS, Stage.BUILD, Stage.SOURCE, Stage.VOLTS, Stage.AMPS]),
            (Order.AMPS_FIRST, [Stage.PARTS, Stage.BUILD, Stage.SOURCE, Stage.AMPS, Stage.VOLTS]),
            (Order.TOTAL_FIRST, [Stage.BUILD, Stage.PARTS, Stage.SOURCE, Stage.VOLTS, Stage.AMPS]),
        ]:
            seen = [stage_of(SHEET.asked[k], SHEET) for k in in_order(SHEET.asked, SHEET, order)]
            self.assertEqual(list(dict.fromkeys(seen)), stages)
        first = next(k for k in in_order(SHEET.asked, SHEET) if stage_of(SHEET.asked[k], SHEET) is Stage.VOLTS)
        self.assertEqual(SHEET.asked[first].words, "voltage from A to gnd")  # the source under load comes first
        by_branch = [SHEET.asked[k] for k in in_order(SHEET.asked, SHEET, Order.BY_BRANCH)]
        powered = [target for target in by_branch if target.setup]
        amps = [k for k, target in enumerate(powered) if isinstance(target, Through)]
        self.assertLess(amps[0], len(powered) - len(amps))  # amps between volts


class Sets(TestCase):
    def test_what_each_set_asks_for(self) -> None:
        volts = readings_of_set(SHEET, Asked.VOLTAGES)
        self.assertEqual([getattr(t, "at", None) for t in volts], [None, None, "R2", "R3", None])
        self.assertTrue(all(isinstance(t, Across) and t.measurand is VOLTAGE for t in volts))
        self.assertEqual([t.part for t in readings_of_set(SHEET, Asked.CURRENTS)], ["V1", "R1", "R2", "R3", "R4"])
        self.assertEqual({(t.part, t.at) for t in readings_of_set(SHEET, Asked.CURRENTS_OF, "R1")},
                         {("R1", None), ("R1", "V1"), ("R1", "R4")})  # fmt: skip
        self.assertEqual(readings_of_set(SHEET, Asked.NONE), [])
        self.assertEqual(tuple(readings_of_set(SHEET, Asked.USUAL)), SHEET.asked)
        self.assertEqual(all_readings(SHEET), list(SHEET.asked))


class Spoken(TestCase):
    def test_bands_and_bare_tolerances_are_values(self) -> None:
        for line, values in [
            ("9V: blue grey brown", [("680", None)]),
            ("9V: brown black red gold + Yellow Violet Red Gold", [("1k", "5%"), ("4.7k", "5%")]),
            ("9V: 1k | brown-black-orange; 10", [("1k", "10%"), ("10k", "10%")]),
        ]:
            parts = [p for p in colour_words.read(line, "spoken").parts.values() if not p.kind.is_source]
            self.assertEqual([(p.nominal.text, p.tolerance.text if p.tolerance else None) for p in parts], values)
        doubtful = colour_words.read("9V: ? + red/orange red red + 1k", "spoken")
        self.assertEqual([part.maybe for part in doubtful.parts.values()], [(), (), ("2.2k", "3.2k"), ()])
        self.assertEqual(colour_words.settled(doubtful, "R2", 2190.0).parts["R2"].nominal.text, "2.2k")
        self.assertIsNone(colour_words.settled(doubtful, "R2", 2700.0))  # near to neither, or to both
        self.assertIsNone(colour_words.settled(doubtful, "R1", 2190.0))

    def test_a_new_state_asks_for_what_the_old_one_did(self) -> None:
        few = replace(SHEET, asked=tuple(t for t in SHEET.asked if not isinstance(t, Through)))
        other = replace(read_part("1k"), name="R4'")
        changed, name = setup_changes.new_state(
            few, "main", "later", lambda s, setup: edits.substitute(s, setup, "R4", other)
        )
        self.assertFalse(any(isinstance(t, Through) for t in changed.asked))
        there = {t for t in changed.asked if t.setup == name}
        self.assertEqual(len(there), sum(t.setup == "main" for t in few.asked))
        self.assertEqual(list(changed.setups[name].connections)[-1], "R4'")
