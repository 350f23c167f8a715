"""The run document: the format's own example, errors that name their place, and the command line."""

import json
import subprocess
import sys
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest import TestCase

from jsonschema import Draft202012Validator

from recensor.core.boards import FULL as FULL_BOARD
from recensor.core.boards import HALF, Board, Piece, planned
from recensor.core.circuit import Handout, one_line
from recensor.core.examples import EXPERIMENTS
from recensor.core.examples.shapes import Shape, shaped
from recensor.core.faults import explain
from recensor.core.judgement import assess
from recensor.core.record import Run
from recensor.formats.documents import assessment, run_document
from recensor.formats.documents.reader import DocumentError
from tests.commands import ran
from tests.written import part

ROOT = Path(__file__).parents[2]
DOCUMENTS = Path(__file__).parent / "documents"
EXAMPLE = DOCUMENTS / "vane-divider.run.json"
FULL = DOCUMENTS / "everything.run.json"


def judged(*files: object, stdin: bytes = b"", command: str = "judge") -> "subprocess.CompletedProcess[bytes]":
    """What the command line says of some files."""
    return ran(command, *files, stdin=stdin)


class Example(TestCase):
    def test_the_formats_own_figures(self) -> None:
        program = str(Path(sys.executable).parent / "recensor")
        done = subprocess.run([program, "judge", EXAMPLE], capture_output=True, check=False)  # as a person runs it
        self.assertEqual((done.returncode, done.stderr), (0, b""))
        self.assertEqual(done.stdout, judged(EXAMPLE).stdout)
        result = json.loads(done.stdout)
        self.assertEqual(
            list(result), ["parts", "readings", "targets", "laws", "sanity", "claims", "faults", "warnings"]
        )
        self.assertEqual(result["faults"], [])
        parts = result["parts"]
        self.assertEqual(
            [parts[name]["verdict"] for name in ("R1", "R2", "V1")], ["within tolerance", "unread", "as set"]
        )
        self.assertAlmostEqual(parts["R1"]["percent_error"], -0.8667, places=4)
        self.assertAlmostEqual(parts["V1"]["percent_error"], 0.4444, places=4)
        self.assertEqual((parts["R2"]["measured"], parts["V1"]["tolerance_percent"]), (None, None))
        reading = result["readings"][3]
        self.assertEqual((reading["index"], reading["value"], reading["verdict"]), (3, 2.83, "agrees"))
        self.assertAlmostEqual(reading["calculated"]["nominal"], 2.8125)
        self.assertAlmostEqual(reading["calculated"]["measured"], 9.04 * 1487 / 4787)
        self.assertAlmostEqual(reading["percent_error"]["nominal"], 0.622, places=3)
        self.assertAlmostEqual(reading["percent_error"]["measured"], 0.779, places=3)
        self.assertAlmostEqual(reading["uncertainty"]["reading"], 0.00577, places=5)
        self.assertIsNone(reading["uncertainty"]["calculated"]["nominal"])
        self.assertAlmostEqual(reading["uncertainty"]["calculated"]["measured"], 0.1118, places=4)
        self.assertAlmostEqual(reading["normalised_error"]["measured"], 0.195, places=3)
        target = result["targets"][3]
        self.assertEqual([target[key] for key in ("setup", "quantity", "across", "indexes", "n", "mean", "s")],
                         ["main", "voltage", ["top", "mid"], [3], 1, 2.83, None])  # fmt: skip
        self.assertEqual(set(reading) - {"index", "value", "standing"}, set(target) & set(reading))
        [law] = result["laws"]
        self.assertEqual((law["around"], law["verdict"], law["residual"]), (["V1", "R1", "R2"], "needs readings", None))
        self.assertEqual(law["terms"], [{"part": "V1", "sign": 1, "value": 9.04, "from": [1]},
                                        {"part": "R1", "sign": -1, "value": 2.83, "from": [3]}])  # fmt: skip
        self.assertEqual(law["missing"], [{"quantity": "voltage", "across": ["mid", "gnd"]}])
        self.assertEqual([warning["at"] for warning in result["warnings"]], ["parts.V1"])

    def test_without_a_meter_an_ordinary_handheld_is_assumed_and_said_once(self) -> None:
        tree = json.loads(EXAMPLE.read_text(encoding="utf-8"))
        del tree["meters"]
        result = json.loads(judged("-", stdin=json.dumps(tree).encode()).stdout)
        uncertainty = result["readings"][3]["uncertainty"]
        self.assertAlmostEqual(uncertainty["reading"], 0.03536, places=5)
        self.assertAlmostEqual(uncertainty["calculated"]["measured"], 0.11717, places=5)
        self.assertEqual([warning["at"] for warning in result["warnings"]], ["meters", "parts.V1"])


