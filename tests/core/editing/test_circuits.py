"""Circuits out of parts in hand: what a line means, and what is moved from one circuit to the next."""

import random
from dataclasses import replace
from fractions import Fraction
from unittest import TestCase

from recensor.core import plan
from recensor.core.boards import planned
from recensor.core.circuit import (
    USUAL_WISHES,
    Across,
    NotationError,
    PartAlone,
    Sheet,
    Wish,
    asking_everything,
    has_place,
    one_line,
    parts_line,
    wishes_met,
)
from recensor.core.editing import EditError, Joined, Preset, circuits, edits, grown, presets
from recensor.core.entries import split_circuits, typed_circuit
from recensor.core.errors import Refused
from recensor.core.quantity import RESISTANCE
from recensor.core.solving import operate
from tests.samples import samples


def in_hand(values: str = "1k + 2k2 + 3k3") -> Sheet:
    return asking_everything(one_line.read(f"9V: {values}"))


def with_line(sheet: Sheet, line: str, base: str = "main", wishes: frozenset[Wish] = USUAL_WISHES) -> tuple[Sheet, str]:
    return circuits.with_circuit(sheet, base, parts_line.read(line, sheet), wishes)


class Exact:
    """A random group of parts, with its line and its resistance as an exact fraction."""

    def __init__(self, draw: random.Random, ohms: dict[str, int], names: list[str], side_by_side: bool) -> None:
        if len(names) == 1:
            self.line, self.ohms = names[0], Fraction(ohms[names[0]])
            return
        cut = draw.randint(1, len(names) - 1)
        halves = [Exact(draw, ohms, part, not side_by_side) for part in (names[:cut], names[cut:])]
        lines = [f"({half.line})" if " " in half.line else half.line for half in halves]
        self.line = (" | " if side_by_side else " + ").join(lines)
        one, other = (half.ohms for half in halves)
        self.ohms = one * other / (one + other) if side_by_side else one + other


