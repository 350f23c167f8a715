"""A sweep as it is read: what a line says, and what it does not."""

import json
from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np

from recensor.core.circuit import PartAlone, asking_everything, one_line
from recensor.core.editing import free_table
from recensor.core.faults import explain
from recensor.core.judgement import assess
from recensor.core.plan import plan, unsafe
from recensor.core.quantity import RESISTANCE, parse
from recensor.core.record import Reading, Run
from recensor.core.sweeps import FittedLine, assess_lines
from recensor.formats.documents import assessment as formats
from recensor.formats.documents import run_document
from recensor.ledger.sweeps import next_in_table

METER = {
    "functions": {
        "voltage": [{"full": "20V", "step": "1mV", "accuracy": "0.5% + 2", "input": "10M"}],
        "resistance": [{"full": "2k", "step": "0.1", "accuracy": "0.8% + 2"}],
        "current": [{"full": "20mA", "step": "1uA", "accuracy": "1% + 2", "burden": "1", "jack": "mA"}],
    },
    "jacks": {"mA": {"fuse": "400mA"}},
}  # fmt: skip


def document(rows: list[tuple[str, str]], settings: list[str] | None = None, **more: Any) -> dict[str, Any]:
    """A run in which R1, 1 kΩ, was read at so many settings, volts and amps of each."""
    planned = {"settings": settings if settings is not None else [f"{2 * k + 1}V" for k in range(max(len(rows), 2))]}
    tree: dict[str, Any] = {
        "format": "recensor.run", "version": 1, "title": "A line", "meters": {"bench": "exact"},
        "parts": {"V1": {"kind": "voltage source", "nominal": "9V", "adjustable": True},
                  "R1": {"kind": "resistor", "nominal": "1k", "tolerance": "5%"}},
        "setups": {"main": {"reference": "g", "connections": {"V1": ["a", "g"], "R1": ["a", "g"]}}},
        "sweeps": {"line of R1": {"setup": "main", "source": "V1", "volts": {"across": ["a", "g"]},
                                  "amps": {"through": "R1"}, **(planned if planned["settings"] else {})}},
        "readings": [reading for k, (volts, amps) in enumerate(rows) for reading in (
            {"setup": "main", "quantity": "voltage", "across": ["a", "g"], "value": volts, "step": k},
            {"setup": "main", "quantity": "current", "through": "R1", "value": amps, "step": k})],
    }  # fmt: skip
    return {**tree, **more}


def read(rows: list[tuple[str, str]], **more: Any) -> Run:
    return run_document.from_tree(document(rows, **more))


def line_of(run: Run) -> FittedLine:
    (line,) = assess_lines(assess(run))
    return line


STRAIGHT = [(f"{v:.3f}", f"{v / 1.018:.3f}m") for v in (1.0, 3.0, 5.0, 7.0, 9.0)]
LAMP = [(f"{v:.3f}", f"{50 * (v / 6) ** 0.55:.2f}m") for v in (0.5, 1.0, 2.0, 3.0, 4.0, 5.0, 6.0)]


def with_amps(row: int, amps: str) -> list[tuple[str, str]]:
    """The straight rows with one current otherwise."""
    return [(volts, amps if k == row else own) for k, (volts, own) in enumerate(STRAIGHT)]