class Documents(TestCase):
    def test_what_is_written_reads_back_as_the_same_run(self) -> None:
        resistors = [part(f"R{k}", value, "5%") for k, value in enumerate(["1k", "2k2", "R47", "1M5"], 1)]
        runs = [run_document.read(file.read_bytes()) for file in DOCUMENTS.glob("*.run.json")]
        runs += [Run(shaped(shape, shape.value, part("V1", "9"), resistors, (2, 3))) for shape in Shape]
        for run in runs:
            with self.subTest(run.sheet.title):
                self.assertEqual(run_document.read(run_document.write(run)), run)
                assessed = assess(run)
                json.dumps(assessment.to_tree(assessed, explain(assessed)), allow_nan=False)

    def test_a_line_of_what_lies_between_two_nodes_is_held_against_the_total_there(self) -> None:
        run = run_document.read((DOCUMENTS / "pair-line.run.json").read_bytes())
        answer = assessment.to_tree(assess(run), explain(assess(run)))
        pair, whole = answer["lines"]
        self.assertEqual((pair["nominal"], pair["verdict"], pair["straight"]), (1320.0, "agrees", True))
        self.assertEqual((whole["nominal"], whole["verdict"]), (2320.0, "agrees"))
        self.assertEqual(answer["warnings"], [], "what a free row is set to is not missed")
        self.assertEqual(answer["parts"]["R9"]["measured"], 468.0)
        self.assertEqual((run.sheet.setup().label, run.sheet.setup().line), ("Task 4", "R1 + (R2 | R3)"))
        self.assertEqual(run.sheet.handout, {run.sheet.asked[1].key: Handout("4 b", photo=True, hold=True)})

    def test_a_current_that_enters_nowhere_names_its_place(self) -> None:
        for way, value, place in [
            (("sweeps", "pair", "amps"), {"into": ["gnd", "b"]}, "sweeps.pair.amps.into: the current of V1"),
            (("sweeps", "pair", "amps"), {"into": ["b", "gnd"], "through": "R1"}, "sweeps.pair.amps: needs exactly"),
            (("sweeps", "pair", "source"), "R1", "sweeps.pair.source: "),
            (("readings", 2, "step"), None, "readings[2].into: is read in a row"),
            (("setups", "main", "sources_off"), ["V1"], "sweeps.pair.setup: names no setup"),
            (("setups", "main", "label"), "x" * 61, "setups.main.label: "),
        ]:
            tree = json.loads((DOCUMENTS / "pair-line.run.json").read_text(encoding="utf-8"))
            inner: Any = tree
            for key in way[:-1]:
                inner = inner[key]
            inner.pop(way[-1], None) if value is None else inner.update({way[-1]: value})
            with self.subTest(place), self.assertRaises(DocumentError) as caught:
                run_document.from_tree(tree)
            self.assertTrue(str(caught.exception).startswith(place), str(caught.exception))

    def test_errors_name_their_place(self) -> None:
        for path, value, place in [
            (["format"], "other", "format: "),
            (["version"], 2, "version: "),
            (["version"], True, "version: "),
            (["colour"], "red", "colour: unknown key"),
            (["parts", "R1", "kind"], "coil", "parts.R1.kind: "),
            (["parts", "R1", "nominal"], 1500, "parts.R1.nominal: must be text"),
            (["parts", "R1", "nominal"], "1500V", "parts.R1.nominal: "),
            (["parts", "R1", "tolerance"], "5", "parts.R1.tolerance: "),
            (["parts", "R1", "internal"], "1", "parts.R1.internal: "),
            (["parts", "V1", "nominal"], "OL", "parts.V1.nominal: "),
            (["parts", " R9"], {"kind": "resistor"}, "parts: "),
            (["setups", "main", "connections", "R9"], ["a", "b"], "setups.main.connections.R9: "),
            (["setups", "main", "connections", "R1"], ["a"], "setups.main.connections.R1: "),
            (["setups", "main", "sources_off"], ["R1"], "setups.main.sources_off: "),
            (["setups", "main", "values"], {"V1": "6A"}, "setups.main.values.V1: "),
            (["readings", 3, "across"], ["top", "elsewhere"], "readings[3].across: "),
            (["readings", 3, "through"], "R1", "readings[3]: needs exactly one"),
            (["readings", 3, "quantity"], "power", "readings[3].quantity: "),
            (["readings", 3, "value"], "2.83 A", "readings[3].value: "),
            (["readings", 3, "value"], None, "readings[3].value: "),
            (["readings", 4, "setup"], "other", "readings[4].setup: "),
            (["readings", 0, "struck"], {}, "readings[0].struck.reason: is missing"),
            (["readings", 0, "time"], "noon", "readings[0].time: "),
            (["judge", "limit"], "5", "judge.limit: "),
            (["claims"], [{"of": "R1", "value": "1k", "from": ["readings[9]"], "as": "sum"}], "claims[0].from: "),
            (["readings"], {}, "readings: must be a list"),
        ]:
            with self.subTest(place):
                tree = json.loads(EXAMPLE.read_text())
                spot = tree
                for key in path[:-1]:
                    spot = spot[key]
                spot[path[-1]] = value
                with self.assertRaises(DocumentError) as caught:
                    run_document.from_tree(tree)
                self.assertTrue(str(caught.exception).startswith(place), str(caught.exception))

    def test_what_is_no_document_at_all(self) -> None:
        for text in (b"", b"[]", b"null", b"{", b'{"a":1,"a":2}', b"\xff\xfe", b"[" * 100_000, b'{"format": NaN}'):
            with self.subTest(text[:20]), self.assertRaises(DocumentError):
                run_document.read(text)


