"""Verdicts, laws and sanity: the rules as they are written, and bench readings that are common practice, no source."""

import math
from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import NOMINAL, Across, Judge, JudgedBy, RecordError, Setup, Through
from recensor.core.judgement import assess
from recensor.core.quantity import RESISTANCE, parse, parse_percent
from recensor.core.record import Claim, ClaimOperation, Strike, check
from recensor.core.safety import caution, dissipations, largest_voltage
from tests.written import amps, chain, of, ohms, part, run, volts

BY_UNCERTAINTY = Judge(by=JudgedBy.UNCERTAINTY)


class BenchReadings(TestCase):
    """Common practice, no source: nominal values, then what was read."""

    def test_four_in_series(self) -> None:
        parts, connections = chain("470", "100", "510", "100")
        readings = [
            of("R1", "462"),
            of("R2", "98.7"),
            of("R3", "510"),
            of("R4", "99.7"),
            of("V1", "11.85"),
            ohms("A", "gnd", "1170"),
            volts("A", "B", "4.68"),
            volts("C", "D", "5.16"),
            amps("R1", "10.1m"),
        ]
        assessed = assess(run(parts, connections, *readings))
        self.assertEqual([str(p.verdict) for p in assessed.parts.values()], ["as set"] + ["within tolerance"] * 4)
        total, first, third, current = list(assessed.targets.values())[5:]
        self.assertAlmostEqual(total.judged.measured.value, 462 + 98.7 + 510 + 99.7)
        self.assertAlmostEqual(first.judged.measured.value, 11.85 * 462 / 1170.4)
        self.assertEqual({t.judged.verdict for t in (total, first, third, current)}, {"agrees"})
        (loop,) = assessed.laws
        self.assertEqual((loop.verdict, [t.words for t in loop.missing]),
                         ("needs readings", ["voltage from B to C", "voltage from D to gnd"]))  # fmt: skip
        self.assertTrue(all(check.holds for check in assessed.sanity))

    def test_parallel_bank(self) -> None:
        parts = [part("V1", "12"), *(part(f"R{k}", v, "5%") for k, v in enumerate(["3.3k", "2.7k", "4.7k", "5.6k"], 1))]
        bank = dict.fromkeys(["V1", "R1", "R2", "R3", "R4"], ("A", "gnd"))
        assessed = assess(
            run(
                parts,
                bank,
                of("V1", "11.98"),
                amps("R1", "3.69m"),
                amps("R2", "4.46m"),
                amps("R3", "2.55m"),
                amps("R4", "2.14m"),
                amps("V1", "12.84m"),
                volts("A", "gnd", "11.98"),
            )
        )
        currents = [t.judged for t in assessed.targets.values() if isinstance(t.measurement.target, Through)]
        self.assertEqual({c.verdict for c in currents}, {"agrees"})
        node = assessed.laws[-1]
        self.assertEqual((node.at, [(t.part, t.sign) for t in node.terms], node.verdict),
                         ("A", [("V1", 1), ("R1", -1), ("R2", -1), ("R3", -1), ("R4", -1)], "balances"))  # fmt: skip
        self.assertEqual({a.verdict for a in assessed.laws[:-1]}, {"no independent check"})

    def test_divider(self) -> None:
        parts, connections = chain("2.2k", "1k", source="5")
        assessed = assess(
            run(
                parts,
                connections,
                of("V1", "5.00"),
                volts("A", "B", "3.44"),
                volts("B", "gnd", "1.565"),
                amps("V1", "1.59m"),
            )
        )
        self.assertEqual([str(t.judged.verdict) for t in assessed.targets.values()][1:], ["agrees"] * 3)
        (loop,) = assessed.laws
        self.assertEqual(loop.verdict, "balances")
        self.assertAlmostEqual(loop.residual, 5.00 - 3.44 - 1.565)
        self.assertIn("tests its sag", loop.reason)

    def test_loaded_network(self) -> None:
        parts = [part("V1", "10"), *(part(f"R{k}", v, "5%") for k, v in enumerate(["3.9k", "8.2k", "4.7k", "3.3k"], 1))]
        unloaded = {"V1": ("in", "gnd"), "R1": ("in", "x"), "R2": ("x", "gnd"), "R3": ("x", "out")}
        loaded = Setup("loaded", "gnd", {**unloaded, "R4": ("out", "gnd")})
        looking_back = Setup("back", "gnd", unloaded, sources_off=frozenset({"V1"}))
        both = run(parts, unloaded, volts("out", "gnd", "6.78"), ohms("out", "gnd", "7.34k", setup="back"),
                   volts("out", "gnd", "2.13", setup="loaded"), loaded=loaded, back=looking_back)  # fmt: skip
        openly, back, under_load = (t.judged for t in assess(both).targets.values())
        self.assertAlmostEqual(openly.nominal.value, 6.78, delta=0.005)
        self.assertAlmostEqual(back.nominal.value, 7.34e3, delta=5)
        self.assertAlmostEqual(under_load.nominal.value, 2.10, delta=0.005)
        self.assertEqual({openly.verdict, back.verdict, under_load.verdict}, {"agrees"})


