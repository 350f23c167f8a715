"""Edits by structure: whatever is done, the circuit can be solved; what is refused changes nothing."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from recensor.core import editing, network, node_list, notation
from recensor.core.circuit import Kind, Part
from recensor.core.editing import EditError
from recensor.core.quantity import parse
from recensor.core.record import Run

BRIDGE = node_list.read("V1 A gnd 9V\nR1 A B 1k\nR2 A C 2k\nR3 B gnd 3k\nR4 C gnd 4k\nR5 B C 5k")
CHAIN = notation.read("9V: 1k + 2k + 3k")
ACTS = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 30), st.integers(0, 30)), max_size=12)


def resistor(run: Run, text: str = "470") -> Part:
    return Part(editing.free_name(run, Kind.RESISTOR), Kind.RESISTOR, parse(text))


def resistance(run: Run, first: str = "A", second: str = "gnd") -> float:
    setup = run.setups["main"]
    values = {name: float(part.nominal) for name, part in run.parts.items()}
    passive = [e for e in network.elements_of(setup, run.parts, values) if e.kind is Kind.RESISTOR]
    return float(network.ohmmeter(passive, first, second).voltage(first, second))


def edited(run: Run, act: int, one: int, other: int) -> Run:
    """One of the edits, at a place that the numbers choose."""
    setup = run.setups["main"]
    at = list(setup.connections)[one % len(setup.connections)]
    nodes = setup.nodes[one % len(setup.nodes)], setup.nodes[other % len(setup.nodes)]
    source = Part(editing.free_name(run, Kind.VOLTAGE_SOURCE), Kind.VOLTAGE_SOURCE, parse("5V"))
    return [
        lambda: editing.insert_in_series(run, "main", at, resistor(run)),
        lambda: editing.insert_in_series(run, "main", at, source, before=True),
        lambda: editing.add_in_parallel(run, "main", at, resistor(run)),
        lambda: editing.bridge(run, "main", *nodes, resistor(run)),
        lambda: editing.bridge(run, "main", *nodes, source),
        lambda: editing.remove(run, "main", at),
        lambda: editing.turn_source(run, "main", at, off=bool(other % 2)),
    ][act]()


class AnyEdits(TestCase):
    @settings(max_examples=60)
    @given(st.sampled_from([BRIDGE, CHAIN]), ACTS)
    def test_the_circuit_is_valid_at_every_moment(self, run: Run, acts: list[tuple[int, int, int]]) -> None:
        for act, one, other in acts:
            try:
                run = edited(run, act, one, other)
            except EditError:
                continue
            setup = run.setups["main"]
            editing.try_circuit(run, setup)
            self.assertEqual(set(run.parts), set(setup.connections))
            self.assertTrue(all(first != second for first, second in setup.connections.values()))
            self.assertIn(setup.reference, setup.nodes)
            for target in run.asked:
                self.assertTrue(target.across is None or set(target.across) <= set(setup.nodes))


class Edits(TestCase):
    def test_series_adds_parallel_halves_and_removing_goes_back(self) -> None:
        for run in (BRIDGE, CHAIN):
            for name in ("R1", "R3"):
                for before in (False, True):
                    longer = editing.insert_in_series(run, "main", name, resistor(run), before=before)
                    new = next(iter(set(longer.parts) - set(run.parts)))
                    self.assertAlmostEqual(resistance(editing.remove(longer, "main", new)), resistance(run))
                wider = editing.add_in_parallel(run, "main", name, resistor(run))
                new = next(iter(set(wider.parts) - set(run.parts)))
                self.assertAlmostEqual(resistance(editing.remove(wider, "main", new)), resistance(run))
        self.assertAlmostEqual(resistance(editing.insert_in_series(CHAIN, "main", "R2", resistor(CHAIN))), 6470)
        parallel = editing.add_in_parallel(CHAIN, "main", "R2", resistor(CHAIN, "2k"))
        self.assertAlmostEqual(resistance(parallel), 5000)

    def test_what_cannot_be_is_refused_by_name(self) -> None:
        source = Part("V2", Kind.VOLTAGE_SOURCE, parse("5V"))
        for edit, said in [
            (lambda: editing.add_in_parallel(CHAIN, "main", "V1", source), "V1 and V2 form a loop"),
            (lambda: editing.bridge(CHAIN, "main", "A", "A", resistor(CHAIN)), "two different nodes"),
            (lambda: editing.bridge(CHAIN, "main", "A", "Z", resistor(CHAIN)), "no node Z"),
            (lambda: editing.remove(CHAIN, "main", "R9"), "no part R9"),
            (lambda: editing.remove(notation.read("9V: 1k"), "main", "V1"), "would be shorted"),
            (lambda: editing.insert_in_series(CHAIN, "main", "R1", Part("R2", Kind.RESISTOR)), "named R2 already"),
            (lambda: editing.insert_in_series(CHAIN, "main", "R1", Part("I1", Kind.CURRENT_SOURCE, parse("1A"))), ""),
            (lambda: editing.turn_source(CHAIN, "main", "R1", off=True), "no source"),
            (lambda: editing.add_setup(CHAIN, "main", "main"), "named main already"),
            (lambda: editing.remove_setup(CHAIN, "main"), "last setup"),
        ]:
            if not said:
                edit()
                continue
            with self.assertRaisesRegex(EditError, said):
                edit()

    def test_what_is_asked_follows_and_what_was_left_out_stays_out(self) -> None:
        run = editing.asking_everything(CHAIN)
        self.assertEqual(len(run.asked), 10)
        fewer = replace(run, asked=run.asked[1:])
        longer = editing.insert_in_series(fewer, "main", "R3", resistor(fewer))
        words = [target.words() for target in longer.asked]
        self.assertNotIn("R1 by itself", words)
        self.assertIn("R4 by itself", words)
        self.assertEqual([target.words() for target in editing.remove(longer, "main", "R4").asked][:2],
                         ["R2 by itself", "R3 by itself"])  # fmt: skip

    def test_open_and_shorted_places(self) -> None:
        opened = editing.leave_open(CHAIN, "main", "R2")
        self.assertEqual(set(opened.setups["main"].connections), {"V1", "R1", "R3"})
        self.assertEqual(opened.setups["main"].connections["R1"], ("A", "B"))
        self.assertAlmostEqual(resistance(editing.short(CHAIN, "main", "R2")), 4000)
        self.assertAlmostEqual(resistance(editing.short(BRIDGE, "main", "R5")), 1 / (1 / 1e3 + 1 / 2e3) + 12e3 / 7)
        with self.assertRaisesRegex(EditError, "R1 would be shorted"):
            editing.short(notation.read("9V: 1k"), "main", "V1")
        dangling = node_list.read("V1 A gnd 9V\nR1 A gnd 1k\nR2 A B 1k\nR3 B C 1k")
        with self.assertRaisesRegex(EditError, "Nothing joins B, C"):
            editing.leave_open(dangling, "main", "R2")

    def test_setups_share_parts_and_drop_what_none_has(self) -> None:
        run = editing.add_setup(CHAIN, "without R2", "main")
        run = editing.remove(run, "without R2", "R2")
        self.assertIn("R2", run.parts)
        self.assertEqual(set(run.setups["without R2"].connections), {"V1", "R1", "R3"})
        run = editing.set_value(run, "without R2", "V1", parse("6V"))
        self.assertEqual(run.setups["without R2"].values["V1"].text, "6V")
        self.assertNotIn("R2", editing.remove_setup(run, "main").parts)
        renamed = editing.replaced(run, "R1", Part("Rx", Kind.RESISTOR, parse("1k")))
        self.assertTrue(all("Rx" in setup.connections for setup in renamed.setups.values()))
