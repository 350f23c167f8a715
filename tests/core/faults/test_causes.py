"""What is said of a bench with one thing wrong: kind, place, value, sentence, correction; and of one with nothing."""

import json
from dataclasses import replace
from unittest import TestCase

from recensor.core.boards import Board, Built, Piece, Placement
from recensor.core.circuit import Across, PartAlone, Setup, Through, asking_everything, one_line
from recensor.core.faults import FaultKind, Rebuilt, Reentered, Restated, explain
from recensor.core.judgement import Outcome, assess
from recensor.core.meters import EXACT
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run
from recensor.formats.documents import assessment as assessments
from recensor.formats.documents import run_document
from tests.core.faults.benches import drawn, explained, first, names, place_of, read, rewritten, true_values

OHMS_OF_R2 = PartAlone("R2", RESISTANCE)
DROP_OF_R4 = Across(VOLTAGE, ("C", "gnd"), "main")


class OneThingWrong(TestCase):
    def test_nothing_is_said_of_a_clean_bench(self) -> None:
        for seed in range(12):
            found = explained(read(drawn(), seed=seed))
            self.assertEqual(names(found.causes), [])
            self.assertGreater(found.nothing_wrong, 0.5)

    def test_a_misread_band_is_named_with_its_colours_and_what_the_books_say_then(self) -> None:
        sheet = drawn()
        run = read(sheet, {"R2": 223.0})
        readings = [replace(r, value=parse("223", "Ω")) if r.target == OHMS_OF_R2 else r for r in run.readings]
        cause = first(replace(run, readings=tuple(readings)))
        self.assertEqual((cause.kind, cause.targets, cause.value), (FaultKind.MISREAD_CODE, ("parts.R2",), 220.0))
        self.assertIn("R2 reads as 220 Ω: third band brown instead of red. With that, ", cause.text)
        self.assertIn("the loop balances", cause.text)
        self.assertGreater(cause.score, 0.9)

    def test_another_part_in_the_circuit_than_the_one_that_was_read(self) -> None:
        cause = first(read(drawn(), {"R4": 1010.0}))
        self.assertEqual((cause.kind, cause.targets), (FaultKind.VALUE_OFF, ("parts.R4",)))
        self.assertAlmostEqual(cause.value or 0, 1010.0, delta=15.0)
        self.assertLess(abs((cause.value or 0) - 1010.0), cause.uncertainty or 0)
        self.assertIn("another part than the one that was read", cause.text)

    def test_an_open_joint_and_an_open_part_differ_by_the_part_itself(self) -> None:
        joint = first(read(drawn(), {"R3": 1e9}))
        self.assertEqual((joint.kind, joint.targets), (FaultKind.JOINT_OPEN, ("leads.R3.1",)))
        self.assertIn((FaultKind.JOINT_OPEN, "leads.R3.2"), joint.same)
        run = read(drawn(), {"R3": 1e9})
        alone = place_of(run, lambda t: t == PartAlone("R3", RESISTANCE))
        self.assertEqual(first(rewritten(run, alone, "OL")).kind, FaultKind.PART_OPEN)

    def test_a_short_is_fitted_in_milliohms(self) -> None:
        cause = first(read(drawn(), {"R4": 0.04}))
        self.assertEqual((cause.kind, cause.targets), (FaultKind.LEADS_IN_ONE_ROW, ("parts.R4",)))
        self.assertIn("it is shorted there", cause.text)

    def test_parts_in_each_others_places(self) -> None:
        true = true_values(drawn())
        run = read(drawn(), {"R1": true["R2"], "R2": true["R1"]})
        self.assertEqual(first(run).targets, ("parts.R1", "parts.R2"))
        self.assertEqual(first(run).kind, FaultKind.EXCHANGED_PARTS)

    def test_six_accusations_become_one_cause(self) -> None:
        """A source that sags: the drops are judged against it, so the sag alone is outside, and it is explained."""
        sheet = drawn()
        parts = {**sheet.parts, "V1": replace(sheet.parts["V1"], internal=parse("240"))}
        sagging = read(replace(sheet, parts=parts))
        run = replace(sagging, sheet=sheet)
        cause = first(run)
        self.assertEqual((cause.kind, cause.targets), (FaultKind.SOURCE_RESISTANCE, ("parts.V1",)))
        self.assertAlmostEqual(cause.value or 0, 240.0, delta=20.0)
        outside = {r.index for r in assess(run).readings if r.judged.outcome is Outcome.OUTSIDE}
        self.assertTrue(outside)
        self.assertEqual(set(cause.explains), outside)
        self.assertEqual(cause.leaves, ())

    def test_a_slip_of_the_pen_is_put_right_by_its_correction(self) -> None:
        run = read(drawn())
        place = place_of(run, lambda t: t.key == DROP_OF_R4.key)
        text = run.readings[place].value.text
        slips = {
            FaultKind.PREFIX_SLIP: f"{text}m",
            FaultKind.SIGN: f"-{text}",
            FaultKind.DECIMAL_SLIP: f"{float(text) * 10:.2f}",
        }
        for kind, typed in slips.items():
            cause = first(rewritten(run, place, typed))
            self.assertEqual((cause.kind, cause.targets), (kind, (f"readings[{place}]",)), typed)
            if not isinstance(cause.correction, Reentered):
                self.fail("a slip is entered again")
            corrected = cause.correction.applied(rewritten(run, place, typed))
            self.assertAlmostEqual(float(corrected.readings[place].value), float(text))

    def test_readings_of_other_points(self) -> None:
        run = read(drawn())
        volts = [
            k for k, r in enumerate(run.readings) if isinstance(r.target, Across) and r.target.measurand is VOLTAGE
        ]
        one, other = volts[0], volts[1]
        texts = [run.readings[k].value.text for k in (one, other)]
        cause = first(rewritten(rewritten(run, one, texts[1]), other, texts[0]))
        self.assertEqual(cause.kind, FaultKind.SWAPPED_READINGS)
        self.assertEqual(cause.targets, (f"readings[{one}]", f"readings[{other}]"))
        alone = [k for k, r in enumerate(run.readings) if isinstance(r.target, PartAlone)][:4]
        late = run
        for k, before in zip(alone[1:], alone, strict=False):
            late = rewritten(late, k, run.readings[before].value.text)
        cause = first(late)
        self.assertEqual(cause.kind, FaultKind.SHIFTED_READINGS)
        self.assertEqual(cause.targets, tuple(f"readings[{k}]" for k in alone[1:]))

    def test_a_branch_that_stayed_open_after_its_current(self) -> None:
        sheet = drawn()
        run = read(sheet)
        opened = read(sheet, {"R2": 1e9})
        current = place_of(run, lambda t: t == Through("R2", "main"))
        drops = [
            k for k, r in enumerate(run.readings) if isinstance(r.target, Across) and r.target.measurand is VOLTAGE
        ]
        order = [k for k in range(len(run.readings)) if k not in (*drops, current)] + [current, *drops]
        readings = [
            (opened if k in drops else run).readings[k] for k in order if run.readings[k].target.key is not None
        ]
        found = first(replace(run, readings=tuple(readings)))
        self.assertEqual((found.kind, found.targets), (FaultKind.LINK_LEFT_OUT, ("parts.R2",)))

    def test_a_fuse_and_an_ammeter(self) -> None:
        run = read(drawn())
        for k, reading in enumerate(run.readings):
            if reading.target.measurand is CURRENT:
                run = rewritten(run, k, "0.000")
        self.assertEqual(first(run).kind, FaultKind.METER_FUSE_OPEN)

    def test_a_second_state_of_the_circuit_tells_what_one_cannot(self) -> None:
        """A lead at another node in one setup of two: the other setup is left alone."""
        sheet = drawn("9V: 1k + 2k2 + 3k3; 5%")
        first_setup = sheet.setup()
        other = replace(first_setup, name="low", values={"V1": parse("6V")})
        both = asking_everything(replace(sheet, setups={"main": first_setup, "low": other}))
        leads = {**first_setup.connections, "R3": ("C", "A")} if "C" in first_setup.nodes else first_setup.connections
        wrong = replace(both, setups={"main": Setup("main", "gnd", leads), "low": other})
        run = replace(read(wrong), sheet=both)
        found = explained(run)
        self.assertTrue(found.causes)
        self.assertTrue(any(t.startswith("leads.R3") for cause in found.causes for t in cause.targets), found.causes)

    def test_where_the_board_is_known_the_row_and_the_hole_are_named(self) -> None:
        """Two dividers side by side, their middles in rows 3 and 4: R1's second lead slipped into row 4."""
        sheet = drawn("9V: (1k + 2k2) | (3k3 + 4k7); 5%")
        board, placements = Board(), {}
        ends = {
            "V1": ("+L1", "-L1"),
            "R1": ("+L5", "a3"),
            "R2": ("b3", "-L5"),
            "R3": ("+L8", "a4"),
            "R4": ("b4", "-L8"),
        }
        for name, holes in ends.items():
            one, other = (board.hole(hole) for hole in holes)
            placements[name] = Placement(name, Piece.PART, (one, other))
        leads = {**sheet.setup().connections, "R1": ("A", "C")}
        slipped = read(replace(sheet, setups={"main": Setup("main", "gnd", leads)}))
        cause = first(replace(slipped, sheet=sheet, boards={"main": Built(board, placements)}))
        self.assertEqual((cause.kind, cause.targets), (FaultKind.LEAD_ONE_ROW_OFF, ("leads.R1.2",)))
        self.assertIn("R1's second lead is one row off, in row 4 a–e, at node C.", cause.text)
        self.assertEqual(cause.correction and cause.correction.words, "Move R1's second lead to a3 and read again")


