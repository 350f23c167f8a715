"""The edges that a bench meets: zeros, leads, sources that sag, looks, several places of one voltage, claims."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import Across, Judge, JudgedBy, Setup, Through
from recensor.core.judgement import Assessment, assess, gather
from recensor.core.meters import EXACT, SHIPPED
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse, parse_percent
from recensor.core.record import Claim, ClaimOperation, Reading, RecordError, Strike, check
from recensor.core.standing import Standing
from tests.written import amps, chain, of, ohms, part, run, volts

BY_UNCERTAINTY = Judge(by=JudgedBy.UNCERTAINTY)


def words(assessed: Assessment) -> list[str]:
    """The verdict on every target, in order."""
    return [str(target.judged.verdict) for target in assessed.targets.values()]


def rules(assessed: Assessment, beginning: str = "") -> list[bool]:
    """Which sanity checks hold, of those whose rule begins so."""
    return [check.holds for check in assessed.sanity if check.rule.startswith(beginning)]


class Zeros(TestCase):
    """A zero is judged by what drives the setup, never by a solution that is round-off itself."""

    def test_every_current_of_an_open_chain_is_zero(self) -> None:
        parts = [part("V1", "9", "1%"), part("R1", "1k5", "5%"), part("R2", "3k3", "5%"), part("R3", "470", "5%")]
        broken = {"V1": ("top", "gnd"), "R1": ("top", "mid"), "R2": ("mid", "low"), "R3": ("low2", "gnd")}
        for meter in (EXACT, None):
            currents = [amps(name, "0.00m") for name in ("V1", "R1", "R2", "R3")]
            assessed = assess(run(parts, broken, *currents, volts("top", "mid", "0.000"), meter=meter))
            self.assertEqual(set(words(assessed)), {"agrees"})
            self.assertEqual({t.judged.measured.value for t in assessed.targets.values()}, {0.0})

    @settings(max_examples=60)
    @given(st.lists(st.floats(1.0, 9.9), min_size=4, max_size=4), st.integers(0, 2))
    def test_what_is_shorted_by_a_source_that_is_off_is_zero_whatever_the_values(
        self, digits: list[float], exponent: int
    ) -> None:
        source, other, *resistances = (f"{digit:.4f}" for digit in digits)
        parts = [replace(part("V1", source, "2%"), internal=parse("10")), part("V2", other, "2%"),
                 *(part(f"R{k}", f"{value}e{exponent}", "10%") for k, value in enumerate(resistances, 1))]  # fmt: skip
        wires = {"V1": ("a", "gnd"), "R1": ("a", "gnd"), "R2": ("gnd", "a"), "V2": ("a", "gnd")}
        only = Setup("only V1", "gnd", wires, sources_off=frozenset({"V2"}))
        read = [*volts("a", "gnd", "0.00", setup="only V1"), *amps("R1", "0.00m", setup="only V1")]
        assessed = assess(run(parts, {"R1": ("a", "gnd")}, read, **{"only V1": only}))
        self.assertEqual(words(assessed), ["agrees", "agrees"])
        self.assertEqual([t.judged.percent_error["measured"] for t in assessed.targets.values()], [None, None])

    def test_a_little_more_than_zero(self) -> None:
        """By the difference's own uncertainty, whichever way the run judges; 2 digits of 10 mV are ± 24 mV."""
        parts = [part("V1", "9", "1%"), part("R1", "1k", "5%"), part("R2", "1k", "5%")]
        broken = {"V1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("c", "gnd")}
        for judge in (Judge(), BY_UNCERTAINTY):
            for text, expected in [("0.02", "agrees"), ("0.03", "undecided"), ("0.04", "outside")]:
                assessed = assess(run(parts, broken, volts("a", "b", text), judge=judge, meter=None))
                self.assertEqual(words(assessed), [expected], text)


class Leads(TestCase):
    def test_they_come_off_totals_too_as_one_common_quantity(self) -> None:
        """JCGM 100, 5.2: the two parts of a chain carry the same lead resistance, which counts twice in the sum."""
        parts = [part("R1", "1.0", "5%"), part("R2", "2.2", "5%"), part("V1", "1.5", "5%")]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "j"), "R2": ("j", "gnd")}
        read = [*of("leads", "0.40"), *of("R1", "1.40"), *of("R2", "2.60"), *ohms("a", "gnd", "3.60")]
        assessed = assess(run(parts, wires, read))
        total = assessed.targets[read[3].target.key].judged
        self.assertEqual((str(total.verdict), round(total.measured.value, 6)), ("agrees", 3.2))
        digit = 0.01 / math.sqrt(12)
        self.assertAlmostEqual(2 * total.measured.standard, 2 * math.sqrt(2 * digit**2 + 4 * digit**2))
        # Against the total the leads count once more, and less: 3.60 − l − (1.40 − l) − (2.60 − l).
        self.assertAlmostEqual(total.normalised_error["measured"], 0.0)
        self.assertEqual(set(rules(assessed)), {True})


