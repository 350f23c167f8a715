"""Experiments of several setups on hidden benches, and the values that bench readings of such circuits gave."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core import plan
from recensor.core.circuit import (
    Across,
    PartAlone,
    Setup,
    Sheet,
    Through,
    asking_everything,
    node_list,
    one_line,
)
from recensor.core.editing import edits, equivalent_source, superposition
from recensor.core.examples import EXPERIMENTS, circuits, experiments
from recensor.core.judgement import Assessment, assess
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from tests.hidden import honest, off_by, true_value

FACTORS = st.lists(st.floats(0.97, 1.03), min_size=12, max_size=12)


def measured(sheet: Sheet, factors: list[float], slip: tuple[int, float] | None = None) -> Run:
    """One honest reading of five digits at every asked point; a `slip` multiplies one of them."""
    return honest(sheet, off_by(sheet, factors), slip=slip)


def superposed(assessment: Assessment) -> list[bool]:
    return [one.holds for one in assessment.sanity if one.rule.startswith("readings with each source alone")]


class HiddenBenches(TestCase):
    @settings(max_examples=25)
    @given(st.sampled_from(sorted(EXPERIMENTS)), FACTORS)
    def test_honest_readings_of_every_ready_made_experiment_agree(self, name: str, factors: list[float]) -> None:
        run = EXPERIMENTS[name]().sheet
        assessed = assess(measured(run, factors))
        verdicts = {str(target.judged.verdict) for target in assessed.targets.values()}
        self.assertLessEqual(verdicts, {"agrees", "within tolerance", "no tolerance", "as set", "no nominal"})
        self.assertLessEqual(
            {law.verdict for law in assessed.laws}, {"balances", "no independent check", "needs readings"}
        )
        self.assertTrue(all(one.holds for one in assessed.sanity), [one for one in assessed.sanity if not one.holds])
        self.assertEqual(name == "superposition", bool(superposed(assessed)))

    @settings(max_examples=25)
    @given(FACTORS, st.data())
    def test_a_slip_in_one_setup_breaks_the_sum_of_the_sources(self, factors: list[float], data: st.DataObject) -> None:
        run = EXPERIMENTS["superposition"]().sheet
        through = [k for k, t in enumerate(run.asked) if isinstance(t, Through) and t.part == "R3"]
        slipped = data.draw(st.sampled_from(through))
        self.assertIn(False, superposed(assess(measured(run, factors, (slipped, 10.0)))))

    def test_turned_leads_are_told_by_their_sign_not_taken_for_a_misfit(self) -> None:
        run = measured(EXPERIMENTS["superposition"]().sheet, [1.0] * 12)
        turned = []
        for reading in run.readings:
            target = reading.target
            if isinstance(target, Across) and target.setup == "V1 alone" and target.measurand is VOLTAGE:
                target = replace(target, nodes=target.nodes[::-1])
                reading = replace(reading, target=target, value=parse(f"{-float(reading.value):.4e}", "V"))
            turned.append(reading)
        self.assertTrue(all(superposed(assess(replace(run, readings=tuple(turned))))))

    def test_what_is_told_names_the_state_of_the_circuit(self) -> None:
        run = EXPERIMENTS["superposition"]().sheet
        target = next(t for t in run.asked if t.setup == "V1 alone" and t.measurand is CURRENT)
        told = plan.card(target, plan.Bench(run))
        self.assertEqual(told.setup, "V1 alone")
        self.assertIn("V2 is taken out; a wire from B to gnd in its place.", told.here)
        half = edits.set_value(edits.add_setup(circuits.chain(3), "half", "main"), "half", "V1", parse("4.5V"))
        span = next(t for t in half.asked if t.setup == "half" and isinstance(t, Across) and t.measurand is VOLTAGE)
        self.assertIn("V1 set to 4.5 V here.", plan.card(span, plan.Bench(half)).here)
        self.assertIn(PartAlone("V1", VOLTAGE, "half"), half.asked)


class CheckValues(TestCase):
    """Common practice, no source: values calculated and read at benches."""

    def test_loaded_network_and_its_equivalent_source(self) -> None:
        run = one_line.read("10V: 3.9k + (8.2k | 4.7k + RL=3.3k)")
        made = equivalent_source(run, "main", "RL")
        self.assertAlmostEqual(float(made.parts["Ve"].nominal), 6.78, delta=0.005)
        self.assertAlmostEqual(float(made.parts["Re"].nominal), 7340, delta=5)
        values = {name: float(part.nominal) for name, part in made.parts.items()}
        for setup in ("loaded", "equivalent"):
            across = made.setups["loaded"].connections["RL"]
            volts = true_value(Across(VOLTAGE, across, setup), made, values)
            self.assertAlmostEqual(volts, 2.10, delta=0.005)
            reading = Reading(Across(VOLTAGE, across, setup), parse("2.13"))
            assessed = assess(Run(made, (reading,)))
            self.assertEqual([str(one.judged.verdict) for one in assessed.targets.values()], ["agrees"])

    def test_currents_of_one_branch_add_up(self) -> None:
        """9.83 mA with both sources, 1.68 mA and 8.14 mA alone."""
        run = experiments.two_source_superposition().sheet
        readings = [
            Reading(Through("R3", setup), parse(text))
            for setup, text in (("all sources", "9.83m"), ("V1 alone", "1.68m"), ("V2 alone", "8.14m"))
        ]
        self.assertEqual(superposed(assess(Run(run, tuple(readings)))), [True])

    def test_four_in_parallel_and_three(self) -> None:
        bank = one_line.read("11.98V: 3.3k | 2.7k | 4.7k | 5.6k")
        values = {name: float(part.nominal) for name, part in bank.parts.items()}
        for name, read in (("R1", 3.69e-3), ("R2", 4.46e-3)):
            current = true_value(Through(name, "main"), bank, values)
            self.assertLess(abs(read / current - 1), 0.02)
        three = one_line.read("9V: 6.79k | 11.92k | 8.18k")
        values = {name: float(part.nominal) for name, part in three.parts.items()}
        total = true_value(Across(RESISTANCE, ("A", "gnd"), "main"), three, values)
        self.assertLess(abs(2830 / total - 1), 0.01)


class Equivalents(TestCase):
    def test_what_has_no_equivalent_source_says_why(self) -> None:
        for line, load, said in [
            ("9V: 1k + RL=2k", "V1", "no resistor"),
            ("9V: ? + (1k | RL=2k)", "RL", "unmarked"),
            ("9V: Re=1k + (1k | RL=2k)", "RL", "named Re already"),
        ]:
            with self.assertRaisesRegex(edits.EditError, said):
                equivalent_source(one_line.read(line), "main", load)
        balanced = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 1k\nR3 B gnd 1k\nR4 C gnd 1k\nRL B C 1k")
        with self.assertRaisesRegex(edits.EditError, "zero or negative"):
            equivalent_source(balanced, "main", "RL")
        with self.assertRaisesRegex(edits.EditError, "at least two sources"):
            superposition(one_line.read("9V: 1k"), "main")

    @settings(max_examples=30)
    @given(st.sampled_from(["R1", "R2", "R3", "R4"]), st.floats(1, 1e5))
    def test_the_equivalent_gives_any_load_what_the_network_gives_it(self, name: str, ohms: float) -> None:
        run = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 B C 2k2\nR3 C gnd 3k3\nR4 B gnd 4k7\nI1 gnd C 1mA")
        load = replace(run.parts[name], nominal=parse(f"{ohms:.3e}"))
        try:
            made = equivalent_source(replace(run, parts={**run.parts, name: load}), "main", name)
        except edits.EditError:
            return  # a load from which current flows the other way
        values = {key: float(part.nominal) for key, part in made.parts.items()}
        currents = [true_value(Through(name, s), made, values) for s in ("loaded", "equivalent")]
        self.assertLess(abs(currents[1] / currents[0] - 1), 2e-3)  # the equivalent's values have four digits
        self.assertIsInstance(made.setups["equivalent"], Setup)


class Asked(TestCase):
    def test_with_every_source_off_only_parts_by_themselves_are_asked_for(self) -> None:
        sheet = asking_everything(edits.turn_source(circuits.chain(2), "main", "V1", off=True))
        self.assertEqual(list(sheet.asked), [PartAlone("R1", RESISTANCE), PartAlone("R2", RESISTANCE)])

    def test_a_node_that_is_called_as_the_inside_of_the_equivalent_source_is_kept_apart(self) -> None:
        sheet = node_list.read("V1 A gnd 9V\nR1 A E 1k\nR2 E gnd 1k\nRL E gnd 2k")
        made = equivalent_source(sheet, "main", "RL").setups["equivalent"]
        self.assertEqual(len({*made.connections["Ve"], *made.connections["Re"]}), 3)