class Extensions(TestCase):
    def test_keys_of_other_programs_are_ignored_wherever_they_stand(self) -> None:
        tree = json.loads(EXAMPLE.read_text())
        plain = run_document.from_tree(tree)
        tree["x-drawn-by"] = {"anything": [1, 2]}
        tree["parts"]["R1"]["x-colour"] = "beige"
        tree["readings"][0]["x-photo"] = True
        self.assertEqual(run_document.from_tree(tree), plain)

    def test_what_stands_on_a_board_comes_back_as_it_was(self) -> None:
        sheet = one_line.read("9V: 1k + 2k2", "On a board")
        setup = sheet.setup()
        layout = planned(sheet, setup, ["R1"], Board(FULL_BOARD, split=True))
        link = next(name for name, one in layout.placements.items() if one.piece is Piece.LINK)
        layout = layout.put(replace(layout.placements[link], pulled=True))
        run = Run(sheet, boards={"main": layout})
        self.assertEqual(run_document.read(run_document.write(run)), run)
        tree = run_document.to_tree(run)
        del tree["x-boards"]
        self.assertEqual(run_document.from_tree(tree).boards["main"].board, Board(HALF))

    def test_what_no_board_holds_names_its_place(self) -> None:
        for placed, said in [
            ({"R1": ["a1"]}, "placements.main.R1: must name two"),
            ({"R1": ["a1", "z9"]}, "placements.main.R1: There is no hole"),
            ({"R7": ["a1", "a5"]}, "placements.main.R7: there is no part"),
        ]:
            tree = {**json.loads(EXAMPLE.read_text()), "placements": {"main": placed}}
            with self.assertRaisesRegex(DocumentError, said):
                run_document.from_tree(tree)


class Meters(TestCase):
    def test_what_a_meter_shows_beyond_its_range_is_no_number(self) -> None:
        """A bare 1 on a meter that shows it so, and nothing else."""
        tree = json.loads(EXAMPLE.read_text(encoding="utf-8"))
        tree["readings"] = [{"of": "R1", "value": text} for text in ("1", "1.5k", "1.0")]
        for meter, over in [("3½-digit manual", [True, False, False]), ("exact", [False, False, False])]:
            run = run_document.from_tree({**tree, "meters": {"bench": meter}})
            self.assertEqual([reading.value.over_range for reading in run.readings], over)
            self.assertEqual(run_document.from_tree(run_document.to_tree(run)), run)
            said = [warning.text for warning in assess(run).warnings if "beyond its range" in warning.text]
            self.assertEqual(len(said), sum(over))

    def test_a_profile_is_refused_at_its_place(self) -> None:
        tree = json.loads(EXAMPLE.read_text(encoding="utf-8"))
        plain = {"functions": {"voltage": [{"full": "4V", "step": "1mV"}]}}
        for change, said in [
            ({"functions": {"power": []}}, "meters.m.functions"),
            ({"functions": {"voltage": []}}, "at least one range"),
            ({"functions": {"voltage": [{"full": "4V", "step": "5V"}]}}, "one digit is smaller"),
            ({"functions": {"voltage": [{"full": "-4V", "step": "1mV"}]}}, "must be above zero"),
            ({"functions": {"voltage": [{"full": "4V", "step": "1mV", "accuracy": "good"}]}}, "is no accuracy"),
            ({"colour": "red"}, "unknown key"), ({"jacks": {"mA": {"fuse": "2V"}}}, "fuse"),
        ]:  # fmt: skip
            with self.assertRaisesRegex(DocumentError, said):
                run_document.from_tree({**tree, "meters": {"m": {**plain, **change}}})


