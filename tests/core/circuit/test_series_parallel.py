"""Series-parallel structure: what is reduced and what is not."""

from collections import Counter
from unittest import TestCase

import networkx as nx
from hypothesis import given

from recensor.core.circuit import (
    Leaf,
    NotSeriesParallelError,
    Parallel,
    Series,
    Tree,
    leaves,
    node_list,
    one_line,
    tree_of_source,
)
from recensor.core.circuit.series_parallel import tree, turned
from recensor.core.examples import circuits
from tests.strategies import lines, planar_lists


def connections_of(whole: Tree) -> list[tuple[str, frozenset[str]]]:
    return sorted((leaf.part, frozenset((leaf.start, leaf.end))) for leaf in leaves(whole))


class Trees(TestCase):
    @given(lines())
    def test_a_tree_has_every_part_once_between_its_own_nodes_and_alternates(self, line: str) -> None:
        run = one_line.read(line)
        setup = run.setups["main"]
        source, whole = tree_of_source(setup, run.parts)
        expected = sorted((name, frozenset(pair)) for name, pair in setup.connections.items() if name != source)
        self.assertEqual(connections_of(whole), expected)
        self.assertEqual(connections_of(turned(whole)), expected)
        self.assertEqual(turned(turned(whole)), whole)
        self.check(whole)

    def check(self, whole: Tree) -> None:
        """A chain hangs together, a group shares two nodes, and neither holds another of its own kind."""
        if isinstance(whole, Leaf):
            return
        for member in whole.members:
            self.assertNotIsInstance(member, type(whole))
            self.check(member)
        if isinstance(whole, Parallel):
            self.assertEqual({(m.start, m.end) for m in whole.members}, {(whole.start, whole.end)})
        elif isinstance(whole, Series):
            nodes = [whole.start, *(m.end for m in whole.members)]
            self.assertEqual([m.start for m in whole.members], nodes[:-1])
            self.assertEqual(nodes[-1], whole.end)

    @given(planar_lists())
    def test_what_has_a_tree_reduces_to_one_edge_as_networkx_counts_it(self, text: str) -> None:
        """Duffin's test by hand: fuse parallel edges and pass over nodes of two, until nothing changes."""
        run = node_list.read(text)
        connections = run.setups["main"].connections
        first, second = next(iter(connections.values()))
        graph = nx.MultiGraph(list(connections.values()))
        changed = True
        while changed:
            single = nx.Graph(graph)
            changed = single.number_of_edges() < graph.number_of_edges()
            graph = nx.MultiGraph(single)
            for node in [n for n, degree in graph.degree if degree == 2 and n not in (first, second)]:
                neighbours = list(graph[node])
                if len(neighbours) == 2:
                    graph.remove_node(node)
                    graph.add_edge(*neighbours)
                    changed = True
                    break
        reduces = graph.number_of_edges() == 1 and set(graph.nodes) == {first, second}
        try:
            found = Counter(leaf.part for leaf in leaves(tree(connections, first, second)))
        except NotSeriesParallelError:
            self.assertFalse(reduces)
        else:
            self.assertTrue(reduces)
            self.assertEqual(found, Counter(connections.keys()))

    def test_bridges_and_two_sources_have_no_tree(self) -> None:
        for run in (circuits.bridge(), circuits.two_sources()):
            with self.assertRaises(NotSeriesParallelError):
                tree_of_source(run.setups["main"], run.parts)
