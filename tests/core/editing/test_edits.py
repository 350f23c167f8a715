"""Edits by structure: whatever is done, the circuit can be solved; what is refused changes nothing."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core.circuit import CURRENT_SOURCE, RESISTOR, VOLTAGE_SOURCE, Across, Part, Sheet, node_list, one_line
from recensor.core.editing import EditError, edits
from recensor.core.quantity import parse
from recensor.core.solving import dead, resistance_between, stated

BRIDGE = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 2k\nR3 B gnd 3k\nR4 C gnd 4k\nR5 B C 5k")
CHAIN = one_line.read("9V: 1k + 2k + 3k")
ACTS = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 30), st.integers(0, 30)), max_size=12)


def resistor(sheet: Sheet, text: str = "470") -> Part:
    return Part(edits.free_name(sheet, RESISTOR), RESISTOR, parse(text))


def resistance(sheet: Sheet, first: str = "A", second: str = "gnd") -> float:
    setup = sheet.setup()
    (seen,) = resistance_between(dead(setup, sheet.parts, stated(sheet, setup).known), [(first, second)])
    return seen[0]


def edited(sheet: Sheet, act: int, one: int, other: int) -> Sheet:
    """One of the edits, at a place that the numbers choose."""
    setup = sheet.setups["main"]
    at = list(setup.connections)[one % len(setup.connections)]
    nodes = setup.nodes[one % len(setup.nodes)], setup.nodes[other % len(setup.nodes)]
    source = Part(edits.free_name(sheet, VOLTAGE_SOURCE), VOLTAGE_SOURCE, parse("5V"))
    return [
        lambda: edits.insert_in_series(sheet, "main", at, resistor(sheet)),
        lambda: edits.insert_in_series(sheet, "main", at, source, before=True),
        lambda: edits.add_in_parallel(sheet, "main", at, resistor(sheet)),
        lambda: edits.bridge(sheet, "main", *nodes, resistor(sheet)),
        lambda: edits.bridge(sheet, "main", *nodes, source),
        lambda: edits.remove(sheet, "main", at),
        lambda: edits.turn_source(sheet, "main", at, off=bool(other % 2)),
    ][act]()


class AnyEdits(TestCase):
    @settings(max_examples=60)
    @given(st.sampled_from([BRIDGE, CHAIN]), ACTS)
    def test_the_circuit_is_valid_at_every_moment(self, sheet: Sheet, acts: list[tuple[int, int, int]]) -> None:
        for act, one, other in acts:
            try:
                sheet = edited(sheet, act, one, other)
            except EditError:
                continue
            setup = sheet.setups["main"]
            edits.try_circuit(sheet, setup)
            self.assertEqual(set(sheet.parts), set(setup.connections))
            self.assertTrue(all(first != second for first, second in setup.connections.values()))
            self.assertIn(setup.reference, setup.nodes)
            for target in sheet.asked:
                self.assertTrue(not isinstance(target, Across) or set(target.nodes) <= set(setup.nodes))


class Edits(TestCase):
    def test_series_adds_parallel_halves_and_removing_goes_back(self) -> None:
        for sheet in (BRIDGE, CHAIN):
            for name in ("R1", "R3"):
                for before in (False, True):
                    longer = edits.insert_in_series(sheet, "main", name, resistor(sheet), before=before)
                    new = next(iter(set(longer.parts) - set(sheet.parts)))
                    self.assertAlmostEqual(resistance(edits.remove(longer, "main", new)), resistance(sheet))
                wider = edits.add_in_parallel(sheet, "main", name, resistor(sheet))
                new = next(iter(set(wider.parts) - set(sheet.parts)))
                self.assertAlmostEqual(resistance(edits.remove(wider, "main", new)), resistance(sheet))
        self.assertAlmostEqual(resistance(edits.insert_in_series(CHAIN, "main", "R2", resistor(CHAIN))), 6470)
        parallel = edits.add_in_parallel(CHAIN, "main", "R2", resistor(CHAIN, "2k"))
        self.assertAlmostEqual(resistance(parallel), 5000)

    def test_what_cannot_be_is_refused_by_name(self) -> None:
        source = Part("V2", VOLTAGE_SOURCE, parse("5V"))
        for edit, said in [
            (lambda: edits.add_in_parallel(CHAIN, "main", "V1", source), "V1 and V2 form a loop"),
            (lambda: edits.bridge(CHAIN, "main", "A", "A", resistor(CHAIN)), "two different nodes"),
            (lambda: edits.bridge(CHAIN, "main", "A", "Z", resistor(CHAIN)), "no node Z"),
            (lambda: edits.remove(CHAIN, "main", "R9"), "no part R9"),
            (lambda: edits.remove(one_line.read("9V: 1k"), "main", "V1"), "would be shorted"),
            (lambda: edits.insert_in_series(CHAIN, "main", "R1", Part("R2", RESISTOR)), "named R2 already"),
            (lambda: edits.insert_in_series(CHAIN, "main", "R1", Part("I1", CURRENT_SOURCE, parse("1A"))), ""),
            (lambda: edits.turn_source(CHAIN, "main", "R1", off=True), "no source"),
            (lambda: edits.add_setup(CHAIN, "main", "main"), "named main already"),
            (lambda: edits.remove_setup(CHAIN, "main"), "last setup"),
        ]:
            if not said:
                edit()
                continue
            with self.assertRaisesRegex(EditError, said):
                edit()

    def test_what_is_asked_follows_and_what_was_left_out_stays_out(self) -> None:
        sheet = edits.asking_everything(CHAIN)
        self.assertEqual(len(sheet.asked), 10)
        fewer = replace(sheet, asked=sheet.asked[1:])
        longer = edits.insert_in_series(fewer, "main", "R3", resistor(fewer))
        words = [target.words for target in longer.asked]
        self.assertNotIn("R1 by itself", words)
        self.assertIn("R4 by itself", words)
        self.assertEqual([target.words for target in edits.remove(longer, "main", "R4").asked][:2],
                         ["R2 by itself", "R3 by itself"])  # fmt: skip

    def test_open_and_shorted_places(self) -> None:
        opened = edits.leave_open(CHAIN, "main", "R2")
        self.assertEqual(set(opened.setups["main"].connections), {"V1", "R1", "R3"})
        self.assertEqual(opened.setups["main"].connections["R1"], ("A", "B"))
        self.assertAlmostEqual(resistance(edits.short(CHAIN, "main", "R2")), 4000)
        self.assertAlmostEqual(resistance(edits.short(BRIDGE, "main", "R5")), 1 / (1 / 1e3 + 1 / 2e3) + 12e3 / 7)
        with self.assertRaisesRegex(EditError, "R1 would be shorted"):
            edits.short(one_line.read("9V: 1k"), "main", "V1")
        dangling = node_list.read("V1 A gnd 9V\nR1 A gnd 1k\nR2 A B 1k\nR3 B C 1k")
        with self.assertRaisesRegex(EditError, "Nothing joins B, C"):
            edits.leave_open(dangling, "main", "R2")

    def test_setups_share_parts_and_drop_what_none_has(self) -> None:
        sheet = edits.add_setup(CHAIN, "without R2", "main")
        sheet = edits.remove(sheet, "without R2", "R2")
        self.assertIn("R2", sheet.parts)
        self.assertEqual(set(sheet.setups["without R2"].connections), {"V1", "R1", "R3"})
        sheet = edits.set_value(sheet, "without R2", "V1", parse("6V"))
        self.assertEqual(sheet.setups["without R2"].values["V1"].text, "6V")
        self.assertNotIn("R2", edits.remove_setup(sheet, "main").parts)
        renamed = edits.replaced(sheet, "R1", Part("Rx", RESISTOR, parse("1k")))
        self.assertTrue(all("Rx" in setup.connections for setup in renamed.setups.values()))