class Together(TestCase):
    def test_two_things_wrong_are_told_as_two_that_belong_together(self) -> None:
        run = read(drawn(), {"R4": 1010.0})
        place = place_of(run, lambda t: t == PartAlone("R1", RESISTANCE))
        digits = run.readings[place].value.text
        found = explained(rewritten(run, place, f"{float(digits.removesuffix('k')) * 10:.2f}k"))
        kinds = {cause.kind for cause in found.causes[:3]}
        self.assertLessEqual({FaultKind.VALUE_OFF, FaultKind.DECIMAL_SLIP}, kinds, names(found.causes))
        self.assertTrue(found.causes[0].together)
        self.assertIn(" And: ", found.causes[0].text)

    def test_what_no_cause_explains_is_said_to_be_so(self) -> None:
        run = read(drawn())
        drops = [
            k for k, r in enumerate(run.readings) if isinstance(r.target, Across) and r.target.measurand is VOLTAGE
        ]
        for k, text in zip(drops, ("1.11", "6.66", "0.77"), strict=False):
            run = rewritten(run, k, text)
        found = explained(run)
        self.assertFalse(found.is_explained)
        self.assertGreater(found.none_of_these, 0.5)
        self.assertEqual(found.causes[0].kind, FaultKind.UNEXPLAINED)
        self.assertEqual(set(found.causes[0].leaves), set(drops[:3]))


