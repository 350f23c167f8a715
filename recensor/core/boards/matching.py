"""Which net of a board stands for which drawn node: exact, or not at all.

Parts are told apart by their names, so that in each joined piece of a circuit everything follows from which way
round one part lies.
"""

from collections.abc import Collection, Iterator, Mapping
from itertools import product

from recensor.core import graph
from recensor.core.boards.breadboard import Strip
from recensor.core.circuit import Leads

# Where each part's two leads are, by nets.
Placed = Mapping[str, tuple[Strip, Strip]]
Nodes = dict[str, Strip]

# So many pieces of a circuit are turned round each by itself; more are as they come.
_MOST_PIECES = 6


class DrawnCircuit:
    """The drawn circuit, in the order in which its parts follow from one another."""

    def __init__(self, leads: Mapping[str, Leads], polarised: Collection[str]) -> None:
        self.leads = leads
        self.polarised = frozenset(polarised)
        self._pieces = list(self._in_pieces())

    def without(self, *names: str) -> "DrawnCircuit":
        """The same circuit without some parts."""
        return DrawnCircuit({name: pair for name, pair in self.leads.items() if name not in names}, self.polarised)

    def _in_pieces(self) -> Iterator[list[str]]:
        at = graph.touching(self.leads)
        left = dict.fromkeys(sorted(self.leads, key=lambda name: name not in self.polarised))
        while left:
            first = next(iter(left))
            piece, reached, waiting = [], set(self.leads[first]), [first]
            del left[first]
            while waiting:
                piece.append(waiting.pop(0))
                for node in self.leads[piece[-1]]:
                    reached.add(node)
                    for name in at[node]:
                        if name in left:
                            del left[name]
                            waiting.append(name)
            yield piece

    def matchings(self, placed: Placed) -> Iterator[Nodes]:
        """Every way to take nets for the drawn nodes so that each part lies just where it is drawn."""
        choices = []
        for piece in self._pieces:
            straight = self._follow(piece, placed, is_crossed=False)
            few = straight is None or len(self._pieces) <= _MOST_PIECES
            turns = piece[0] not in self.polarised and few
            crossed = self._follow(piece, placed, is_crossed=True) if turns else None
            stripses = [strips for strips in (straight, crossed) if strips is not None]
            if not stripses:
                return
            choices.append(stripses if stripses[0] != stripses[-1] else stripses[:1])
        for pieces in product(*choices):
            nodes: Nodes = {}
            for piece_nodes in pieces:
                nodes.update(piece_nodes)
            if len(set(nodes.values())) == len(nodes):
                yield nodes

    def matching(self, placed: Placed) -> Nodes | None:
        """One such way, None where there is none."""
        return next(self.matchings(placed), None)

    def _follow(self, piece: list[str], placed: Placed, *, is_crossed: bool) -> Nodes | None:
        nodes: Nodes = {}
        nets: dict[Strip, str] = {}
        for name in piece:
            (a, b), (x, y) = self.leads[name], placed[name]
            if name is piece[0]:
                x, y = (y, x) if is_crossed else (x, y)
            elif name not in self.polarised and (nodes.get(a, x) != x or nodes.get(b, y) != y):
                x, y = y, x
            for node, net in ((a, x), (b, y)):
                if nodes.setdefault(node, net) != net or nets.setdefault(net, node) != node:
                    return None
        return nodes