class Verdicts(TestCase):
    def verdict(self, text: str, judge: Judge, tolerance: str | None = None, **more: str) -> str:
        parts = [part("V1", "10", tolerance), part("R1", "1k", tolerance)]
        [target] = assess(
            run(parts, {"V1": ("A", "gnd"), "R1": ("A", "gnd")}, amps("R1", text), judge=judge)
        ).targets.values()
        return str(target.judged.verdict)

    def test_by_percent(self) -> None:
        """10 mA calculated, limit 5 %: 0.5 mA is allowed, the reading's own U widens only the outer edge.

        A coarse display within it agrees as displayed, unless a unit of its last digit is more than twice the limit.
        """
        for text, expected in [("10.50m", "agrees"), ("10.51m", "outside"), ("9.4m", "outside"),
                               ("9.6m", "agrees"), ("10m", "agrees"), ("0.01", "undecided"), ("11m", "undecided"),
                               ("12m", "outside"),
                               ("-10.0m", "outside")]:  # fmt: skip
            self.assertEqual(self.verdict(text, Judge()), expected, text)

    def test_by_uncertainty(self) -> None:
        """With 5 % tolerance on both, U_c is 2·√2·0.5 mA/√3; without any tolerance percent decides instead."""
        edge = 2 * math.sqrt(2) * 0.5 / math.sqrt(3)
        for off, expected in [(edge - 0.01, "agrees"), (edge + 0.02, "undecided"), (1.5 * edge - 0.01, "undecided"),
                              (1.5 * edge + 0.02, "outside")]:  # fmt: skip
            self.assertEqual(self.verdict(f"{10 + off:.2f}m", BY_UNCERTAINTY, "5%"), expected, off)
        self.assertEqual(self.verdict("10m", BY_UNCERTAINTY, "5%"), "undecided")
        self.assertEqual(self.verdict("10.4m", BY_UNCERTAINTY), "agrees")
        self.assertEqual(self.verdict("10.6m", BY_UNCERTAINTY), "outside")

    def test_over_range_and_open_circuits(self) -> None:
        parts, connections = chain("1k", "4.7k")
        cut = Setup("cut", "gnd", {"V1": ("A", "gnd"), "R1": ("A", "B"), "R2": ("C", "D")})

        def one(*readings):
            return [str(t.judged.verdict) for t in assess(run(parts, connections, *readings, cut=cut)).targets.values()]

        self.assertEqual(one(ohms("B", "D", "OL", setup="cut")), ["agrees"])
        self.assertEqual(one(ohms("B", "D", "4.7k", setup="cut")), ["outside"])
        self.assertEqual(one(ohms("A", "gnd", "OL")), ["not judged"])
        self.assertEqual(one(ohms("A", "gnd", "OL", range_text="2k")), ["agrees"])
        self.assertEqual(one(volts("B", "D", "0.00", setup="cut")), ["not judged"])
        self.assertEqual(one(amps("R1", "0.00m", setup="cut")), ["agrees"])
        self.assertEqual(one(amps("R1", "3.00m", setup="cut")), ["outside"])

    def test_missing_nominal_matters_only_where_it_matters(self) -> None:
        parts = [part("V1", "9"), part("R1", "1k", "5%"), part("R2", None)]
        both = {"V1": ("A", "gnd"), "R1": ("A", "gnd"), "R2": ("A", "gnd")}
        unread = assess(run(parts, both, amps("R1", "9.0m"), amps("V1", "13.0m")))
        through_r1, through_v1 = (t.judged for t in unread.targets.values())
        self.assertAlmostEqual(through_r1.nominal.value, 0.009)
        self.assertIsNone(through_v1.nominal.value)
        self.assertEqual(through_v1.verdict, "not judged")
        self.assertIn("parts.R2", [w.at for w in unread.warnings])
        read = assess(run(parts, both, of("R2", "2.25k"), amps("V1", "13.0m")))
        self.assertEqual(read.parts["R2"].verdict, "no nominal")
        self.assertAlmostEqual(list(read.targets.values())[1].judged.measured.value, 0.013)
        by_nominal = assess(run(parts, both, of("R2", "2.25k"), amps("V1", "13.0m"), judge=Judge(against=NOMINAL)))
        self.assertIn("there is none from nominal", list(by_nominal.targets.values())[1].judged.reason)

    def test_balanced_bridge_is_zero_and_has_no_percentage(self) -> None:
        parts = [part("V1", "9", "5%"), *(part(f"R{k}", "1k", "1%") for k in range(1, 6))]
        bridge = {
            "V1": ("t", "gnd"),
            "R1": ("t", "a"),
            "R2": ("a", "gnd"),
            "R3": ("t", "b"),
            "R4": ("b", "gnd"),
            "R5": ("a", "b"),
        }
        for text, expected in [("3.0m", "agrees"), ("-20m", "agrees"), ("500m", "outside")]:
            [target] = assess(run(parts, bridge, volts("a", "b", text))).targets.values()
            self.assertEqual((target.judged.percent_error["nominal"], target.judged.verdict), (None, expected))

    def test_unsolvable_circuit_is_judged_with_nulls_and_a_warning(self) -> None:
        parts = [part("V1", "9"), part("V2", "5"), part("R1", "1k")]
        shorted = {"V1": ("A", "gnd"), "V2": ("A", "gnd"), "R1": ("A", "gnd")}
        assessed = assess(run(parts, shorted, amps("R1", "9m")))
        self.assertIsNone(next(iter(assessed.targets.values())).judged.nominal.value)
        self.assertTrue(any(w.at == "setups.main" and "V1 and V2" in w.text for w in assessed.warnings))
        nowhere = assess(
            run(parts[:1] + parts[2:], {"V1": ("A", "gnd"), "R1": ("A", "gnd")}, amps("R1", "9m"), reference="x")
        )
        self.assertTrue(any("node x" in w.text for w in nowhere.warnings))