class Lines(TestCase):
    def test_a_resistor(self) -> None:
        run = read(STRAIGHT)
        ohms = Reading(PartAlone("R1", RESISTANCE), parse("1.019k"))
        line = line_of(replace(run, readings=(ohms, *run.readings)))
        self.assertTrue(line.straight)
        self.assertAlmostEqual(line.resistance or 0, 1018.0, 0)
        assert line.judged is not None
        self.assertEqual((line.verdict, line.judged.nominal.value, line.judged.measured.value), ("agrees", 1e3, 1019.0))
        self.assertIn("Through the origin", line.reason)
        self.assertAlmostEqual(line.mean_resistance or 0, 1018.0, 0)

    def test_gains_count_once_however_many_rows(self) -> None:
        """The relative uncertainty tends to that of the two gains, and never below; digits shrink with the rows."""
        found = []
        for rows in (3, 12, 48):
            volts = np.linspace(1.0, 9.0, rows)
            run = read([(f"{v:.3f}", f"{v / 1.018:.3f}m") for v in volts], meters={"bench": METER})
            line = line_of(run)
            assert line.spread is not None
            found.append(2 * line.spread.standard / (line.resistance or 1.0))
        of_gains = 2 * np.hypot(0.005, 0.01) / np.sqrt(3) * np.sqrt(15 / 16)
        self.assertTrue(found[0] > found[1] > found[2] > of_gains)
        self.assertAlmostEqual(found[2] / of_gains, 1.0, 1)

    def test_a_lamp_is_no_line(self) -> None:
        parts = document([])["parts"] | {"R1": {"kind": "lamp", "nominal": "6V", "current": "50mA"}}
        line = line_of(read(LAMP, parts=parts))
        self.assertIs(line.straight, False)
        self.assertEqual((line.verdict, line.resistance, line.judged), ("not judged", None, None))
        self.assertIn("a curve is clearly better", line.reason)

    def test_a_noisy_resistor_is_not_called_a_curve(self) -> None:
        """Of 200 honest resistors, each display a digit or two off, none bends."""
        draw = np.random.default_rng(5)
        for _ in range(200):
            count = int(draw.integers(4, 9))
            volts = np.linspace(1, 9, count)
            rows = [(f"{v + draw.normal(0, 2e-3):.3f}", f"{v / 1.018 + draw.normal(0, 2e-3):.3f}m") for v in volts]
            self.assertIsNot(line_of(read(rows)).straight, False)

    def test_one_stray_point_is_named_and_left_out_of_the_slope(self) -> None:
        for row, amps in ((2, "9.90m"), (4, "9.25m"), (0, "1.90m")):
            line = line_of(read(with_amps(row, amps)))
            with self.subTest(row=row):
                self.assertEqual((line.stray, line.straight), (row, True))
                self.assertAlmostEqual(line.resistance or 0, 1018.0, 0)
                self.assertIn(f"Row {row + 1} does not fit the others: read it again", line.reason)
                # The fits through all points stay what they are.
                self.assertGreater((line.with_intercept and line.with_intercept.slope_error) or 0, 1.0)


class OddSweeps(TestCase):
    def test_each_says_why(self) -> None:
        cases = {
            "Two points always lie on a line": STRAIGHT[:2],
            "One point is no line": STRAIGHT[:1],
            "All rows are at one current": [STRAIGHT[2]] * 3,
            "All volts and amperes are zero": [("0.000", "0.000m")] * 3,
            "Row 3 is over-range": with_amps(2, "OL"),
            "Row 3 has volts against its current": with_amps(2, "-4.912m"),
            "Still to read": [],
            "No current flows in any row": [("1.000", "0.000m"), ("3.000", "0.000m")],
        }
        for said, rows in cases.items():
            with self.subTest(said):
                self.assertIn(said, line_of(read(rows)).reason)

    def test_signs_of_both_ways_are_one_line(self) -> None:
        line = line_of(read([("-5.000", "-4.912m"), ("-2.000", "-1.965m"), ("2.000", "1.965m"), ("5.000", "4.912m")]))
        self.assertEqual((line.left_out, line.straight), ((), True))

    def test_a_free_table_has_as_many_rows_as_were_read(self) -> None:
        run = read(STRAIGHT, settings=[])
        line = line_of(run)
        self.assertEqual(len(line.points), 5)
        self.assertAlmostEqual(line.resistance or 0, 1018.0, 0)

    def test_rows_stay_out_of_the_accounts_and_of_the_causes(self) -> None:
        assessed = assess(read(with_amps(2, "9.90m")))
        self.assertTrue(all(not account.terms or account.residual is None for account in assessed.laws))
        self.assertEqual(explain(assessed).causes, ())

    def test_each_row_is_judged_at_its_own_setting(self) -> None:
        targets = [t for t in assess(read(STRAIGHT)).targets.values() if t.measurement.target.step is not None]
        calculated = [t.judged.nominal.value for t in targets[1::2]]
        np.testing.assert_allclose(calculated, [0.001, 0.003, 0.005, 0.007, 0.009])

    def test_places_of_what_is_wrong(self) -> None:
        tree = document(STRAIGHT)
        for change, place in (
            (lambda t: t["readings"][0].update(step=9), "readings[0].step"),
            (lambda t: t["readings"][0].update(step=-1), "readings[0].step"),
            (lambda t: t["sweeps"]["line of R1"].update(source="R1"), "sweeps.line of R1.source"),
            (lambda t: t["sweeps"]["line of R1"].update(setup="other"), "sweeps.line of R1.setup"),
            (lambda t: t["sweeps"]["line of R1"].update(amps={"through": "R9"}), "sweeps.line of R1.amps"),
            (lambda t: t["sweeps"]["line of R1"].update(settings=["1V", "2A"]), "sweeps.line of R1.settings[1]"),
            (lambda t: t["readings"].append({"of": "R1", "value": "1k", "step": 1}), "readings[10].step"),
        ):
            wrong = json.loads(json.dumps(tree))
            change(wrong)
            with self.subTest(place), self.assertRaisesRegex(run_document.DocumentError, place.replace("[", r"\[")):
                run_document.from_tree(wrong)


