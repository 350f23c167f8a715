"""Lamps, diodes, rheostats, switches and wires in a judged run: what each is read as, and what it is not."""

from typing import Any
from unittest import TestCase

from recensor.core.faults import FaultKind, explain
from recensor.core.judgement import Assessment, assess
from recensor.core.plan import plan
from recensor.formats.documents import run_document

V1 = {"kind": "voltage source", "nominal": "5V"}
R1 = {"kind": "resistor", "nominal": "330", "tolerance": "5%"}
LED = {"kind": "led", "drop": "1.9V", "at": "10mA", "tolerance": "5%"}
LAMP = {"kind": "lamp", "nominal": "6V", "current": "50mA"}


def run(parts: dict[str, Any], setups: dict[str, Any], readings: list[dict[str, str]], **more: Any):
    here = {name: {"reference": "g", **s} for name, s in setups.items()}
    tree = {"format": "recensor.run", "version": 1, "title": "Others", "meters": {"bench": "exact"}, "parts": parts,
            "setups": here, "readings": readings, **more}  # fmt: skip
    found = run_document.from_tree(tree)
    assert run_document.read(run_document.write(found)) == found
    return found


def volts(across: str, value: str, setup: str = "main") -> dict[str, Any]:
    return {"setup": setup, "quantity": "voltage", "across": across.split(), "value": value}


def amps(part: str, value: str, setup: str = "main") -> dict[str, Any]:
    return {"setup": setup, "quantity": "current", "through": part, "value": value}


CHAIN = {"main": {"connections": {"V1": ["a", "g"], "R1": ["a", "b"], "LED1": ["b", "g"]}}}


def lit(*values: str, **more: Any) -> Assessment:
    """A light diode behind its resistor: volts of source, resistor and diode, and the current."""
    readings = [volts("a g", values[0]), volts("a b", values[1]), volts("b g", values[2]), amps("R1", values[3])]
    return assess(run({"V1": V1, "R1": R1, "LED1": LED}, CHAIN, readings, **more))


class LightDiodes(TestCase):
    def test_in_its_circuit(self) -> None:
        found = lit("5.00", "3.10", "1.90", "9.41m")
        self.assertEqual({t.judged.verdict for t in found.targets.values()}, {"agrees"})
        self.assertEqual([a.verdict for a in found.laws], ["balances"])
        self.assertEqual(explain(found).causes, ())

    def test_the_wrong_way_round(self) -> None:
        found = explain(lit("5.00", "0.00", "5.00", "0.00m", seen=[{"setup": "main", "part": "LED1", "as": "dark"}]))
        self.assertEqual((found.causes[0].kind, found.causes[0].targets), (FaultKind.PART_REVERSED, ("parts.LED1",)))
        self.assertEqual(found.causes[0].leaves, ())

    def test_an_open_resistor_before_it(self) -> None:
        first, *_ = explain(lit("5.00", "5.00", "0.00", "0.00m")).causes
        names = {(first.kind, target) for target in first.targets} | set(first.same)
        self.assertLessEqual({(FaultKind.PART_OPEN, "parts.R1"), (FaultKind.JOINT_OPEN, "leads.R1.1")}, names)

    def test_what_was_seen_counts(self) -> None:
        def rule(light: str) -> bool:
            seen = [{"setup": "main", "part": "LED1", "as": light}]
            (check,) = [c for c in lit("5.00", "3.10", "1.90", "9.41m", seen=seen).sanity if "bright" in c.rule]
            return check.holds

        self.assertEqual([rule(light) for light in ("dark", "dim", "bright")], [False, True, True])

    def test_by_itself_it_is_not_judged(self) -> None:
        found = assess(run({"V1": V1, "R1": R1, "LED1": LED}, CHAIN, [{"of": "LED1", "value": "1.72"}]))
        self.assertEqual((found.parts["LED1"].verdict, found.parts["LED1"].percent_error), ("no nominal", None))


class Lamps(TestCase):
    setups = {"main": {"connections": {"V1": ["a", "g"], "L1": ["a", "g"]}}}

    def test_cold_ohms_are_never_those_at_work(self) -> None:
        parts = {"V1": {**V1, "nominal": "6V"}, "L1": LAMP}
        for cold in ("3.1", "12.3", "90"):
            found = assess(run(parts, self.setups, [{"of": "L1", "value": cold}, amps("L1", "49.8m")]))
            self.assertIn("was read cold", found.parts["L1"].reason)
            self.assertAlmostEqual(list(found.targets.values())[-1].judged.measured.value or 0, 0.05, 9)

    def test_but_an_ohmmeter_meets_them(self) -> None:
        total = {"setup": "main", "quantity": "resistance", "across": ["a", "g"], "value": "12.4"}
        found = assess(run({"V1": V1, "L1": LAMP}, self.setups, [{"of": "L1", "value": "12.3"}, total]))
        judged = list(found.targets.values())[-1].judged
        self.assertEqual((judged.nominal.value, judged.measured.value, judged.verdict), (None, 12.3, "agrees"))

    def test_nobody_described_it(self) -> None:
        """Kept in loops by readings; what depends on it is not calculated."""
        chain = {"main": {"connections": {"V1": ["a", "g"], "R1": ["a", "b"], "L1": ["b", "g"]}}}
        readings = [volts("a g", "5.00"), volts("a b", "3.00"), volts("b g", "2.00")]
        found = assess(run({"V1": V1, "R1": R1, "L1": {"kind": "lamp"}}, chain, readings))
        self.assertEqual([a.verdict for a in found.laws], ["balances"])
        self.assertEqual({t.judged.verdict for t in list(found.targets.values())[1:]}, {"not judged"})

    def test_burnt_out(self) -> None:
        chain = {"main": {"connections": {"V1": ["a", "g"], "R1": ["a", "b"], "L1": ["b", "g"]}}}
        readings = [volts("a g", "5.00"), volts("a b", "0.00"), volts("b g", "5.00"), amps("L1", "0.0m")]
        first, *_ = explain(assess(run({"V1": V1, "R1": {**R1, "nominal": "22"}, "L1": LAMP}, chain, readings))).causes
        self.assertEqual((first.kind, first.targets), (FaultKind.PART_OPEN, ("parts.L1",)))
        self.assertIn("burnt out", first.text)


