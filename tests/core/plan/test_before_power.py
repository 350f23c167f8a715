"""What is looked at before power comes on, what the meter does to the circuit, and what is inside a source."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.boards import planned
from recensor.core.circuit import Across, PartAlone, Sheet, Through, asking_everything, node_list, one_line
from recensor.core.judgement import assess, internal_resistances
from recensor.core.meters import EXACT, ORDINARY_HANDHELD, SHIPPED, Profile
from recensor.core.plan import Check, before_power, bench_of, disturbance
from recensor.core.quantity import VOLTAGE, parse
from recensor.core.record import Reading, Run


class BeforePower(TestCase):
    def checks(self, line: str, **more: object) -> list[Check]:
        sheet = asking_everything(one_line.read(line) if ":" in line else node_list.read(line))
        run = Run(replace(sheet, sealed=bool(more.pop("sealed", False))), meters={"m": SHIPPED["3½-digit manual"]})
        run = replace(run, **more)
        assessed = assess(run)
        return before_power(run, run.sheet.setup(), assessed, bench_of(run, assessed))

    def test_a_sound_circuit_holds_in_everything(self) -> None:
        found = self.checks("9V: 1k + 2k2; 5%")
        self.assertTrue(all(check.holds for check in found), found)
        said = " ".join(check.text for check in found)
        for text in ("above 30 V", "No part above its rating", "below the 200 mA fuse", "2.813 mA", "to 3.6 mA"):
            self.assertIn(text, said)

    def test_the_limit_that_is_advised_lies_above_what_flows(self) -> None:
        for ohms, advised in {"900": "13 mA", "750": "15 mA", "4k5": "2.5 mA", "90": "130 mA", "885": "13 mA"}.items():
            said = " ".join(check.text for check in self.checks(f"9V: {ohms}; 5%"))
            self.assertIn(f"set its current limit, if it has one, to {advised}.", said)

    def test_each_thing_that_does_not_hold_comes_first_with_its_numbers(self) -> None:
        for line, text in [
            ("9V: 100; 5%", "R1 takes up to 852.6 mW, more than its 250 mW"),
            ("40V: 10k + 10k", "More than 30 V DC"),
            ("9V: 50", "near the 200 mA fuse"),
            ("V1 A gnd 9V limit 5mA\nR1 A gnd 1k", "its limit is set to 5 mA: it would sag in limit"),
            ("9V: ? + 1k", "not known before it is read"),
            ("I1 A gnd 2mA\nR1 A gnd 1k", "state its compliance"),
            ("V1 A gnd 9V\nV2 A gnd 5V\nR1 A gnd 1k", "loop of ideal voltage sources"),
        ]:
            found = self.checks(line)
            self.assertFalse(found[0].holds)
            self.assertIn(text, " ".join(check.text for check in found if not check.holds), line)

    def test_a_short_on_the_board_is_seen(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + 2k2"))
        board = planned(sheet, sheet.setup())
        plus, _ = board.placements["V1"].holes
        beside = next(hole for hole in board.board.holes(board.board.strip(plus)) if hole != plus)
        shorted = replace(board.placements["V1"], holes=(plus, beside))
        built = replace(board, placements={**board.placements, "V1": shorted})
        self.assertIn("V1 are joined on the board", self.checks("9V: 1k + 2k2", boards={"main": built})[0].text)

    def test_a_sealed_run_says_no_number_that_gives_a_reading_away(self) -> None:
        for line in ("9V: 1k + 2k2; 5%", "9V: 100; 5%"):
            said = " ".join(check.text for check in self.checks(line, sealed=True))
            self.assertNotRegex(said, r"[0-9] ?mA: |delivers|up to|[0-9.]+ mW[^.]*\(")
            self.assertNotIn("2.813", said)


class Disturbed(TestCase):
    def found(self, line: str, profile: Profile, part: str, *, volts: bool = False):
        sheet = asking_everything(one_line.read(line))
        target = Across(VOLTAGE, sheet.setup().connections[part], "main") if volts else Through(part, "main")
        return sheet, disturbance(sheet, target, assess(Run(sheet)), profile)

    def test_worked_by_hand(self) -> None:
        """V·R/(R + r) of the loop that the ammeter stands in, and of the divider that the voltmeter loads."""
        _, ammeter = self.found("1.5V: 1k", SHIPPED["3½-digit manual"], "R1")
        self.assertAlmostEqual(ammeter.within, 1.5 / 1100.0)
        self.assertAlmostEqual(ammeter.share, 1000.0 / 1100.0 - 1.0)
        self.assertIn("100 Ω makes it 9.1 % lower here", ammeter.text)
        _, voltmeter = self.found("9V: 10M + 10M", ORDINARY_HANDHELD, "R2", volts=True)
        self.assertAlmostEqual(voltmeter.within, 9.0 / 3.0)

    def test_where_it_is_too_much_something_else_is_to_be_read(self) -> None:
        for line, part, instead in [
            ("1.5V: 1k", "R1", "read the voltage across R1 instead"), ("1.5V: 1k", "V1", "voltage across R1 instead"),
            ("9V: 4k7 + 4k7", "R1", ""), ("9V: 1k | 1k", "V1", ""),
        ]:  # fmt: skip
            sheet, found = self.found(line, SHIPPED["3½-digit manual"], part)
            self.assertEqual(bool(instead), found.is_too_much)
            self.assertIn(instead, found.instead(sheet))

    def test_nothing_is_said_of_a_perfect_meter_or_of_next_to_nothing(self) -> None:
        self.assertIsNone(self.found("9V: 1k", EXACT, "R1")[1])
        self.assertIsNone(self.found("9V: 1k + 1k", ORDINARY_HANDHELD, "R2", volts=True)[1])


class Inside(TestCase):
    def run_of(self, open_circuit: str, loaded: str, current: str | None) -> Run:
        sheet: Sheet = one_line.read("9V: 100")
        readings = [Reading(PartAlone("V1", VOLTAGE), parse(open_circuit)),
                    Reading(Across(VOLTAGE, ("A", "gnd"), "main"), parse(loaded))]  # fmt: skip
        if current:
            readings.append(Reading(Through("V1", "main"), parse(current)))
        return Run(sheet, tuple(readings), meters={"m": SHIPPED["4½-digit bench"]})

    def test_the_sag_over_the_current(self) -> None:
        for current, is_read in [("86.5m", True), (None, False)]:
            run = self.run_of("9.020", "8.650", current)
            (found,) = internal_resistances(run, assess(run))
            amperes = 0.0865  # 8.65 V over 100 Ω, calculated or read
            self.assertAlmostEqual(found.ohms, 0.37 / amperes, places=6)
            self.assertEqual((found.sags, found.is_read), (True, is_read))
            self.assertLess(found.expanded, 0.1)  # the meter's gain is in both readings, and cancels

    def test_leads_turned_under_load_and_no_sag_at_all(self) -> None:
        run = self.run_of("9.020", "9.019", "90.2m")
        (found,) = internal_resistances(run, assess(run))
        self.assertFalse(found.sags)
        turned = replace(run.readings[1].target, nodes=("gnd", "A"))
        swapped = replace(run.readings[1], target=turned, value=parse("-9.019"))
        run = replace(run, readings=(run.readings[0], swapped, run.readings[2]))
        self.assertAlmostEqual(next(internal_resistances(run, assess(run))).ohms, found.ohms)