class Lines(TestCase):
    def test_the_total_of_any_line_is_that_of_exact_fractions(self) -> None:
        draw = random.Random(30)
        for _ in range(samples(80, 2000)):
            ohms = {f"R{k}": draw.randint(10, 10**6) for k in range(1, draw.randint(2, 9))}
            sheet = in_hand(" + ".join(map(str, ohms.values())))
            names = draw.sample(list(ohms), draw.randint(1, len(ohms)))
            exact = Exact(draw, ohms, names, draw.random() < 0.5)
            sheet, name = with_line(sheet, exact.line)
            amperes = operate(sheet, sheet.setups[name]).parts["V1"].amperes
            self.assertAlmostEqual(float(9 / exact.ohms / Fraction(amperes)), 1.0, places=9, msg=exact.line)
            # Its own line says the same circuit again, which is there already.
            again, same = with_line(sheet, sheet.setups[name].line or "R1" if name != "main" else exact.line)
            self.assertEqual((len(again.setups), same), (len(sheet.setups), name), exact.line)

    def test_a_part_that_stands_so_already_stays_and_the_others_are_moved(self) -> None:
        sheet, on_board = in_hand(), "main"
        for line, moved in [
            ("R1 + R2", ["take R3 out, a wire in its place"]),
            ("R1 | R2", ["R1 from A to gnd", "R2 from A to gnd"]),
            ("R1 | R2 | R3", ["R3 from A to gnd"]),
            ("R3 + (R1 | R2)", ["R3 from A to B", "R1 from B to gnd", "R2 from B to gnd"]),
            ("R4=470 + (R1 | R2)", ["take R3 out", "R4 from A to B"]),
            ("R1 + R2 + R3", ["take R4 out", "R1 from A to B", "R2 from B to C", "R3 from C to gnd"]),
        ]:
            sheet, name = with_line(sheet, line, on_board)
            moves = [move.words for move in plan.rebuilding(sheet, on_board, name)]
            self.assertEqual(moves, moved, line)
            on_board = name
        self.assertEqual(on_board, "main", "what is there already is no new circuit")
        self.assertEqual(list(sheet.setups)[1:3], ["R1 + R2", "R1 | R2"])

    def test_what_is_moved_is_told_with_the_holes_of_the_board(self) -> None:
        sheet = in_hand()
        board = planned(sheet, sheet.setup(), [])
        holes = [hole.shown for hole in board.placements["R3"].holes]
        at = {name: board.board.strip(board.placements[name].holes[0]).words for name in ("R1", "R2")}
        ground = board.board.strip(board.placements["R3"].holes[1]).words
        sheet, name = with_line(sheet, "R1 | R2")
        moves = [move.words for move in plan.rebuilding(sheet, "main", name, board)]
        self.assertEqual(moves[0], f"take R3 out of {holes[0]} and {holes[1]}")
        self.assertEqual(moves[-1], f"R2 from A ({at['R1']}) to gnd ({ground})")
        turned = replace(board.placements["R2"], holes=board.placements["R2"].holes[::-1])
        board = board.take_out("R2").put(turned)  # whichever way round it stands, nodes are where they are
        self.assertEqual([move.words for move in plan.rebuilding(sheet, "main", name, board)], moves)
        off = replace(sheet.setup(), name="off", sources_off=frozenset({"V1"}))
        (move,) = plan.rebuilding(replace(sheet, setups={**sheet.setups, "off": off}), "main", "off", board)
        self.assertIn("take both leads of V1 off, and only then put a wire in its place", move.words)

    def test_each_asks_for_what_is_wished_and_the_last_says_what_that_was(self) -> None:
        sheet, name = with_line(in_hand(), "R1 | R2")
        here = [target for target in sheet.asked if target.setup == name]
        self.assertEqual(here[0], Across(RESISTANCE, ("A", "gnd"), name))
        self.assertEqual([target.at for target in here], [None, "R1", "R2"])
        for wishes in map(frozenset, ({Wish.AMPS}, {Wish.RATIO, Wish.TOTAL}, USUAL_WISHES)):
            made, name = with_line(in_hand(), "R1 + R3", wishes=wishes)
            self.assertEqual(wishes_met(made, made.setups[name]) & wishes, wishes)
        self.assertTrue(all(has_place(target, made) for target in made.asked))

    def test_what_is_no_circuit_of_these_parts_is_said_at_its_place(self) -> None:
        sheet = in_hand()
        for line, at, said in [
            ("R1 + R9", (5, 7), "R9 is not among the parts"),
            ("R1 | R2=470", (5, 11), "R2 is among the parts already"),
            ("R1 | V1", (5, 7), "write it before a colon"),
            ("R1 + (R2 | R3", (5, 6), "not closed"),
            ("R1 + R1", (4, 7), "R1"),
        ]:
            with self.assertRaises(NotationError, msg=line) as caught:
                parts_line.read(line, sheet)
            self.assertIn(said, caught.exception.message)
            self.assertEqual((caught.exception.start, caught.exception.end), at, line)
        with self.assertRaises(EditError):
            with_line(sheet, "R1 | wire")  # it shorts the source
        two = asking_everything(one_line.read("9V: 1k"))
        two, _ = with_line(two, "R1 + R2=1k")
        self.assertEqual(two.parts["R2"].nominal.text, "1k")

    def test_a_rheostat_and_a_potentiometer_come_as_they_are_set(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + pot 10k at 3k + rheostat 1k set 470"))
        sheet, name = with_line(sheet, "p1 + R1 | RV1")
        self.assertEqual(sheet.setups[name].line, "P1 + R1 | RV1")
        self.assertEqual(set(sheet.setups[name].values), {"P1a", "P1b", "RV1"})

    def test_parts_in_hand_stay_in_hand_whatever_is_changed(self) -> None:
        sheet = circuits.with_part(in_hand(), parts_line.read_new("R9 470", in_hand()))
        sheet, name = with_line(sheet, "R1 + R2")
        self.assertIn("R9", sheet.parts)
        self.assertEqual([part for _, part, _ in grown(sheet, sheet.setups[name])], ["R3", "R3"])
        lines = {joined: line for joined, _, line in grown(sheet, sheet.setups[name])}
        self.assertEqual(lines, {Joined.IN_SERIES: "R1 + R2 + R3", Joined.AS_BRANCH: "R1 + R2 | R3"})

    def test_a_circuit_in_a_line_is_driven_whatever_was_off_before(self) -> None:
        sheet = edits.turn_source(in_hand(), "main", "V1", off=True)
        sheet, name = with_line(sheet, "R1 | R2")
        self.assertEqual(sheet.setups[name].driving(sheet.parts), ["V1"])
        self.assertEqual(len([target for target in sheet.asked if target.setup == name]), 3)

    def test_what_grows_may_have_a_potentiometer_in_it(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + pot 10k at 3k"))
        sheet = circuits.with_part(sheet, parts_line.read_new("R9 470", sheet))
        self.assertEqual([line for _, _, line in grown(sheet, sheet.setup())], ["R1 + P1 + R9", "R1 + P1 | R9"])


class SeveralAtOnce(TestCase):
    def test_lines_commas_and_changes_are_told_apart(self) -> None:
        sheet = in_hand()
        typed = split_circuits("R1, R1+R2\n R3 open and V1 off ,, load R3 470, R9=100")
        means = [typed_circuit(text, sheet, sheet.setup()) for text in typed]
        self.assertEqual([getattr(one, "words", None) for one in means], ["R1", "R1 + R2", None, None, "R9"])
        self.assertEqual([change.short for change in means[2]], ["R3 out", "V1 off"])
        self.assertEqual([change.short for change in means[3]], ["R3 = 470"])
        for nothing in ("", " ,\n", ", ".join(["R1"] * 31)):
            with self.assertRaises(Refused):
                split_circuits(nothing)

    def test_every_preset_is_made_of_what_is_there_and_asks_for_what_makes_its_point(self) -> None:
        sheet = asking_everything(one_line.read("9V: 1k + (2k2 | 3k3)"))
        offered = dict(presets(sheet, sheet.setup(), 30))
        self.assertNotIn(Preset.SOURCES, offered)
        for preset, text in offered.items():
            for piece in split_circuits(text):
                self.assertTrue(typed_circuit(piece, sheet, sheet.setup()), preset)
        self.assertEqual(offered[Preset.STEP_IN_SERIES], "R1, R1 + R2, R1 + R2 + R3")
        self.assertEqual(offered[Preset.THEVENIN], "R3 open, R3 open and V1 off")
        self.assertEqual(PartAlone("R1", RESISTANCE), sheet.asked[0])
        alone = dict(presets(one_line.read("9V: 1k"), one_line.read("9V: 1k").setup(), 30))
        self.assertEqual(alone, {}, "one part makes no other circuit")