class Settings(TestCase):
    parts = {"V1": V1, "R1": R1, "RV1": {"kind": "rheostat", "nominal": "1k"}}

    def setups(self, **values: str) -> dict[str, Any]:
        wires = {"V1": ["a", "g"], "R1": ["a", "b"], "RV1": ["b", "g"]}
        return {name: {"connections": wires, "values": {"RV1": value}} for name, value in values.items()}

    def test_a_rheostat_is_what_its_setup_sets(self) -> None:
        for read, verdict in (("221", "as set"), ("300", "off its setting")):
            found = assess(
                run(self.parts, self.setups(main="220"), [{"of": "RV1", "value": read}, volts("b g", "2.0")])
            )
            self.assertEqual((found.parts["RV1"].verdict, found.parts["RV1"].nominal), (verdict, 220.0))
            share = 5.0 * float(read) / (330 + float(read))
            self.assertAlmostEqual(list(found.targets.values())[-1].judged.measured.value or 0, share)

    def test_two_settings_are_read_each_for_its_setup(self) -> None:
        setups = self.setups(low="220", high="680")
        own = [{"of": "RV1", "setup": "low", "value": "225"}, {"of": "RV1", "setup": "high", "value": "670"}]
        found = assess(run(self.parts, setups, [*own, volts("b g", "2.0", "low"), volts("b g", "3.3", "high")]))
        measured = [t.judged.measured.value for t in list(found.targets.values())[2:]]
        for value, ohms in zip(measured, (225.0, 670.0), strict=True):
            self.assertAlmostEqual(value or 0, 5.0 * ohms / (330.0 + ohms))
        # One reading that names neither says nothing of either.
        vague = assess(run(self.parts, setups, [{"of": "RV1", "value": "400"}, volts("b g", "2.0", "low")]))
        self.assertAlmostEqual(list(vague.targets.values())[-1].judged.measured.value or 0, 5.0 * 220 / 550)

    def test_a_switch_opens_its_branch_and_is_pressed_in_the_plan(self) -> None:
        parts = {**self.parts, "S1": {"kind": "switch"}}
        parts.pop("RV1")
        wires = {"V1": ["a", "g"], "S1": ["a", "s"], "R1": ["s", "g"]}
        setups = {"off": {"connections": wires, "open": ["S1"]}, "on": {"connections": wires}}
        readings = [volts("a s", "5.00", "off"), volts("s g", "0.00", "off"), volts("s g", "5.00", "on"),
                    amps("S1", "15.1m", "on")]  # fmt: skip
        found = assess(run(parts, setups, readings))
        self.assertEqual({t.judged.verdict for t in found.targets.values()}, {"agrees"})
        self.assertTrue(all(a.setup == "on" for a in found.laws))
        words = " ".join(step.words for step in plan(run(parts, setups, [])).steps)
        self.assertIn("close S1", words)

    def test_places_of_what_is_wrong(self) -> None:
        good = {"V1": V1, "R1": R1, "LED1": LED}
        for part, place in (
            ({"kind": "lamp", "nominal": "6V", "current": "50mA", "cold": "200"}, "parts.LED1.cold"),
            ({"kind": "lamp", "nominal": "0V", "current": "50mA"}, "parts.LED1.nominal"),
            ({"kind": "led", "at": "10mA"}, "parts.LED1.at"),
            ({"kind": "led", "drop": "1.9A", "at": "10mA"}, "parts.LED1.drop"),
            ({"kind": "led", "nominal": "1.9V"}, "parts.LED1.nominal"),
            ({"kind": "resistor", "nominal": "1k", "cold": "2"}, "parts.LED1.cold"),
            ({"kind": "wire", "nominal": "1"}, "parts.LED1.nominal"),
        ):
            with self.subTest(place), self.assertRaisesRegex(run_document.DocumentError, place):
                run({**good, "LED1": part}, CHAIN, [])
        for more, place in (
            ({"open": ["R1"]}, "setups.main.open"),
            ({"values": {"LED1": "2A"}}, "setups.main.values.LED1"),
        ):
            with self.subTest(place), self.assertRaisesRegex(run_document.DocumentError, place):
                run(good, {"main": {**CHAIN["main"], **more}}, [])
        with self.assertRaisesRegex(run_document.DocumentError, "RV1 goes no further than 1k"):
            run(self.parts, self.setups(main="1k2"), [])
        for seen, place in (({"setup": "x", "part": "LED1"}, "setup"), ({"setup": "main", "part": "R1"}, "part")):
            with self.subTest(place), self.assertRaisesRegex(run_document.DocumentError, rf"seen\[0\].{place}"):
                run(good, CHAIN, [], seen=[{**seen, "as": "dim"}])