class Parts(TestCase):
    def test_tolerance_edge_inside_the_readings_uncertainty(self) -> None:
        for text, expected in [
            ("1050", "cannot tell"),
            ("1049", "within tolerance"),
            ("1051", "out of tolerance"),
            ("1.1k", "cannot tell"),
            ("1.2k", "out of tolerance"),
            ("OL", "cannot tell"),
        ]:
            assessed = assess(run([part("R1", "1k", "5%")], {"R1": ("A", "gnd")}, of("R1", text)))
            self.assertEqual(str(assessed.parts["R1"].verdict), expected, text)

    def test_a_part_off_by_a_power_of_ten_says_so(self) -> None:
        for text, said in [
            ("10.2k", "10 times too large"),
            ("0.99", "1000 times too small"),
            ("98", "10 times too small"),
            ("2.2k", None),
            ("1.01k", None),
        ]:
            assessed = assess(run([part("R1", "1k", "5%")], {"R1": ("A", "gnd")}, of("R1", text)))
            self.assertEqual("times too" in assessed.parts["R1"].reason, said is not None, text)
            self.assertIn(said or "", assessed.parts["R1"].reason)

    def test_lead_resistance_is_taken_off_parts_and_totals(self) -> None:
        parts, connections = chain("10", "22")
        assessed = assess(
            run(parts, connections, of("leads", "0.3", "0.5"), of("R1", "10.4"), ohms("A", "gnd", "32.4"))
        )
        self.assertAlmostEqual(assessed.parts["R1"].measured, 10.0)
        comparisons = [t.judged for t in assessed.targets.values()]
        self.assertEqual(comparisons[0].verdict, "not judged")
        self.assertAlmostEqual(comparisons[2].measured.value, 32.0)
        scatter = math.sqrt(0.02) / math.sqrt(2) * 12.706 / 2  # two readings: Student's factor
        resolution = 0.1 / math.sqrt(12)
        self.assertAlmostEqual(comparisons[1].expanded, 2 * math.sqrt(scatter**2 + 2 * resolution**2), places=6)


