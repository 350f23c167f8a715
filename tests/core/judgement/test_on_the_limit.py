"""Every verdict on its limit, one digit inside, and one outside."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import RESISTOR, Across, Part, Setup, Sheet, one_line
from recensor.core.judgement import assess
from recensor.core.meters import EXACT
from recensor.core.quantity import RESISTANCE, parse, parse_percent
from recensor.core.record import Claim, ClaimOperation, Run
from recensor.core.safety import Caution, caution, dissipations
from tests.written import amps, chain, of, ohms, part, run, volts


class Readings(TestCase):
    def test_a_limit_is_widened_by_the_readings_own_uncertainty_and_no_more(self) -> None:
        """10 V on 1 kΩ, 5 %: 0.5 mA is allowed; a step of 0.001 mA adds ± 0.00058 mA."""
        parts = [part("V1", "10"), part("R1", "1k")]
        for text, expected in [
            ("10.500m", "agrees"), ("10.501m", "outside"), ("10.499m", "agrees"),
            ("9.500m", "agrees"), ("9.499m", "outside"), ("9.501m", "agrees"),
        ]:  # fmt: skip
            assessed = assess(run(parts, {"V1": ("A", "g"), "R1": ("A", "g")}, amps("R1", text), reference="g"))
            self.assertEqual([str(t.judged.verdict) for t in assessed.targets.values()], [expected], text)

    def test_trials_of_unequal_digits_have_the_finer_ones_step(self) -> None:
        parts, connections = chain("1k", "2k", "3k", source="6")
        (measured,) = assess(run(parts, connections, volts("A", "B", "1.0", "1.004"))).targets.values()
        self.assertEqual(measured.measurement.resolution, 0.001)


class Parts(TestCase):
    def test_tolerance(self) -> None:
        """1 kΩ ± 5 % read in steps of 0.1 Ω: within, on the edge where the meter cannot tell, and out."""
        for text, expected in [
            ("1049.9", "within tolerance"), ("1050.0", "cannot tell"), ("1050.1", "out of tolerance"),
            ("950.1", "within tolerance"), ("950.0", "cannot tell"), ("949.9", "out of tolerance"),
        ]:  # fmt: skip
            sheet = Sheet("t", {"R1": Part("R1", RESISTOR, parse("1k"), parse_percent("5%"))}, {})
            assessed = assess(Run(sheet, tuple(of("R1", text)), meters={"m": EXACT}))
            self.assertEqual(str(assessed.parts["R1"].verdict), expected, text)

    def test_over_range_says_open_only_in_a_range_that_surely_holds_the_part(self) -> None:
        for span, expected in [("2k", "out of tolerance"), ("1.5k", "cannot tell"), ("1.51k", "out of tolerance")]:
            reading = replace(of("R1", "OL")[0], range=parse(span))
            assessed = assess(Run(Sheet("t", {"R1": part("R1", "1k", "5%")}, {}), (reading,)))
            self.assertEqual(str(assessed.parts["R1"].verdict), expected, span)

    def test_read_in_circuit_is_not_said_where_the_circuit_hardly_lowers_it(self) -> None:
        """Beside 100 kΩ a 1 kΩ part reads 990 Ω, which is within its own tolerance: that explains nothing."""
        beside = {"V1": ("A", "g"), "R1": ("A", "g"), "R2": ("A", "g")}
        parts = [part("V1", "9"), part("R1", "1k", "5%"), part("R2", "100k", "5%")]
        reason = assess(run(parts, beside, of("R1", "945"), reference="g")).parts["R1"].reason
        self.assertNotIn("in the circuit", reason)


class Accounts(TestCase):
    def loop(self, source: str, drop: str) -> str:
        parts = [part("V1", "1"), part("R1", "1k")]
        connections = {"V1": ("A", "gnd"), "R1": ("A", "gnd")}
        parts.append(part("R2", "1k"))
        connections = {"V1": ("A", "gnd"), "R1": ("A", "B"), "R2": ("B", "gnd")}
        half = f"{float(drop) / 2:.4f}"
        read = [of("V1", source), volts("A", "B", half), volts("B", "gnd", half)]
        (account,) = assess(run(parts, connections, *read)).laws
        return account.verdict.value

    def test_a_loop_on_its_limit_is_close_though_binary_fractions_lie_above_it(self) -> None:
        self.assertGreater(1.0 - 0.95, 0.05)  # what the limit must not fall for
        for drop, expected in [("0.95", "close"), ("0.9502", "close"), ("0.9498", "out")]:
            self.assertEqual(self.loop("1.0000", drop), expected, drop)


class Sanity(TestCase):
    def test_sources_alone_are_added_up_only_where_nothing_else_differs(self) -> None:
        connections = {"V1": ("A", "g"), "R1": ("A", "J"), "V2": ("B", "g"), "R2": ("B", "J"), "R3": ("J", "g")}
        parts = [part("V1", "9"), part("V2", "5"), *(part(f"R{k}", "1k") for k in (1, 2, 3))]
        both = Setup("both", "g", connections)
        first = Setup("first", "g", connections, frozenset({"V2"}))
        second = Setup("second", "g", connections, frozenset({"V1"}))
        read = [*amps("R3", "4.67m", setup="both"), *amps("R3", "3.00m", setup="first"),
                *amps("R3", "1.67m", setup="second")]  # fmt: skip

        def rules(*setups: Setup) -> list[bool]:
            sheet = Sheet("t", {p.name: p for p in parts}, {setup.name: setup for setup in setups})
            checks = assess(Run(sheet, tuple(read))).sanity
            return [check.holds for check in checks if "each source alone" in check.rule]

        self.assertEqual(rules(both, first, second), [True])
        self.assertEqual(rules(both, first, replace(second, values={"V2": parse("4V")})), [])

    def test_two_readings_across_parts_side_by_side(self) -> None:
        """Trials of one point are no two places; read beside each part, 5 % ± the digits of both decide."""
        parts = [part("V1", "10"), part("R1", "1k"), part("R2", "1k")]
        bank = dict.fromkeys(["V1", "R1", "R2"], ("a", "gnd"))
        self.assertEqual(assess(run(parts, bank, volts("a", "gnd", "10.00", "10.60"))).sanity, [])
        for second, holds in [("10.50", [True]), ("10.54", [False]), ("10.49", [True]), ("10.527", [])]:
            beside = [
                replace(reading, target=replace(reading.target, at=name))
                for name, text in (("R1", "10.00"), ("R2", second))
                for reading in volts("a", "gnd", text)
            ]
            checks = assess(run(parts, bank, beside)).sanity
            self.assertEqual([check.holds for check in checks], holds, second)


class Claims(TestCase):
    def test_a_parallel_of_nothing_is_no_number(self) -> None:
        parts, connections = chain("1k", "1k")
        base = run(parts, connections, of("R1", "0"), of("R2", "1.02k"), ohms("A", "gnd", "1.5k"))
        claim = Claim(Across(RESISTANCE, ("A", "gnd"), "main"), parse("0"), (0, 1), ClaimOperation.PARALLEL)
        (found,) = assess(replace(base, claims=(claim,))).claims
        self.assertEqual((found.own_terms, found.follows), (None, None))

    def test_one_unit_of_the_last_digit(self) -> None:
        parts, connections = chain("1k", "1k")
        base = run(parts, connections, of("R1", "1.00k"), of("R2", "1.02k"))
        for text, follows in [("2.02k", True), ("2.03k", True), ("2.04k", False), ("2.01k", True), ("2.00k", False)]:
            claim = Claim(Across(RESISTANCE, ("A", "gnd"), "main"), parse(text), (0, 1), ClaimOperation.SUM)
            (found,) = assess(replace(base, claims=(claim,))).claims
            self.assertEqual(found.follows, follows, text)


class Safety(TestCase):
    def test_voltage(self) -> None:
        for volts_, expected in [("30", Caution.NONE), ("30.1", Caution.WARNING), ("60", Caution.WARNING),
                                 ("60.1", Caution.PAPER_ONLY)]:  # fmt: skip
            self.assertIs(caution(one_line.read(f"{volts_}V: 1M")), expected, volts_)

    def test_power(self) -> None:
        """10 V on 400 Ω is just a quarter watt."""
        for ohms_, is_over in [("400", False), ("401", False), ("399", True)]:
            (taken,) = dissipations(one_line.read(f"10V: {ohms_}"))
            self.assertEqual(taken.is_over, is_over, ohms_)