class Sources(TestCase):
    """What a source gave while the readings were taken."""

    def setUp(self) -> None:
        self.parts = [replace(part("V1", "9", "5%"), internal=parse("10")), part("R1", "100", "1%")]
        self.wires = {"V1": ("a", "gnd"), "R1": ("a", "gnd")}

    def current(self, *readings: list[Reading]) -> float:
        read = [*(one for group in readings for one in group), *amps("R1", "80m")]
        assessed = assess(run(self.parts, self.wires, read))
        return round(assessed.targets[read[-1].target.key].judged.measured.value * 1e3, 3)

    def test_under_load_it_is_an_ideal_source_and_what_is_inside_counts_no_more(self) -> None:
        self.assertEqual(self.current(), round(9 / 110 * 1e3, 3))
        self.assertEqual(self.current(of("V1", "9.10")), round(9.1 / 110 * 1e3, 3))
        self.assertEqual(self.current(of("V1", "9.10"), volts("a", "gnd", "8.25")), 82.5)
        self.assertEqual(self.current(of("V1", "9.10"), volts("gnd", "a", "-8.25")), 82.5)

    def test_its_reading_under_load_is_judged_against_the_one_before(self) -> None:
        assessed = assess(run(self.parts, self.wires, of("V1", "9.10"), volts("a", "gnd", "8.25")))
        loaded = list(assessed.targets.values())[1].judged
        self.assertAlmostEqual(loaded.measured.value, 9.1 * 100 / 110)

    def test_an_impossible_reading_is_never_taken_and_that_is_said(self) -> None:
        for text in ("2.1", "-8.20", "19.0", "0.00"):
            read = [*of("V1", "9.10"), *volts("a", "gnd", text)]
            self.assertEqual(self.current(read), round(9.1 / 110 * 1e3, 3), text)
            warned = [w.at for w in assess(run(self.parts, self.wires, read, amps("R1", "80m"))).warnings]
            self.assertIn("readings[1].value", warned)
        above = [*of("V1", "8.00"), *volts("a", "gnd", "8.90")]
        self.assertEqual(self.current(above), round(8.0 / 110 * 1e3, 3))
        confirmed = [above[0], replace(above[1], confirmed=True)]
        self.assertEqual(self.current(confirmed), 89.0)

    def test_between_two_readings_of_it_their_mean_counts_and_half_their_difference(self) -> None:
        again = [*volts("a", "gnd", "8.20"), *amps("R1", "82m")]
        read = [*volts("a", "gnd", "8.40"), *amps("R1", "83m"), *(replace(one, later=True) for one in again)]
        assessed = assess(run(self.parts, self.wires, read))
        by_index = {r.index: r for r in assessed.readings}
        self.assertAlmostEqual(by_index[1].judged.measured.value, 0.083)
        self.assertAlmostEqual(by_index[3].judged.measured.value, 0.082)
        self.assertEqual([by_index[k].standing for k in range(4)],
                         [Standing.EARLIER, Standing.EARLIER, Standing.LATER, Standing.LATER])  # fmt: skip
        still = assess(run(self.parts, self.wires, read[:1], amps("R1", "83m")))
        steady = still.targets[read[1].target.key].judged.measured.standard
        drifting = by_index[1].judged.measured.standard
        self.assertGreater(2 * drifting, 0.1 / 100)  # half of 0.2 V, over 100 Ω
        self.assertLess(steady, drifting)

    def test_what_was_read_before_connecting_is_not_held_against_a_setting_of_later(self) -> None:
        low = Setup("low", "gnd", self.wires, values={"V1": parse("6.2V")})
        assessed = assess(run(self.parts, self.wires, of("V1", "9.05"), low=low))
        (judged,) = (target.judged for target in assessed.targets.values())
        self.assertEqual((judged.nominal.value, assessed.parts["V1"].nominal), (9.0, 9.0))

    def test_read_for_a_setup_it_is_judged_by_what_it_is_set_to_there(self) -> None:
        low = Setup("low", "gnd", self.wires, values={"V1": parse("6.2V")})
        read = [*of("V1", "6.19", setup="low"), *of("V1", "7.00", setup="main")]
        assessed = assess(run(self.parts, self.wires, read, low=low))
        self.assertEqual([str(r.judged.verdict) for r in assessed.readings], ["within tolerance", "out of tolerance"])
        self.assertEqual(str(assessed.parts["V1"].verdict), "out of tolerance")
        bare = assess(run([part("V1", "9"), self.parts[1]], self.wires, read, low=low))
        self.assertEqual([str(r.judged.verdict) for r in bare.readings], ["as set", "off its setting"])


