"""Setups held against each other: what a change changes, as read and as calculated."""

from typing import Any
from unittest import TestCase

from recensor.core.editing import EditError, edits, held_against, superposition, sweep
from recensor.core.examples import experiments
from recensor.core.judgement import SetupsCompared, assess
from recensor.core.quantity import VOLT, parse
from recensor.formats.documents import run_document

SOURCE = {"kind": "voltage source", "nominal": "9V"}


def resistor(nominal: str) -> dict[str, str]:
    return {"kind": "resistor", "nominal": nominal, "tolerance": "5%"}


def setup(connections: dict[str, list[str]], **more: Any) -> dict[str, Any]:
    return {"reference": "g", "connections": connections, **more}


def reading(name: str, at: str, value: str) -> dict[str, Any]:
    """A reading in a setup: ``I R1``, ``V a g`` or ``R a g``."""
    quantity, *where = at.split()
    if quantity == "I":
        return {"setup": name, "quantity": "current", "through": where[0], "value": value}
    measurand = {"V": "voltage", "R": "resistance"}[quantity]
    return {"setup": name, "quantity": measurand, "across": where, "value": value}


def held(rule: str, parts: dict, setups: dict, readings: list, by: str = "percent", **more: Any) -> SetupsCompared:
    tree = {
        "format": "recensor.run", "version": 1, "title": rule, "meters": {"bench": "exact"}, "judge": {"by": by},
        "parts": parts, "setups": setups, "readings": readings,
        "compare": [{"rule": rule, "setups": more.get("compared", list(setups))}],
    }  # fmt: skip
    run = run_document.from_tree(tree)
    assert run_document.read(run_document.write(run)) == run
    (found,) = assess(run).comparisons
    return found


TWO = {"V1": SOURCE, "R1": resistor("1k"), "R2": resistor("1k")}
SERIES_PARALLEL = {
    "series": setup({"V1": ["a", "g"], "R1": ["a", "b"], "R2": ["b", "g"]}),
    "parallel": setup({"V1": ["a", "g"], "R1": ["a", "g"], "R2": ["a", "g"]}),
}
EXCHANGE = {
    "before": setup({"V1": ["a", "g"], "R1": ["a", "b"], "R2": ["b", "g"]}),
    "after": setup({"V1": ["a", "g"], "R1": ["a", "b"], "R4": ["b", "g"]}),
}
THREE = {"V1": SOURCE, "R1": resistor("1k"), "R2": resistor("2k2"), "R4": resistor("4k7")}
BOTH = {"V1": ["a", "g"], "R1": ["a", "b"], "R3": ["b", "g"], "R2": ["c", "b"], "V2": ["c", "g"]}
SOURCES = {
    "both": setup(BOTH),
    "V1 only": setup(BOTH, sources_off=["V2"]),
    "V2 only": setup(BOTH, sources_off=["V1"]),
}
SUPERPOSED = {**THREE, "V2": {**SOURCE, "nominal": "6V"}, "R3": resistor("3k3")}
SUPERPOSED.pop("R4")


