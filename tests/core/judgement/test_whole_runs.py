"""Whole jobs on a bench with hidden true values: honest readings agree and balance, a slip is found."""

import math
from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core import plan
from recensor.core.circuit import CURRENT_SOURCE, Across, Part, PartAlone, Setup, Sheet, Through, TouchedLeads
from recensor.core.circuit.asking import asked
from recensor.core.examples.shapes import Shape, ShapeError, shaped
from recensor.core.judgement import Assessment, assess
from recensor.core.quantity import RESISTANCE, VOLTAGE, parse
from recensor.core.record import Run
from tests.hidden import honest, off_by, true_value
from tests.written import part

OHMS = ["100", "220", "470", "1k", "2k2", "4k7", "10k"]


@st.composite
def planned_runs(draw: st.DrawFn) -> Sheet:
    """A sheet of any starting shape, with 5 % parts and a 1 % source."""
    count = draw(st.integers(3, 8))
    resistors = [part(f"R{k}", draw(st.sampled_from(OHMS)), "5%") for k in range(1, count + 1)]
    first = draw(st.integers(1, count - 1))
    last = draw(st.integers(first + 1, count))
    shape = draw(st.sampled_from([Shape.CHAIN, Shape.BANK] if (first, last) == (1, count) else list(Shape)))
    return shaped(
        shape, "hidden bench", part("V1", draw(st.sampled_from(["5", "9", "12"])), "1%"), resistors, (first, last)
    )


def measured(sheet: Sheet, factors: list[float], digits: int = 5) -> Run:
    """One honest reading at every asked point, rounded to a meter's digits."""
    return honest(sheet, off_by(sheet, factors), digits)


def verdicts(assessment: Assessment) -> set[str]:
    return {str(target.judged.verdict) for target in assessment.targets.values()}


FACTORS = st.lists(st.floats(0.96, 1.04), min_size=9, max_size=9).map(
    lambda found: [1 + (found[0] - 1) / 5, *found[1:]]
)


class HiddenBench(TestCase):
    @settings(max_examples=60)
    @given(planned_runs(), FACTORS)
    def test_honest_readings_agree_and_every_account_balances(self, sheet: Sheet, factors: list[float]) -> None:
        full = measured(sheet, factors)
        assessed = assess(full)
        self.assertLessEqual(verdicts(assessed), {"agrees", "within tolerance"})
        # Close, where rounding alone adds up to more than the meter is said to be off by.
        self.assertLessEqual({law.verdict for law in assessed.laws}, {"balances", "close", "no independent check"})
        self.assertTrue(all(sane.holds for sane in assessed.sanity), [s for s in assessed.sanity if not s.holds])
        self.assertEqual(assessed.warnings, [])
        # Rounding alone: n equal terms, all rounded the same way, reach √(3n)/2 times their expanded uncertainty.
        errors = [law.normalised_error for law in assessed.laws]
        errors += [t.judged.normalised_error["measured"] for t in assessed.targets.values()]
        self.assertLess(max(abs(error) for error in errors if error is not None), math.sqrt(3 * 9) / 2 + 0.1)

    @settings(max_examples=60)
    @given(planned_runs(), FACTORS, st.data())
    def test_a_decimal_slip_in_any_reading_is_found(
        self, sheet: Sheet, factors: list[float], data: st.DataObject
    ) -> None:
        full = measured(sheet, factors)
        slipped = data.draw(st.integers(0, len(full.readings) - 1))
        wrong = full.readings[slipped]
        value = parse(f"{float(wrong.value) * 10:.6e}", wrong.target.unit)
        assessed = assess(
            replace(
                full, readings=(*full.readings[:slipped], replace(wrong, value=value), *full.readings[slipped + 1 :])
            )
        )
        self.assertIn(str(assessed.targets[wrong.target.key].judged.verdict), ("outside", "out of tolerance"))
        for law in assessed.laws:
            slip = 9 * abs(float(wrong.value))
            concerned = any(slipped in term.sources for term in law.terms) and law.verdict != "no independent check"
            if concerned and slip > 0.06 * law.rises:  # a small term's slip can hide within 5 % of the rises
                self.assertEqual(law.verdict, "out")

    @settings(max_examples=40)
    @given(planned_runs(), FACTORS)
    def test_readings_that_are_missing_are_named_and_make_the_account(self, sheet: Sheet, factors: list[float]) -> None:
        full = measured(sheet, factors)
        parts_only = tuple(
            r for r in full.readings if isinstance(r.target, PartAlone) and r.target.measurand is RESISTANCE
        )
        by_key = {r.target.key: r for r in full.readings}
        begun = assess(replace(full, readings=parts_only))
        wanted = {target.key for law in begun.laws for target in law.missing}
        self.assertLessEqual({law.verdict for law in begun.laws}, {"needs readings", "no independent check"})
        completed = assess(replace(full, readings=(*parts_only, *(by_key[key] for key in wanted))))
        self.assertNotIn("needs readings", {law.verdict for law in completed.laws})