class Standings(TestCase):
    def setUp(self) -> None:
        self.parts, self.wires = chain("1k", "1k", source="5")

    def test_looks_are_kept_and_not_averaged(self) -> None:
        read = [*volts("A", "B", "0"), *volts("A", "B", "OL"), *volts("A", "B", "2.51", "2.50")]
        assessed = assess(run(self.parts, self.wires, read, meter=None))
        self.assertEqual([str(r.standing) for r in assessed.readings], ["counted", "look", "counted", "counted"])
        fine = [*read[:2], *volts("A", "B", "2.512", "2.508")]
        assessed = assess(run(self.parts, self.wires, [replace(fine[0], counted=False), *fine[1:]]))
        (target,) = assessed.targets.values()
        self.assertAlmostEqual(target.measurement.mean, 2.51)
        self.assertEqual([str(r.judged.verdict) for r in assessed.readings][:2], ["not judged", "not judged"])
        coarse = volts("A", "B", "2", "1.512", "1.508")
        looked = assess(run(self.parts, self.wires, coarse, meter=None))
        self.assertEqual([str(r.standing) for r in looked.readings], ["look", "counted", "counted"])
        self.assertIn("readings[0].value", [warning.at for warning in looked.warnings])

    def test_what_is_replaced_was_struck_and_stands_in_the_run(self) -> None:
        old, new = volts("A", "B", "25.0"), volts("A", "B", "2.50")
        struck = [replace(old[0], struck=Strike("decimal point")), replace(new[0], instead_of=0)]
        assessed = assess(run(self.parts, self.wires, struck))
        self.assertEqual([r.index for r in assessed.readings], [1])
        self.assertEqual(gather(run(self.parts, self.wires, struck)).standings, ["replaced", "counted"])
        for instead_of, said in [(0, "is not struck"), (1, "there is no other"), (7, "there is no other")]:
            with self.assertRaisesRegex(RecordError, said):
                check(run(self.parts, self.wires, [old[0], replace(new[0], instead_of=instead_of)]))

    def test_a_later_reading_stands_and_the_earlier_one_is_kept(self) -> None:
        read = [*volts("A", "B", "2.50"), *(replace(r, later=True) for r in volts("A", "B", "2.70"))]
        assessed = assess(run(self.parts, self.wires, read))
        (target,) = assessed.targets.values()
        measured = target.measurement
        self.assertEqual((measured.mean, measured.indexes, measured.earlier), (2.7, (1,), (0,)))
        self.assertEqual([str(r.judged.verdict) for r in assessed.readings], ["agrees", "outside"])

    def test_trials_that_scatter_no_more_than_the_meter_allows_cost_nothing(self) -> None:
        """2d + 1 digits of an ordinary handheld are 0.05 V here; and equal coarse digits gain nothing."""

        def expanded(*texts: str) -> float:
            (target,) = assess(run(self.parts, self.wires, volts("A", "B", *texts), meter=None)).targets.values()
            return target.judged.expanded

        alone = expanded("2.50")
        self.assertAlmostEqual(expanded("2.50", "2.50", "2.50", "2.50"), alone)
        self.assertAlmostEqual(expanded("2.48", "2.52", "2.53", "2.49"), alone, places=4)
        self.assertGreater(expanded("2.45", "2.55", "2.56", "2.44"), 1.2 * alone)

    def test_one_far_from_the_others_is_named_and_never_silently_averaged(self) -> None:
        for texts, far in [(("4.50", "0.4"), (0, 1)), (("2.50", "2.51", "2.05", "2.49"), (2,)),
                           (("2.50", "2.51", "2.49"), ()), (("2.50", "2.51"), ())]:  # fmt: skip
            assessed = assess(run(self.parts, self.wires, volts("A", "B", *texts)))
            (target,) = assessed.targets.values()
            self.assertEqual(target.measurement.far, far, texts)
            for k in far:
                self.assertIn(f"“{texts[k]}”", target.judged.reason)
                self.assertIn(f"readings[{k}].value", [warning.at for warning in assessed.warnings])