class Rules(TestCase):
    def test_series_against_parallel(self) -> None:
        good = [reading("series", "R a g", "1.99k"), reading("parallel", "R a g", "498")]
        found = held("series and parallel", TWO, SERIES_PARALLEL, good)
        self.assertEqual((found.values, found.calculated_difference, found.verdict), ((1990.0, 498.0), -1500, "agrees"))
        stuck = [reading("series", "R a g", "1.99k"), reading("parallel", "R a g", "1.99k")]
        found = held("series and parallel", TWO, SERIES_PARALLEL, stuck)
        self.assertEqual((found.difference, found.verdict), (0.0, "outside"))
        self.assertIn("nothing changed as it should", found.reason)

    def test_an_exchange_is_held_at_what_was_read_alike(self) -> None:
        voltages = [reading("before", "V b g", "6.19"), reading("after", "V g b", "-7.42")]
        found = held("exchange", THREE, EXCHANGE, voltages)
        self.assertEqual((found.values, found.verdict), ((6.19, 7.42), "agrees"))
        currents = [*voltages, reading("before", "I R1", "2.82m"), reading("after", "I R1", "1.58m")]
        found = held("exchange", THREE, EXCHANGE, currents)
        self.assertEqual(found.values, (0.00282, 0.00158))

    def test_a_load_and_a_branch_more(self) -> None:
        setups = {
            "open": EXCHANGE["before"],
            "loaded": setup({**EXCHANGE["before"]["connections"], "R4": ["b", "g"]}),
        }
        readings = [reading("open", "V b g", "6.19"), reading("loaded", "V b g", "5.40")]
        for rule in ("loaded", "branch added"):
            self.assertEqual(held(rule, THREE, setups, readings).verdict, "agrees")
        self.assertEqual(held("loaded", THREE, setups, [readings[0]]).verdict, "needs readings")
        self.assertIn("in loaded", held("loaded", THREE, setups, [readings[0]]).reason)
        # The source's own voltage is not what a load is held against.
        own = [reading("open", "V a g", "9.00"), reading("loaded", "V a g", "9.00")]
        self.assertEqual(held("loaded", THREE, setups, own).verdict, "needs readings")

    def test_superposition_in_one_branch(self) -> None:
        alone = [reading("V1 only", "I R3", "1.55m"), reading("V2 only", "I R3", "0.470m")]
        for both, verdict in (("2.01m", "agrees"), ("1.20m", "outside")):
            found = held("superposition", SUPERPOSED, SOURCES, [reading("both", "I R3", both), *alone])
            self.assertEqual((len(found.values), found.verdict), (3, verdict))

    def test_an_equivalent_source_that_was_set_low(self) -> None:
        parts = {"V1": {**SOURCE, "nominal": "10V"}, "R1": resistor("3k9"), "R2": resistor("8k2"),
                 "R3": resistor("4k7"), "RL": resistor("3k3"), "Ve": {**SOURCE, "nominal": "6.777V"},
                 "Re": resistor("7k34")}  # fmt: skip
        rest = {"V1": ["a", "g"], "R1": ["a", "b"], "R2": ["b", "g"], "R3": ["b", "c"]}
        setups = {
            "loaded": setup({**rest, "RL": ["c", "g"]}),
            "open": setup(rest),
            "back": setup(rest, sources_off=["V1"]),
            "equivalent": setup({"Ve": ["e", "g"], "Re": ["e", "c"], "RL": ["c", "g"]}, values={"Ve": "6.37V"}),
        }
        readings = [reading("open", "V c g", "6.78"), reading("back", "R c g", "7.34k"),
                    reading("loaded", "V c g", "2.10"), reading("equivalent", "V c g", "1.97"),
                    {"of": "Ve", "setup": "equivalent", "value": "6.37"}]  # fmt: skip
        found = held("equivalent", parts, setups, readings, compared=["loaded", "equivalent"])
        self.assertEqual(found.verdict, "outside")
        self.assertIn("Ve is set 6 % low: 6.780 V was read", found.reason)
        self.assertIn("Re is chosen as it was read", found.reason)

    def test_by_uncertainty_only_the_meter_decides(self) -> None:
        setups, near = SERIES_PARALLEL, [reading("series", "R a g", "2.04k"), reading("parallel", "R a g", "500")]
        self.assertEqual(held("series and parallel", TWO, setups, near).verdict, "agrees")
        self.assertEqual(held("series and parallel", TWO, setups, near, by="uncertainty").verdict, "outside")


class Written(TestCase):
    def test_what_cannot_be_held_against_each_other(self) -> None:
        for setups, said in ((["series"], "name at least two"), (["series", "series"], "each once"),
                             (["series", "other"], "no setup 'other'")):  # fmt: skip
            with self.subTest(said), self.assertRaisesRegex(run_document.DocumentError, rf"compare\[0\].*{said}"):
                held("exchange", TWO, SERIES_PARALLEL, [], compared=setups)
        with self.assertRaisesRegex(run_document.DocumentError, r"compare\[0\].rule"):
            held("likeness", TWO, SERIES_PARALLEL, [])


class Editing(TestCase):
    def test_teaching_setups_ask_for_what_makes_the_point(self) -> None:
        """Superposition in one branch: the two sources, and three currents."""
        sheet = experiments.two_source_superposition().sheet
        self.assertEqual([t.words for t in sheet.asked if t.setup], ["current through R3"] * 3)
        self.assertEqual(len(sheet.asked), 5)
        (comparison,) = sheet.compare
        self.assertEqual((comparison.rule, len(comparison.setups)), ("superposition", 3))

    def test_every_ready_made_experiment_can_be_read_and_agrees(self) -> None:
        for name, make in experiments.EXPERIMENTS.items():
            sheet = make().sheet
            with self.subTest(name):
                self.assertTrue(sheet.asked)
                self.assertTrue(sheet.sweeps or sheet.compare)
                # An edit elsewhere keeps what is swept and compared; taking a setup away does not.
                first = next(iter(sheet.setups))
                kept = edits.set_value(sheet, first, next(iter(sheet.parts)), parse("8V", VOLT))
                self.assertEqual((kept.sweeps, kept.compare), (sheet.sweeps, sheet.compare))
                if sheet.several:
                    self.assertEqual(edits.remove_setup(sheet, sheet.compare[0].setups[-1]).compare, ())

    def test_refusals(self) -> None:
        sheet = experiments.loaded_divider().sheet
        settings = [parse("1V", VOLT), parse("2V", VOLT)]
        for refused in (
            lambda: sweep(sheet, "loaded", "V1", settings),
            lambda: sweep(sheet, "loaded", "R1", settings[:1]),
            lambda: sweep(sheet, "loaded", "R1", settings[:1] * 2),
            lambda: sweep(superposition(experiments.circuits.two_sources(), "main"), "all sources", "R1", settings),
            lambda: held_against(sheet, sheet.compare[0].rule, ("loaded", "loaded")),
        ):
            with self.assertRaises(EditError):
                refused()