class Shapes(TestCase):
    def test_what_does_not_make_the_shape_says_why(self) -> None:
        source = part("V1", "9")
        for count, shape, group, message in [
            (2, Shape.CHAIN, None, "takes 3 to 8"),
            (9, Shape.BANK, None, "here are 9"),
            (4, Shape.CHAIN_WITH_GROUP, None, "from one resistor to a later one"),
            (4, Shape.CHAIN_WITH_GROUP, (3, 2), "from one resistor to a later one"),
            (4, Shape.CHAIN_WITH_GROUP, (3, 5), "from one resistor to a later one"),
            (4, Shape.CHAIN_WITH_GROUP, (1, 4), "this is a parallel bank"),
        ]:
            with self.assertRaisesRegex(ShapeError, message):
                shaped(shape, "t", source, [part(f"R{k}", "1k") for k in range(1, count + 1)], group)

    def test_leads_are_asked_for_where_a_part_is_low(self) -> None:
        for lowest, asked_for in [("47", True), ("50", False)]:
            sheet = shaped(Shape.BANK, "t", part("V1", "9"), [part("R1", "1k"), part("R2", lowest), part("R3", "1k")])
            self.assertEqual(sheet.asked[0] == TouchedLeads(), asked_for)

    def test_each_point_is_asked_once_in_the_order_of_the_work(self) -> None:
        sheet = shaped(Shape.CHAIN_WITH_GROUP, "t", part("V1", "9"), [part(f"R{k}", "1k") for k in range(1, 5)], (2, 3))
        self.assertEqual(len({target.key for target in sheet.asked}), len(sheet.asked))
        stages = [plan.stage_of(target, sheet) for target in sheet.asked]
        self.assertEqual(stages, sorted(stages, key=list(plan.Stage).index))
        self.assertEqual([t.part for t in sheet.asked if isinstance(t, Through)], ["V1", "R2", "R3"])


class Instructions(TestCase):
    def test_probes_as_told_read_positive_in_every_shape(self) -> None:
        """Red at the higher potential: with the probes as the page says, an honest reading needs no minus sign."""
        for shape in Shape:
            sheet = shaped(shape, "t", part("V1", "9"), [part(f"R{k}", "1k") for k in range(1, 5)], (2, 3))
            true = off_by(sheet, [1.0] * 5)
            for target in sheet.asked:
                told = plan.card(target, plan.Bench(sheet, expected=lambda t, s=sheet, v=true: true_value(t, s, v)))
                self.assertGreater(true_value(target, sheet, true), 0)
                if isinstance(target, Across):
                    self.assertEqual((told.red, told.black), tuple(f"node {node}" for node in target.nodes))
                self.assertEqual(told.power, "OFF" if target.measurand is RESISTANCE else "ON")
                self.assertEqual(told.dial[0], {"resistance": "Ω", "voltage": "V", "current": "m"}[target.measurand])

    def test_ammeter_jack_follows_the_expected_current(self) -> None:
        """Common practice, no source: mA jack fused at 200 mA or more, the 10 A jack above."""
        sheet = shaped(Shape.BANK, "t", part("V1", "9"), [part(f"R{k}", "10") for k in range(1, 4)])
        current = sheet.asked[-1]
        for expected, jack in [(0.19, "mA"), (0.9, "10A")]:
            told = plan.card(current, plan.Bench(sheet, expected=lambda _, amps=expected: amps))
            self.assertIn(f"red lead into the {jack} jack", told.do)
            self.assertIn("Put lead R3.1 back at node A", told.after)

    def test_sources_of_current_and_spans_have_words_too(self) -> None:
        parts = {"I1": Part("I1", CURRENT_SOURCE, parse("2m")), "R1": part("R1", "1k"), "R2": part("R2", "1k")}
        setup = Setup("main", "gnd", {"I1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("b", "gnd")})
        sheet = Sheet("t", parts, {"main": setup})
        titles = [plan.title(target, sheet) for target in asked(sheet, setup)]
        self.assertEqual(
            titles,
            [
                "R1 by itself",
                "R2 by itself",
                "Resistance from a to gnd",
                "I1 before connecting",
                "Voltage across R1",
                "Voltage across R2",
                "I1 under load",
                "Current through I1",
            ],
        )
        span = Across(VOLTAGE, ("gnd", "a"), "main")
        self.assertEqual(plan.title(span, sheet), "I1 under load")
        self.assertEqual(plan.title(TouchedLeads(), sheet), "The meter's own leads")