class Uncertainties(TestCase):
    def test_what_cannot_matter_does_not_make_it_unknown(self) -> None:
        """10 MΩ without a tolerance beside a source of 0.4 Ω; 10 kΩ there does matter."""
        for far, known in [("10M", True), ("10k", False)]:
            parts = [replace(part("V1", "9", "1%"), internal=parse("0.4" if known else "400")),
                     part("R1", "1k", "5%"), part("R2", "1k", "5%"), part("R3", far)]  # fmt: skip
            wires = {"V1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("b", "gnd"), "R3": ("a", "gnd")}
            (target,) = assess(run(parts, wires, volts("b", "gnd", "4.50"), judge=BY_UNCERTAINTY)).targets.values()
            self.assertEqual(target.judged.measured.standard is not None, known)

    def test_a_gain_that_reading_and_calculation_share_cancels(self) -> None:
        """A divider read with one meter in one range: the source's reading and the part's err alike."""
        parts, wires = chain("1k", "1k", source="9", tolerance="1%")
        read = [*volts("A", "gnd", "9.00"), *volts("A", "B", "4.50"), *of("R1", "1.000k"), *of("R2", "1.000k")]
        assessed = assess(run(parts, wires, read, meter=None))
        one = assessed.targets[read[1].target.key].judged
        alone = math.hypot(one.expanded, 2 * one.measured.standard)
        self.assertLess(2 * _difference(one), 0.8 * alone)

    def test_u_against_a_monte_carlo_of_parts_leads_and_shared_gain(self) -> None:
        """A second method: every variable drawn with its own standard deviation, the difference worked out anew."""
        parts, wires = chain("10", "22", source="5", tolerance="5%")
        read = [*of("leads", "0.40"), *of("R1", "10.40"), *volts("A", "gnd", "5.00"), *volts("A", "B", "1.56"),
                *ohms("A", "gnd", "32.5")]  # fmt: skip
        assessed = assess(run(parts, wires, read, meter=None))
        draw, n = np.random.default_rng(7), 200_000

        def gain(percent: float, values: np.ndarray | float) -> np.ndarray:
            shared = draw.normal(0, math.sqrt(15 / 16), n) * percent / 100 / math.sqrt(3)
            return shared, percent / 100 / math.sqrt(3) / 4

        (g_volts, own_volts), (g_ohms, own_ohms) = gain(0.8, 0), gain(1.0, 0)

        def shown(value: float, common: np.ndarray, own: float, digits: float, step: float) -> np.ndarray:
            digit = math.sqrt((digits * step) ** 2 / 3 + step**2 / 12)
            return value * (1 + common) + draw.normal(0, math.hypot(own * value, digit), n)

        leads = shown(0.40, g_ohms, own_ohms, 2, 0.01)
        first = shown(10.40, g_ohms, own_ohms, 2, 0.01) - leads
        second = draw.normal(22.0, 22 * 0.05 / math.sqrt(3), n)
        total = shown(32.5, g_ohms, own_ohms, 2, 0.1) - leads
        drop = shown(1.56, g_volts, own_volts, 2, 0.01) - shown(5.00, g_volts, own_volts, 2, 0.01) * first / (
            first + second
        )
        for target, differences in [(read[3], drop), (read[4], total - first - second)]:
            one = assessed.targets[target.target.key].judged
            self.assertAlmostEqual(_difference(one) / np.std(differences), 1.0, delta=0.02)

    def test_the_document_says_which_meter(self) -> None:
        parts = [part("V1", "9"), part("R1", "1k", "1%")]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "gnd")}
        for meter, outside in [(EXACT, True), (None, False), (SHIPPED["3½-digit manual"], False)]:
            read = [*of("V1", "9.00"), *volts("a", "gnd", "9.04")]
            assessed = assess(run(parts, wires, read, judge=BY_UNCERTAINTY, meter=meter))
            self.assertEqual("outside" in words(assessed), outside)
            self.assertEqual([w.at for w in assessed.warnings if w.at == "meters"], [] if meter else ["meters"])

    def test_this_meter_cannot_prove_one_percent_parts_and_says_so_once(self) -> None:
        parts = [part("R1", "1k", "1%"), part("R2", "2k", "1%"), part("R3", "1k", "5%")]
        wires = dict.fromkeys(("R1", "R2", "R3"), ("a", "gnd"))
        assessed = assess(run(parts, wires, of("R1", "1003"), of("R2", "2040"), of("R3", "1003"), meter=None))
        self.assertEqual([str(p.verdict) for p in assessed.parts.values()],
                         ["cannot tell", "cannot tell", "within tolerance"])  # fmt: skip
        self.assertEqual([p.outcome for p in assessed.parts.values()], ["neutral", "undecided", "agrees"])
        self.assertEqual(sum("cannot prove 1 % parts" in w.text for w in assessed.warnings), 1)


