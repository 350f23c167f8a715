"""Every limit of what is made of an entry: on it, one digit inside, one outside."""

from dataclasses import replace
from unittest import TestCase

from recensor.core.circuit import Across, PartAlone, Target, Through, asking_everything, node_list, one_line
from recensor.core.editing import setup_changes
from recensor.core.entries import Repeat, bare_units, corrections, enter, place
from recensor.core.entries.recording import is_turned_up
from recensor.core.entries.repeat import agree, is_look, nothing
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE, parse
from recensor.core.record import Reading, Run, Strike
from tests.core.entries.test_questions import AB, BC, SHEET, V1, typed


def reading(text: str, target: Target = AB, range_text: str = "") -> Reading:
    return Reading(target, parse(text, target.unit), range=parse(range_text, target.unit) if range_text else None)


class Limits(TestCase):
    def test_a_single_digit_that_is_a_quarter_of_its_reading_shows_nothing_yet(self) -> None:
        for text, shows_nothing in (
            ("4", True),
            ("5", False),
            ("-4", True),
            ("0.4", True),
            ("0.05", False),
            ("12", False),
        ):
            self.assertEqual(is_look(reading(text), nothing), shows_nothing, text)

    def test_another_range_or_unit_is_another_reading_though_the_digits_are_the_same(self) -> None:
        for first, second, same in (
            (reading("1.38", range_text="2V"), reading("1.38", range_text="2V"), True),
            (reading("1.38", range_text="2V"), reading("1.38", range_text="20V"), False),
            (reading("1.38"), reading("1.38", range_text="20V"), False),
            (reading("1.38V"), reading("1.38V"), True),
            (reading("1.38V"), reading("1380mV"), False),
        ):
            self.assertEqual(agree(first, second), same, (first, second))

    def test_the_range_that_is_advised_gives_the_unit_where_the_dial_shows_it(self) -> None:
        part = PartAlone("R1", RESISTANCE)
        for advised, unit in (("kΩ", "kΩ"), ("MΩ", "MΩ"), ("mV", "Ω"), (None, "Ω")):
            self.assertEqual(bare_units(part, "Ω", 470.0, (), sealed=False, advised=advised)[0], unit)

    def test_a_battery_is_asked_about_below_half_its_label_and_above_five_quarters(self) -> None:
        for text, asked in (("4.50", False), ("4.49", True), ("11.25", False), ("11.26", True)):
            self.assertEqual(typed((V1, text))[-1].doubted is not None, asked, text)

    def test_a_rheostat_is_turned_until_it_is_there_from_either_side(self) -> None:
        sheet = asking_everything(one_line.read("9V: rheostat 1k set 470 + 1k; 5%"))
        (name,) = (part.name for part in sheet.parts.values() if part.kind.adjustable_value)
        target = next(t for t in sheet.asked if t.is_part_alone and t.part == name)
        for text, turned in (("446", True), ("447", False), ("470", False), ("493", False), ("494", True)):
            self.assertEqual(is_turned_up(reading(text, target), Run(sheet)), turned, text)

    def test_a_later_reading_of_a_source_with_a_knob_is_none_of_its_turning_up(self) -> None:
        sheet = setup_changes.with_knob(SHEET, "V1")
        across = Across(VOLTAGE, ("A", "gnd"), "main")
        came = typed((V1, "9.00"), (across, "8.97"), (AB, "1.38"), (V1, "8.97"), sheet=sheet)
        self.assertEqual([entered.repeat for entered in came][-1], Repeat.LATER)
        run = came[-1].run
        self.assertEqual(enter(run, reading("6.02", V1), sheet.asked).repeat, Repeat.LOOK)  # nothing read since
        sagged = enter(typed((V1, "9.00"), (AB, "1.38"), sheet=sheet)[-1].run, reading("6.02", V1), sheet.asked)
        self.assertEqual(sagged.repeat, Repeat.LATER)

    def test_what_was_struck_stays_where_it_is_when_all_since_moves(self) -> None:
        points = SHEET.asked
        place_of = points.index(AB)
        first, slipped, second = (
            reading(text, points[place_of + on]) for text, on in (("1.38", 1), ("9.99", 2), ("3.03", 2))
        )
        run = Run(SHEET, (first, replace(slipped, struck=Strike("slipped")), second))
        moved = next(c for c in corrections(run, points, 0) if c.kind.value == "shift back")
        self.assertEqual(sorted(moved.moved), [0, 2])
        self.assertEqual([r.target for r in moved.run.readings], [points[place_of + on] for on in (0, 2, 1)])

    def test_at_a_node_with_a_branch_the_circuit_is_opened_at_the_part_itself(self) -> None:
        straight = asking_everything(one_line.read("9V: 1k + 2k2; 5%"))
        branching = asking_everything(node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 B gnd 2k2\nR3 B gnd 3k3"))
        for sheet, at in ((straight, "R2"), (branching, "R1")):
            self.assertEqual(place("R1.2", sheet, sheet.setup(), CURRENT), Through("R1", "main", at))

    def test_a_source_may_move_by_a_twentieth_before_it_is_asked_about(self) -> None:
        for text, asked in (("9.45", False), ("9.46", True), ("8.55", False), ("8.54", True)):
            came = typed((V1, "9.00"), (BC, "3.03"), (V1, text))[-1]
            self.assertEqual(came.doubted is not None, asked, text)