class TrialsAndTargets(TestCase):
    def test_reversed_leads_join_with_the_sign_turned_and_struck_readings_do_not(self) -> None:
        parts, connections = chain("1k", "1k", source="10")
        readings = [*volts("A", "B", "5.02"), *volts("B", "A", "-5.04"), *volts("A", "B", "50.2")]
        readings[2] = replace(readings[2], struck=Strike("slip"))
        assessed = assess(run(parts, connections, readings))
        [target] = assessed.targets.values()
        self.assertAlmostEqual(target.measurement.mean, 5.03)
        self.assertEqual(target.measurement.indexes, (0, 1))
        self.assertEqual([r.index for r in assessed.readings], [0, 1])
        self.assertAlmostEqual(assessed.readings[1].judged.nominal.value, -5.0)

    def test_source_value_in_one_setup(self) -> None:
        """In order: a reading naming the setup, the setup's value, the general reading, nominal."""
        parts = [part("V1", "9"), part("R1", "1k")]
        wires = {"V1": ("A", "gnd"), "R1": ("A", "gnd")}
        low = Setup("low", "gnd", wires, values={"V1": parse("6.2")})

        def measured(*readings):
            targets = assess(
                run(parts, wires, *readings, amps("R1", "9m"), amps("R1", "6m", setup="low"), low=low)
            ).targets
            return [round(t.judged.measured.value * 1e3, 3) for t in list(targets.values())[-2:]]

        self.assertEqual(measured(), [9.0, 6.2])
        self.assertEqual(measured(of("V1", "9.04")), [9.04, 6.2])
        self.assertEqual(measured(of("V1", "9.04"), of("V1", "6.18", setup="low")), [9.04, 6.18])


class Laws(TestCase):
    def setUp(self) -> None:
        self.parts, self.connections = chain("1k", "2k", "3k", source="6")

    def loop(self, *readings, judge=None):
        [loop] = assess(run(self.parts, self.connections, *readings, judge=judge)).laws
        return loop

    def test_node_potentials_cancel_whatever_they_are(self) -> None:
        loop = self.loop(volts("A", "gnd", "6.00"), volts("B", "gnd", "7.77"), volts("C", "gnd", "3.00"))
        self.assertEqual(loop.verdict, "no independent check")
        self.assertEqual([t.words for t in loop.missing], ["voltage from A to B"])
        self.assertEqual(self.loop(volts("A", "gnd", "6.00"), volts("B", "gnd", "5.00"), volts("C", "gnd", "3.00"),
                                   volts("A", "B", "1.00")).verdict, "balances")  # fmt: skip

    def test_no_term_is_made_of_the_others(self) -> None:
        """Two of three terms read: the third is still to read, never the difference of the two."""
        parts, connections = chain("1k", "2k", source="6")
        for readings, missing in [
            ((volts("A", "B", "2.00"), volts("B", "gnd", "4.00")), "voltage from A to gnd"),
            ((volts("A", "gnd", "6.00"), volts("A", "B", "2.00")), "voltage from B to gnd"),
        ]:
            [loop] = assess(run(parts, connections, *readings)).laws
            self.assertEqual((loop.verdict, [t.words for t in loop.missing]), ("needs readings", [missing]))

    def test_residual_and_its_uncertainty(self) -> None:
        readings = (
            volts("A", "gnd", "6.00"),
            volts("A", "B", "1.00"),
            volts("B", "C", "2.00"),
            volts("C", "gnd", "2.50"),
        )
        loop = self.loop(*readings)
        self.assertEqual(loop.verdict, "out")
        self.assertAlmostEqual(loop.residual, 0.5)
        self.assertAlmostEqual(loop.residual_percent, 100 * 0.5 / 6)
        self.assertAlmostEqual(loop.expanded, 2 * math.sqrt(4) * 0.01 / math.sqrt(12))
        wide = Judge(limit=parse_percent("10 %"))
        self.assertEqual(self.loop(*readings, judge=wide).verdict, "close")
        self.assertEqual(self.loop(*readings, judge=BY_UNCERTAINTY).verdict, "out")
        self.assertEqual(self.loop(*readings[:3], volts("gnd", "C", "-2.99"), judge=BY_UNCERTAINTY).verdict, "balances")

    def test_a_source_that_is_off_has_no_term(self) -> None:
        off = Setup("off", "gnd", self.connections, sources_off=frozenset({"V1"}))
        laws = assess(run(self.parts, self.connections, volts("A", "B", "0.00", setup="off"), off=off)).laws
        self.assertNotIn("V1", [t.part for t in laws[1].terms])
        self.assertEqual(len(laws[1].terms), 3)