def _difference(one: object) -> float:
    """The standard uncertainty of reading less calculated value, out of its normalised error."""
    percent, error = one.percent_error["measured"], one.normalised_error["measured"]
    return abs(percent / 100 * one.measured.value / error / 2)


class Places(TestCase):
    """Several places of one voltage or current, and rules that stay silent where they do not apply."""

    def test_a_total_across_a_source_that_is_off_is_a_wire_and_no_rule_speaks(self) -> None:
        parts = [part("V1", "9", "1%"), part("R1", "100", "1%"), part("R2", "100", "1%")]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "j"), "R2": ("j", "gnd")}
        off = Setup("off", "gnd", wires, sources_off=frozenset({"V1"}))
        read = [*of("R1", "100.1"), *of("R2", "99.9"), *ohms("a", "gnd", "0.0", setup="off")]
        assessed = assess(run(parts, wires, read, off=off))
        self.assertEqual((words(assessed)[2], assessed.sanity), ("agrees", []))

    def test_superposition_is_silent_where_the_inside_of_a_source_goes_out_with_it(self) -> None:
        wires = {"V1": ("a", "gnd"), "R1": ("a", "j"), "V2": ("b", "gnd"), "R2": ("b", "j"), "R3": ("j", "gnd")}
        for internal, checked in [(None, [True]), ("10", [])]:
            inside = parse(internal) if internal else None
            parts = [replace(part(name, value, "1%"), internal=inside) for name, value in (("V1", "9"), ("V2", "5"))]
            parts += [part(f"R{k}", "100", "1%") for k in (1, 2, 3)]
            alone = {
                f"only {name}": Setup(f"only {name}", "gnd", wires, frozenset({other}))
                for name, other in (("V1", "V2"), ("V2", "V1"))
            }
            sums = ("4.516", "2.813", "1.563") if internal else ("4.667", "3.000", "1.667")
            read = [one for text, setup in zip(sums, ("main", *alone), strict=True)
                    for one in volts("j", "gnd", text, setup=setup)]  # fmt: skip
            assessed = assess(run(parts, wires, read, judge=Judge(limit=parse_percent("1%")), **alone))
            self.assertEqual(rules(assessed, "readings with each"), checked)
            self.assertEqual(any("goes out with it" in w.text for w in assessed.warnings), bool(internal))

    def test_currents_of_four_places_are_equal_and_each_is_a_target_of_its_own(self) -> None:
        parts, wires = chain("1k", "2k", source="6")
        texts = {"V1": "2.00m", "R1": "2.01m", "R2": "1.99m"}
        places = [
            replace(one, target=Through("R1", "main", at)) for at, text in texts.items() for one in amps("R1", text)
        ]
        good, bad = assess(run(parts, wires, places)), assess(run(parts, wires, [*places, *amps("R2", "1.50m")]))
        self.assertEqual((len(good.targets), rules(good, "series parts")), (3, [True]))
        self.assertEqual(rules(bad, "series parts"), [False])