class Corrected(TestCase):
    def test_a_correction_by_hand_keeps_what_was_read_with_the_circuit_as_it_was_built(self) -> None:
        run = read(drawn(), {"R4": 1e9})
        cause = first(run)
        if not isinstance(cause.correction, Rebuilt):
            self.fail("an open joint is corrected by hand")
        sheet = cause.correction.planned(run)
        self.assertEqual(list(sheet.setups), ["main", "main mended"])
        self.assertEqual(sheet.setups["main mended"].connections, run.sheet.setup().connections)
        before = assess(replace(run, sheet=sheet))
        live = [t for t in before.targets.values() if isinstance(t.measurement.target, Across | Through)]
        self.assertFalse([t for t in live if t.judged.outcome is Outcome.OUTSIDE], "as built it agrees")
        again = {target for target in sheet.asked if target.setup == "main mended"}
        self.assertEqual(len(again), len([t for t in run.sheet.asked if t.setup == "main"]))

    def test_a_value_is_stated_anew(self) -> None:
        run = read(drawn(), {"R4": 1010.0})
        cause = first(run)
        if not isinstance(cause.correction, Restated):
            self.fail("a value is stated anew")
        after = assess(cause.correction.applied(run))
        self.assertFalse([t for t in after.targets.values() if t.judged.outcome is Outcome.OUTSIDE])


