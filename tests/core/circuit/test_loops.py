"""Loops and nodes to check, against networkx and by Kirchhoff's voltage law on random potentials."""

from unittest import TestCase

import networkx
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from recensor.core.circuit import series_parallel
from recensor.core.circuit.loops import branches, current_nodes, independent_loops

CONNECTIONS = st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5)), min_size=1, max_size=11).map(
    lambda pairs: {f"P{k}": (f"n{a}", f"n{b}") for k, (a, b) in enumerate(pairs)}
)


class Loops(TestCase):
    @given(CONNECTIONS, st.sets(st.integers(0, 10)))
    def test_an_independent_set_of_closed_loops_of_least_weight(self, connections: dict, sources: set[int]) -> None:
        names = list(connections)
        loops = independent_loops(connections, frozenset(names[k] for k in sources if k < len(names)))
        graph = networkx.MultiGraph()
        for name, (a, b) in connections.items():
            graph.add_edge(a, b, key=name)
        expected = graph.number_of_edges() - graph.number_of_nodes() + networkx.number_connected_components(graph)
        self.assertEqual(len(loops), expected)
        matrix = np.zeros((len(loops), len(names)))
        potential = {node: k * k + 0.5 for k, node in enumerate(graph)}
        for row, loop in enumerate(loops):
            total = 0.0
            for step in loop:
                first, second = connections[step.part]
                matrix[row, names.index(step.part)] = 1 if step.forward else -1
                total += (potential[first] - potential[second]) * (1 if step.forward else -1)
            self.assertAlmostEqual(total, 0.0)
        self.assertEqual(np.linalg.matrix_rank(matrix) if len(loops) else 0, expected)
        # networkx has no multigraph cycle basis: a node in the middle of every edge makes it a plain graph.
        plain = networkx.Graph()
        for name, (a, b) in connections.items():
            networkx.add_path(plain, [a, (name, 1), (name, 2), b])
        least = sum(len(cycle) for cycle in networkx.minimum_cycle_basis(plain)) / 3
        self.assertEqual(sum(map(len, loops)), least)

    def test_order_and_start(self) -> None:
        bank = {"R1": ("top", "gnd"), "R2": ("top", "gnd"), "V1": ("top", "gnd")}
        loops = independent_loops(bank, frozenset({"V1"}))
        self.assertEqual([[step.part for step in loop] for loop in loops], [["V1", "R1"], ["V1", "R2"]])
        self.assertFalse(loops[0][0].forward, "a source is entered at its − lead")
        bridge = {
            "V1": ("t", "g"),
            "R1": ("t", "a"),
            "R2": ("t", "b"),
            "R3": ("a", "g"),
            "R4": ("b", "g"),
            "R5": ("a", "b"),
        }
        found = [[step.part for step in loop] for loop in independent_loops(bridge, frozenset({"V1"}))]
        self.assertEqual(found, [["V1", "R1", "R3"], ["V1", "R2", "R4"], ["R1", "R5", "R2"]])


class Nodes(TestCase):
    @given(CONNECTIONS)
    def test_branches_hold_every_part_on_a_loop_once_and_in_sequence(self, connections: dict) -> None:
        held = [step.part for branch in branches(connections) for step in branch.passages]
        on_loops = {step.part for loop in independent_loops(connections) for step in loop}
        self.assertEqual(sorted(held), sorted(on_loops))
        for branch in branches(connections):
            node = branch.start
            for step in branch.passages:
                first, second = connections[step.part] if step.forward else connections[step.part][::-1]
                self.assertEqual(first, node)
                node = second
            self.assertEqual(node, branch.end)

    def test_a_two_node_bank_has_one_account_wherever_the_reference_is(self) -> None:
        circuit = {"V1": ("top", "gnd"), "R1": ("top", "a"), "R2": ("a", "b"), "R3": ("a", "b"), "R4": ("b", "gnd")}
        self.assertEqual(current_nodes(circuit, "gnd"), ["a"])
        self.assertEqual(current_nodes(circuit, "b"), ["a"])
        self.assertEqual(current_nodes({"V1": ("t", "g"), "R1": ("t", "g")}, "g"), [])
        dangling = {**circuit, "R5": ("a", "nowhere")}
        self.assertEqual(current_nodes(dangling, "gnd"), ["a"])

    def test_loops_with_a_source_come_before_equal_ones_without(self) -> None:
        """Four triangles of which three are independent: two of them pass the source."""
        whole = {"R1": ("a", "b"), "R2": ("b", "c"), "R3": ("a", "c"),
                 "V1": ("a", "g"), "R4": ("b", "g"), "R5": ("c", "g")}  # fmt: skip
        found = independent_loops(whole, frozenset({"V1"}))
        self.assertEqual([any(passage.part == "V1" for passage in loop) for loop in found], [True, True, False])

    def test_of_redundant_nodes_the_reference_is_left_out(self) -> None:
        bank = {"R1": ("gnd", "A"), "R2": ("gnd", "A"), "V1": ("A", "gnd")}
        self.assertEqual(current_nodes(bank, "gnd"), ["A"])
        self.assertEqual(current_nodes(bank, "A"), ["gnd"])
        self.assertEqual(current_nodes(bank, "elsewhere"), ["gnd"])


class Large(TestCase):
    def test_chains_and_grids_of_many_parts(self) -> None:
        """A thousand parts in a row are one loop; a grid has as many as networkx counts, all squares but the outer."""
        chain = {f"R{k}": (f"n{k}", f"n{(k + 1) % 1000}") for k in range(1000)}
        (only,) = independent_loops(chain)
        self.assertEqual(len(only), 1000)
        grid = networkx.grid_2d_graph(12, 12)
        connections = {f"R{k}": (str(a), str(b)) for k, (a, b) in enumerate(grid.edges)}
        found = independent_loops(connections)
        self.assertEqual(len(found), grid.number_of_edges() - grid.number_of_nodes() + 1)
        self.assertEqual({len(loop) for loop in found}, {4})

    def test_a_tree_of_many_parts_is_found_and_what_hangs_on_it_is_not_lost(self) -> None:
        ladder = {}
        for k in range(400):
            ladder[f"R{k}"], ladder[f"S{k}"] = (f"n{k}", f"n{k + 1}"), (f"n{k + 1}", "gnd")
        whole = series_parallel.tree(ladder, "n0", "gnd")
        self.assertEqual(sum(1 for _ in series_parallel.leaves(whole)), 800)