class Accounts(TestCase):
    def test_the_four_verdicts_by_percent(self) -> None:
        """9 V rises in steps of 10 mV with an exact meter, then with one that nobody described."""
        parts, wires = chain("1k", "1k", source="9")
        for drop, meter, expected in [("4.50", EXACT, "balances"), ("4.30", EXACT, "close"), ("4.00", EXACT, "out"),
                                      ("4.30", None, "close"), ("4.48", None, "balances"), ("4.03", None, "undecided"),
                                      ("4", None, "undecided")]:  # fmt: skip
            read = [*volts("A", "gnd", "9.00"), *volts("A", "B", "4.50"), *volts("B", "gnd", drop)]
            (account,) = assess(run(parts, wires, read, meter=meter)).laws
            self.assertEqual(account.verdict, expected, (drop, account.reason))
        self.assertIn("Read the voltage from B to gnd finer", account.reason)

    def test_a_term_too_small_to_be_checked_is_named(self) -> None:
        parts, wires = chain("10k", "10", source="9")
        read = [*volts("A", "gnd", "9.00"), *volts("A", "B", "9.00"), *volts("B", "gnd", "0.02")]
        (account,) = assess(run(parts, wires, read, meter=None)).laws
        self.assertIn("R2's own share is smaller than the uncertainty", account.reason)

    def test_the_common_node_that_checks_is_taken(self) -> None:
        """Against gnd the missing drop would be made of the loop's own terms; against c it is a check, and fails."""
        parts = [part("V1", "9"), *(part(f"R{k}", "1k") for k in range(1, 5))]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("b", "gnd"), "R3": ("a", "c"), "R4": ("c", "b")}
        read = [
            *volts("a", "gnd", "9.00"),
            *volts("b", "gnd", "5.40"),
            *volts("a", "c", "1.80"),
            *volts("c", "b", "2.80"),
        ]
        loop = assess(run(parts, wires, read)).laws[0]
        self.assertEqual((loop.around, loop.verdict), (("V1", "R1", "R2"), "out"))
        self.assertAlmostEqual(loop.residual, -1.0)

    def test_what_enters_and_leaves_at_one_node_is_not_asked_for(self) -> None:
        parts = [part("V1", "9", "1%"), *(part(f"R{k}", "1k", "5%") for k in range(1, 6))]
        wires = {"V1": ("a", "g"), "R5": ("a", "g"), "R1": ("a", "b"), "R2": ("b", "g"), "R3": ("b", "c"),
                 "R4": ("c", "b")}  # fmt: skip
        laws = assess(run(parts, wires, amps("R1", "4.50m"), amps("R2", "4.50m"), reference="g")).laws
        (at_b,) = [law for law in laws if law.at == "b"]
        self.assertEqual((at_b.verdict, [term.part for term in at_b.terms]), ("balances", ["R1", "R2"]))
        for law in laws:
            self.assertNotIn("R3", [getattr(target, "part", "") for target in law.missing])

    def test_a_stated_internal_resistance_drops_its_share(self) -> None:
        parts = [
            replace(part("V1", "9", "5%"), internal=parse("100")),
            part("R1", "400", "5%"),
            part("R2", "500", "5%"),
        ]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "b"), "R2": ("b", "gnd")}
        read = [*of("V1", "9.00"), *volts("a", "b", "3.60"), *volts("b", "gnd", "4.50")]
        (account,) = assess(run(parts, wires, read)).laws
        self.assertEqual(account.verdict, "needs readings")
        (account,) = assess(run(parts, wires, read, amps("R2", "9.00m"))).laws
        self.assertEqual((account.verdict, round(account.residual, 9)), ("balances", 0.0))