class Written(TestCase):
    def test_the_document_comes_back_and_its_line_is_printed(self) -> None:
        run = read(STRAIGHT)
        self.assertEqual(run_document.read(run_document.write(run)), run)
        assessed = assess(run)
        (line,) = formats.to_tree(assessed, explain(assessed))["lines"]
        wanted = {"sweep", "n", "points", "mean_resistance", "with_intercept", "through_origin", "resistance",
                  "uncertainty", "nominal", "percent_error", "verdict", "straight", "reason"}  # fmt: skip
        self.assertLessEqual(wanted, set(line))
        self.assertEqual((line["n"], line["points"][1]["step"], line["straight"]), (5, 1, True))


class Planned(TestCase):
    def test_row_after_row_with_two_meters(self) -> None:
        """Each row is set once, no step is unsafe, and between rows nothing is moved but the source's knob."""
        run = read([], settings=["1V", "3V", "5V"])
        steps = plan(run).steps
        self.assertTrue(all(not unsafe(step.state) for step in steps))
        rows = [step for step in steps if step.reads is not None and step.reads.step is not None]
        self.assertEqual([step.reads.step for step in rows if step.reads], [0, 0, 1, 1, 2, 2])
        self.assertEqual([len(step.moves) for step in rows[1:]], [0, 1, 0, 1, 0])
        self.assertTrue(rows[2].words.startswith("Set V1 to 3 V; read volts in row 2"))
        self.assertTrue(all(step.state.opened and step.state.second for step in rows))


class AroundTheAmmeter(TestCase):
    """Volts that were read across the part and the ammeter: I (R + r), of which I r is the ammeter's."""

    ROWS = tuple((f"{v:.3f}", f"{v / 1.1:.3f}m") for v in (1.0, 3.0, 5.0, 7.0, 9.0))

    def line(self, *, around: bool, described: bool = True) -> tuple[Run, FittedLine]:
        coarse = json.loads(json.dumps(METER).replace('"burden": "1"', '"burden": "100"'))
        tree = document(list(self.ROWS), [], meters={"bench": coarse if described else METER | {"functions": {}}})
        if around:
            tree["sweeps"]["line of R1"]["around_ammeter"] = True
        run = run_document.from_tree(tree)
        self.assertEqual(run_document.from_tree(run_document.to_tree(run)).sheet.sweeps, run.sheet.sweeps)
        return run, line_of(run)

    def test_its_share_is_taken_off_and_each_current_is_expected_with_it(self) -> None:
        run, line = self.line(around=True)
        self.assertAlmostEqual(line.resistance or 0.0, 1000.0, delta=1.0)
        self.assertEqual(line.verdict, "agrees")
        self.assertIn("up to 100.0 Ω times the current, is taken off", line.reason)
        amps = [one for one in assess(run).targets.values() if one.measurement.target.is_through]
        for one in amps:
            self.assertAlmostEqual(one.judged.nominal.value or 0.0, one.measurement.mean or 0.0, delta=2e-6)

    def test_nothing_is_taken_off_where_the_voltmeter_lies_across_the_part_alone(self) -> None:
        _, line = self.line(around=False)
        self.assertAlmostEqual(line.resistance or 0.0, 1100.0, delta=1.0)
        self.assertEqual(line.verdict, "outside")

    def test_of_a_meter_that_nobody_described_it_is_said_that_nothing_is_taken_off(self) -> None:
        _, line = self.line(around=True, described=False)
        self.assertAlmostEqual(line.resistance or 0.0, 1100.0, delta=1.0)
        self.assertIn("not taken off: its meter is not described", line.reason)


class TablesThatShareACurrent(TestCase):
    def test_each_has_its_own_rows_beside_another_part_of_the_branch(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + 2k2 + 3k3; 5%"))
        names = []
        for nodes in (("A", "gnd"), ("A", "B"), ("A", "C")):
            sheet, name = free_table(sheet, "main", nodes)
            names.append(name)
        amps = [sheet.sweeps[name].amps for name in names]
        self.assertEqual(({one.part for one in amps}, amps[0].at, len({one.key for one in amps})), ({"V1"}, None, 3))
        self.assertEqual([free_table(sheet, "main", ("A", "B"))[1]], names[1:2])
        again = run_document.sheet_from_tree(run_document.sheet_to_tree(sheet))
        self.assertEqual(again.sweeps, sheet.sweeps)
        for name in names:
            table = sheet.sweeps[name]
            run = Run(sheet, (Reading(table.volts_at(0), parse("1.00", "V")),))
            self.assertEqual(next_in_table(table.volts_at(0), run), table.amps_at(0))
            run = replace(run, readings=(*run.readings, Reading(table.amps_at(0), parse("1.00m", "A"))))
            self.assertEqual(next_in_table(table.amps_at(0), run), table.volts_at(1))