class Sanity(TestCase):
    def rules(self, *readings, **setups):
        parts, connections = chain("1k", "2k", source="6")
        return {c.rule: c.holds for c in assess(run(parts, connections, *readings, **setups)).sanity}

    def test_each_rule_fails_on_readings_that_break_it(self) -> None:
        good = self.rules(of("R1", "1.00k"), of("R2", "2.00k"), ohms("A", "gnd", "3.00k"), volts("A", "B", "2.00"),
                          volts("B", "gnd", "4.00"), amps("R1", "2.00m"), amps("V1", "2.01m"))  # fmt: skip
        bad = self.rules(of("R1", "1.00k"), of("R2", "2.00k"), ohms("A", "gnd", "1.50k"), volts("A", "B", "3.00"),
                         volts("B", "gnd", "3.00"), amps("R1", "2.00m"), amps("V1", "3.00m"))  # fmt: skip
        self.assertEqual(set(good.values()), {True})
        self.assertEqual(set(bad.values()), {False})
        self.assertEqual(set(good), set(bad))
        self.assertEqual(len(good), 4)

    def test_banks_and_added_branches(self) -> None:
        parts = [part("R1", "1k"), part("R2", "1k"), part("R3", "1k")]
        two = {"R1": ("a", "gnd"), "R2": ("a", "gnd")}
        three = Setup("three", "gnd", {**two, "R3": ("a", "gnd")})

        # Common practice, no source: equal 1k resistors in parallel read 500 Ω.
        def rules(*readings):
            return [(c.rule.split()[0], c.holds) for c in assess(run(parts, two, *readings, three=three)).sanity]

        self.assertEqual(rules(ohms("a", "gnd", "500"), ohms("a", "gnd", "333", setup="three")),
                         [("parallel", True), ("parallel", True), ("adding", True)])  # fmt: skip
        self.assertEqual(rules(ohms("a", "gnd", "1200"), ohms("a", "gnd", "1300", setup="three")),
                         [("parallel", False), ("parallel", False), ("adding", False)])  # fmt: skip


class Safety(TestCase):
    def test_the_largest_voltage_of_any_setup_decides_at_the_top_of_tolerance(self) -> None:
        parts = [part("V1", "20"), part("V2", "25", "4%"), part("R1", "1k"), part("I1", "50m")]
        stacked = {"V1": ("a", "gnd"), "V2": ("b", "a"), "R1": ("b", "gnd")}
        self.assertAlmostEqual(largest_voltage(run(parts, stacked).sheet), 46.0)
        self.assertEqual(caution(run(parts, stacked).sheet), "warning")
        lone = {"V1": ("a", "gnd"), "R1": ("a", "gnd")}
        self.assertEqual(caution(run(parts, lone).sheet), "")
        self.assertEqual(
            caution(run(parts, lone, pushed=Setup("pushed", "gnd", {"I1": ("a", "gnd"), "R1": ("a", "gnd")})).sheet),
            "warning",
        )
        self.assertEqual(caution(run([part("V1", "61")], {"V1": ("a", "gnd")}).sheet), "paper only")
        shorted = {"V1": ("a", "gnd"), "V2": ("a", "gnd")}
        self.assertAlmostEqual(largest_voltage(run(parts, shorted).sheet), 46.0)

    def test_dissipation_against_the_rating_at_the_top_of_tolerance(self) -> None:
        parts = [
            part("V1", "9", "10%"),
            part("R1", "390"),
            replace(part("R2", "390"), rating=parse("0.5W")),
            part("R3", "1k"),
        ]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "gnd"), "R2": ("a", "gnd"), "R3": ("a", "gnd")}
        hot, cool, small = dissipations(run(parts, wires).sheet)
        self.assertEqual((hot.part, hot.rating, hot.is_over), ("R1", 0.25, True))
        self.assertAlmostEqual(hot.power, 9.9**2 / 390)
        self.assertEqual((cool.part, cool.rating, cool.is_over, small.is_over), ("R2", 0.5, False, False))
        self.assertFalse(any(taken.is_over for taken in dissipations(run([part("V1", "9"), *parts[1:]], wires).sheet)))

    def test_an_unmarked_part_counts_with_its_reading_and_without_one_nothing_is_known(self) -> None:
        parts = [part("V1", "10"), part("R1", "1k"), part("R2", None)]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("b", "gnd")}
        self.assertEqual([taken.power for taken in dissipations(run(parts, wires).sheet)], [None, None])
        first, second = dissipations(run(parts, wires).sheet, {"R2": 3000.0})
        self.assertAlmostEqual(first.power, 1000 * 0.0025**2)
        self.assertAlmostEqual(second.power, 3000 * 0.0025**2)