class Claims(TestCase):
    def setUp(self) -> None:
        self.parts, self.wires = chain("1.5k", "3.3k", source="9")
        self.read = [*of("R1", "1.487k"), *of("R2", "3.29k"), *volts("A", "B", "2.81"), *volts("gnd", "B", "-6.19"),
                     *amps("R1", "1.88m"), *volts("A", "gnd", "9.00")]  # fmt: skip

    def follows(self, target: object, text: str, combined: ClaimOperation, *sources: int) -> bool | None:
        claim = Claim(target, parse(text, target.unit), sources, combined)
        (found,) = assess(replace(run(self.parts, self.wires, self.read), claims=(claim,))).claims
        self.assertTrue(found.reason)
        return found.follows

    def test_units_signs_and_ways_to_combine(self) -> None:
        whole, first = Across(VOLTAGE, ("A", "gnd"), "main"), Across(VOLTAGE, ("A", "B"), "main")
        current, total = Through("V1", "main"), Across(RESISTANCE, ("A", "gnd"), "main")
        for target, text, combined, sources, follows in [
            (total, "4.777k", ClaimOperation.SUM, (0, 1), True),
            (total, "1.024k", ClaimOperation.PARALLEL, (0, 1), True),
            (whole, "9.00", ClaimOperation.SUM, (2, 3), True),
            (whole, "3.38", ClaimOperation.SUM, (2, 3), False),
            (first, "2.81", ClaimOperation.DIFFERENCE, (5, 3), True),
            (whole, "2.81", ClaimOperation.SUM, (2, 4), False),
            (current, "1.89m", ClaimOperation.RATIO, (2, 0), True),
            (current, "1.89m", ClaimOperation.QUOTIENT, (2, 0), True),
            (current, "1.89m", ClaimOperation.QUOTIENT, (0, 2), False),
            (total, "1.49k", ClaimOperation.QUOTIENT, (2, 4), True),
            (first, "2.80", ClaimOperation.PRODUCT, (4, 0), True),
            (total, "2.80k", ClaimOperation.PRODUCT, (4, 0), False),
            (total, "2.39k", ClaimOperation.MEAN, (0, 1), True),
            (current, "2m", ClaimOperation.RATIO, (2, 0), None),
            (current, "1.88m", ClaimOperation.RATIO, (0,), None),
        ]:
            with self.subTest(text=text, combined=combined, sources=sources):
                self.assertIs(self.follows(target, text, combined, *sources), follows)

    def test_currents_add_up_by_the_node_they_meet_at(self) -> None:
        parts = [part("V1", "9"), part("R1", "1k"), part("R2", "1k")]
        wires = {"V1": ("a", "gnd"), "R1": ("a", "gnd"), "R2": ("gnd", "a")}
        read = [*amps("R1", "9.00m"), *amps("R2", "-9.00m")]
        claim = Claim(Through("V1", "main"), parse("18.0m", CURRENT.unit), (0, 1), ClaimOperation.SUM)
        (found,) = assess(replace(run(parts, wires, read), claims=(claim,))).claims
        self.assertIs(found.follows, True)