class Bounds(TestCase):
    def test_few_contradictory_and_unsolvable_runs_are_answered(self) -> None:
        sheet = drawn()
        run = read(sheet)
        for count in range(len(run.readings)):
            explained(replace(run, readings=run.readings[:count]))
        loop = {**sheet.setup().connections, "V2": sheet.setup().connections["V1"]}
        twice = replace(
            sheet,
            parts={**sheet.parts, "V2": replace(sheet.parts["V1"], name="V2")},
            setups={"main": Setup("main", "gnd", loop)},
        )
        self.assertEqual(explained(replace(run, sheet=twice)).causes, ())
        exact = replace(run, meters={"m": EXACT})
        explained(exact)

    def test_readings_of_more_digits_than_any_slip_of_them_could_have_are_weighed_like_others(self) -> None:
        """As spreadsheets write them: ten decimals, or what a sum of floats leaves."""
        for text in ("3.3333333333", "108.30000000000001", "0.000000000000001"):
            run = rewritten(read(drawn()), 0, f"{text}k")
            explained(run)
        clean = asking_everything(one_line.read("10V: 1k + 2k; 5%"))
        volts = place_of(read(clean), lambda target: target == Across(VOLTAGE, ("A", "B"), "main"))
        self.assertEqual(explained(rewritten(read(clean), volts, "3.3333333333")).told, ())

    def test_a_lamp_in_a_setup_without_a_source_explains_nothing(self) -> None:
        lit = asking_everything(one_line.read("9V: 330 + led 2V 20mA; 5%"))
        main = lit.setup()
        dark = replace(main, name="dark", connections={k: v for k, v in main.connections.items() if k != "V1"})
        sheet = replace(lit, setups={"main": main, "dark": dark})
        readings = [Reading(Across(VOLTAGE, ("A", "B"), "dark"), parse("0.000", "V")),
                    Reading(Through("R1", "dark"), parse("0.00", "mA"))]  # fmt: skip
        self.assertEqual(explained(Run(sheet, tuple(readings))).causes, ())

    def test_a_run_of_hundreds_of_readings_says_what_it_left_out(self) -> None:
        line = "9V: " + " + ".join(["1k"] * 40) + "; 5%"
        run = read(drawn(line), {"R7": 2020.0})
        found = explain(assess(Run(run.sheet, run.readings * 3, meters=run.meters)))
        self.assertTrue(found.causes or found.left_out)

    def test_unmarked_parts_are_known_by_their_readings(self) -> None:
        sheet = asking_everything(one_line.read("9V: ? + 2k2 5% + ?"))
        known = asking_everything(one_line.read("9V: 1k + 2k2 5% + 470"))
        run = replace(read(known, {"R2": 1100.0}), sheet=sheet)
        cause = first(run)
        self.assertEqual(cause.targets, ("parts.R2",))


class Printed(TestCase):
    def test_what_judge_prints_of_a_cause(self) -> None:
        run = read(drawn(), {"R3": 1e9})
        assessed = assess(run)
        tree = json.loads(json.dumps(assessments.to_tree(assessed, explain(assessed)), allow_nan=False))
        cause = tree["faults"][0]
        self.assertEqual(
            set(cause),
            {"kind", "target", "value", "uncertainty", "explains", "leaves", "score", "text", "next", "same"},
        )
        self.assertEqual((cause["kind"], cause["target"]), ("joint open", "leads.R3.1"))
        self.assertIn({"kind": "joint open", "target": "leads.R3.2"}, cause["same"])
        self.assertLessEqual(len(tree["faults"]), 5)
        self.assertEqual(run_document.read(run_document.write(run)).readings, run.readings)