class Hints(TestCase):
    def test_what_would_explain_a_part_out_of_tolerance(self) -> None:
        """Common practice, no source."""
        parts, connections = chain("1k", "2k2", source="10")
        for text, said in [
            ("10.02k", "10 times too large"),
            ("10.02k", "Perhaps it is 10 kΩ: band 3 orange, not red."),
            ("102", "Perhaps it is 100 Ω: band 3 brown, not red."),
            ("0", "Zero: the probes touch each other"),
            ("-998", "A resistance below zero"),
            ("688", "It fits R1 read in the circuit, the supply connected"),
            ("800", "the tolerance allows ± 50 Ω."),
        ]:
            reason = assess(run(parts, connections, of("R1", text))).parts["R1"].reason
            self.assertIn(said, reason)
            if text == "800":
                self.assertTrue(reason.endswith(said))
        beside = {"V1": ("a", "gnd"), "R1": ("a", "gnd"), "R2": ("a", "gnd")}
        self.assertIn(
            "It fits R2 read in the circuit: take it out",
            assess(run(parts, beside, of("R2", "690"))).parts["R2"].reason,
        )

    def test_the_commonest_slips_are_named(self) -> None:
        """Common practice, no source."""
        parts, connections = chain("1k", "1k", source="10")
        for readings, said in [
            (volts("A", "B", "-5.02"), "the sign is turned"),
            (volts("A", "B", "0.00"), "probes in empty rows"),
            (amps("R1", "0.00m"), "blown meter fuse"),
            (volts("A", "B", "50.1"), "10 times too large"),
            (amps("R1", "5.01u"), "1000 times too small"),
            (ohms("A", "gnd", "-2.00k"), "below zero"),
            (volts("A", "B", "3.10"), "outside 5 %."),
        ]:
            [target] = assess(run(parts, connections, readings)).targets.values()
            self.assertEqual(target.judged.verdict, "outside")
            self.assertIn(said, target.judged.reason)
        [fits] = assess(run(parts, connections, volts("A", "B", "5.02"))).targets.values()
        self.assertNotIn("turned", fits.judged.reason)


class ClaimsAndPlaces(TestCase):
    def test_claims_against_the_circuit_and_against_their_own_terms(self) -> None:
        parts, connections = chain("1k", "1k", source="10")
        base = run(
            parts, connections, of("R1", "1.00k"), of("R2", "1.02k"), volts("A", "B", "5.00"), amps("R1", "5.00m")
        )
        total, current = (
            Across(RESISTANCE, ("A", "gnd"), "main"),
            Through("V1", "main"),
        )
        claims = (
            Claim(total, parse("2.02k"), (0, 1), ClaimOperation.SUM),
            Claim(total, parse("505"), (0, 1), ClaimOperation.PARALLEL),
            Claim(total, parse("2.2k"), (0, 1), ClaimOperation.SUM),
            Claim(Across(RESISTANCE, ("A", "B"), "main"), parse("1.00k"), (2, 3), ClaimOperation.RATIO),
            Claim(current, parse("23mA")),
        )
        found = assess(replace(base, claims=claims)).claims
        self.assertEqual([c.follows for c in found], [True, True, False, True, None])
        self.assertEqual([str(c.judged.verdict) for c in found], ["agrees", "outside", "outside", "agrees", "outside"])

    def test_a_record_that_contradicts_itself_names_the_place(self) -> None:
        parts, connections = chain("1k", "2k")
        for readings, place in [
            (volts("A", "nowhere", "1"), "readings[0].across"),
            (volts("A", "A", "1"), "readings[0].across"),
            (of("V1", "9") + of("R9", "1k"), "readings[1].of"),
            (amps("R7", "1m"), "readings[0].through"),
            (amps("R1", "1m", setup="other"), "readings[0].setup"),
        ]:
            with self.assertRaises(RecordError) as caught:
                check(run(parts, connections, readings))
            self.assertEqual(caught.exception.place, place)