class CommandLine(TestCase):
    def test_exit_status_and_streams(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            wrong = Path(folder) / "wrong.run.json"
            wrong.write_text('{"format": "recensor.run"}')
            alone = judged(wrong)
            self.assertEqual((alone.returncode, alone.stdout), (2, b""))
            self.assertIn(b"is missing", alone.stderr)
            self.assertEqual(judged(Path(folder) / "none.run.json").returncode, 2)
            several = judged(EXAMPLE, wrong, *[FULL] * 12)
            lines = [json.loads(line) for line in several.stdout.splitlines()]
            self.assertEqual((several.returncode, len(lines)), (2, 14))
            self.assertEqual([set(line) - {"file"} for line in lines[:3]], [{"result"}, {"error"}, {"result"}])
        piped = judged("-", stdin=EXAMPLE.read_bytes())
        self.assertEqual(json.loads(piped.stdout), lines[0]["result"])

    def test_a_plan_is_printed_as_verdicts_are(self) -> None:
        plan = json.loads(judged(EXAMPLE, command="plan").stdout)
        self.assertEqual(set(plan), {"steps", "moves", "moves_in_document_order"})
        keys = {"reads", "words", "power", "supply", "function", "jack", "range", "red", "black", "opened", "moves",
                "expects"}  # fmt: skip
        self.assertTrue(all(set(step) == keys for step in plan["steps"]))
        lines = judged(EXAMPLE, Path("none.run.json"), command="plan")
        self.assertEqual([set(json.loads(line)) for line in lines.stdout.splitlines()],
                         [{"file", "result"}, {"file", "error"}])  # fmt: skip
        self.assertEqual(lines.returncode, 2)

    def test_doubts_and_struck_readings(self) -> None:
        result = json.loads(judged(FULL).stdout)
        self.assertEqual([r["index"] for r in result["readings"]], [0, 1, 2, 4, 5, 6, 7, 8, 9, 10])
        standings = {r["index"]: r["standing"] for r in result["readings"] if r["standing"] != "counted"}
        self.assertEqual(standings, {7: "earlier", 8: "look", 10: "later"})
        self.assertIn("readings[7].value", [warning["at"] for warning in result["warnings"]])
        self.assertEqual([claim["follows"] for claim in result["claims"]], [True, None])
        self.assertEqual(result["readings"][5]["over_range"], True)


class Schema(TestCase):
    """The published schema and the reader agree on the shape of a document."""

    schema = Draft202012Validator(json.loads((ROOT / "docs" / "run-document.schema.json").read_text(encoding="utf-8")))

    def test_every_document_of_the_repository_has_its_shape(self) -> None:
        files = [*DOCUMENTS.glob("*.json"), *(ROOT / "recensor" / "site" / "demo").glob("*.json")]
        self.assertGreater(len(files), 4)
        for file in files:
            self.schema.validate(json.loads(file.read_text(encoding="utf-8")))

    def test_what_is_written_has_its_shape(self) -> None:
        for make in EXPERIMENTS.values():
            sheet = make().sheet
            boards = {name: planned(sheet, setup) for name, setup in sheet.setups.items() if len(setup.connections) < 6}
            self.schema.validate(run_document.to_tree(Run(sheet, boards=boards)))
        whole = run_document.read(FULL.read_bytes())
        self.schema.validate(run_document.to_tree(whole))

    def test_what_has_another_shape_is_refused_by_both(self) -> None:
        def change(tree: dict[str, Any], *way: object, to: object) -> dict[str, Any]:
            inner = tree
            for key in way[:-1]:
                inner = inner[key]
            inner[way[-1]] = to
            return tree

        for way, to in [
            (("format",), "other"), (("version",), 2), (("colour",), "red"), (("parts", "R1", "kind"), "heater"),
            (("parts", "R1", "colour"), "red"), (("setups", "main", "connections", "R1"), ["a"]),
            (("judge",), {"by": "eye"}), (("readings", 1, "value"), 1.487), (("readings", 1, "across"), ["top", "mid"]),
            (("readings", 4, "setup"), None), (("claims", 0, "as"), "guess"), (("claims", 0, "from"), []),
            (("sealed",), "yes"), (("asked", 0, "value"), "1"), (("placements", "main", "R1"), "a1 a5"),
        ]:  # fmt: skip
            wrong = change(json.loads(FULL.read_text(encoding="utf-8")), *way, to=to)
            with self.subTest(way), self.assertRaises(DocumentError):
                self.assertFalse(self.schema.is_valid(wrong))
                run_document.from_tree(wrong)
        fine = change(json.loads(FULL.read_text(encoding="utf-8")), "x-room", to={"bench": 4})
        self.schema.validate(fine)
        run_document.from_tree(fine)
