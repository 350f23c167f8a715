"""Where a circuit is opened for the ammeter: a link pulled, a lead freed, or the supply lead.

Common practice, no source. Red goes to the side that the current comes out of, so that what is read has the sign of
the target: positive from a part's first lead to its second, for a source when it delivers.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from recensor.core.boards import Built, Nets, Piece, Placement
from recensor.core.circuit import Setup, Sheet, Through, loops
from recensor.core.sentences import say


class Way(StrEnum):
    """The ways in which people break a circuit."""

    LINK = "a removable link"
    LEAD = "a lead into an empty row"
    OUT = "a lead out, a wire in its hole"
    SUPPLY = "the supply lead"


@dataclass(frozen=True)
class Opening:
    """One opening. `name` is the link that is pulled, or the lead that is freed (``R2.1``).

    `node` is the side that stays joined, `freed` the other (``R2.1``, or a link's end ``K1.a``). `inward` says that a
    positive current goes from the node into the freed side.
    """

    way: Way
    name: str
    node: str
    freed: str
    inward: bool

    @property
    def red(self) -> str:
        """Where the red lead goes: the side that a positive current comes from."""
        return self.node if self.inward else self.freed

    @property
    def black(self) -> str:
        """Where the black lead goes."""
        return self.freed if self.inward else self.node

    @property
    def done(self) -> str:
        """How it is opened, in words."""
        return {
            Way.LINK: say("plan.pull_link", name=self.name),
            Way.LEAD: say("plan.move_lead_from_node", name=self.name, node=self.node),
            Way.OUT: say("plan.take_lead_out_and", name=self.name),
            Way.SUPPLY: say("plan.take_supply_lead_off", name=self.name, node=self.node),
        }[self.way]

    @property
    def undone(self) -> str:
        """How it is put back, in words."""
        return {
            Way.LINK: say("plan.put_link_back", name=self.name),
            Way.LEAD: say("plan.put_lead_back_at", name=self.name, node=self.node),
            Way.OUT: say("plan.take_wire_out_and", name=self.name, node=self.node),
            Way.SUPPLY: say("plan.put_supply_lead_back", name=self.name, node=self.node),
        }[self.way]


def opening(target: Through, sheet: Sheet, way: Way = Way.LINK, built: Built | None = None) -> Opening:
    """Where to open a setup for a current: the way that is preferred where it can be, else a lead of the part.

    A link is pulled where the board has one beside the part; the supply lead is taken off where the part is in the
    supply's own branch. Where it is said beside which other part, it is that one's lead next to the part itself; else
    the part's first lead.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + 2k2")
    >>> found = opening(Through("R2", "main"), sheet)
    >>> found.name, found.red, found.black
    ('R2.1', 'B', 'R2.1')
    >>> opening(Through("R2", "main"), sheet, Way.SUPPLY).red
    'V1.1'
    >>> opening(Through("R2", "main", "V1"), sheet, Way.LEAD).freed
    'V1.2'
    """
    setup = sheet.setups[target.setup]
    beside = target.at or target.part
    lead = _next_to(target.part, beside, setup)
    if way is Way.SUPPLY and (supply := _supply_of(beside, setup, sheet)):
        return _turned(_at_lead(supply, 0, Way.SUPPLY, setup, sheet), supply, target.part, setup, sheet)
    if way is Way.LINK and built and (link := _at_link(beside, built, setup, sheet)):
        return _turned(link, beside, target.part, setup, sheet)
    is_supply = beside in setup.driving(sheet.parts)
    freed = Way.SUPPLY if is_supply else Way.OUT if way is Way.OUT else Way.LEAD
    return _turned(_at_lead(beside, lead, freed, setup, sheet), beside, target.part, setup, sheet)


def _next_to(part: str, beside: str, setup: Setup) -> int:
    """Which lead of the one part is at a node of the other; the first where both are, or none, or it is the same."""
    if part == beside:
        return 0
    at_part = [node in setup.connections[part] for node in setup.connections[beside]]
    return 1 if at_part == [False, True] else 0


def _at_lead(part: str, lead: int, way: Way, setup: Setup, sheet: Sheet) -> Opening:
    name = f"{part}.{lead + 1}"
    return Opening(way, name, setup.connections[part][lead], name, inward=_goes_in(part, lead, sheet))


def _goes_in(part: str, lead: int, sheet: Sheet) -> bool:
    """Whether a part's positive current goes in at a lead: at the first, of a source at the second."""
    return (lead == 0) != sheet.parts[part].kind.is_source


def _at_link(part: str, built: Built, setup: Setup, sheet: Sheet) -> Opening | None:
    """The link beside a part: the one whose end, when it is pulled, has nothing but one lead of it."""
    for link in (placed for placed in built.placements.values() if placed.piece is Piece.LINK):
        pulled = replace(built, placements={**built.placements, link.name: replace(link, pulled=True)})
        nets, parts = pulled.nets(), [placed for placed in built.placements.values() if placed.piece is Piece.PART]
        for end, hole in zip("ab", link.holes, strict=True):
            leads = list(_leads_at(nets, nets.of(hole), parts))
            if len(leads) == 1 and leads[0][0] == part:
                node, inward = setup.connections[part][leads[0][1]], _goes_in(*leads[0], sheet)
                return Opening(Way.LINK, link.name, node, f"{link.name}.{end}", inward)
    return None


def _leads_at(nets: Nets, net: object, parts: Iterable[Placement]) -> Iterable[tuple[str, int]]:
    return ((part.name, lead) for part in parts for lead, hole in enumerate(part.holes) if nets.of(hole) == net)


def _supply_of(part: str, setup: Setup, sheet: Sheet) -> str | None:
    """The first source in the branch of a part."""
    branch = _branch_of(part, setup)
    return next(
        (p.part for p in branch if sheet.parts[p.part].kind.is_source and p.part not in setup.sources_off), None
    )


def _branch_of(part: str, setup: Setup) -> tuple[loops.Passage, ...]:
    branches = loops.branches(setup.connections)
    return next((b.passages for b in branches if part in [passage.part for passage in b.passages]), ())


def _turned(found: Opening, beside: str, part: str, setup: Setup, sheet: Sheet) -> Opening:
    """The opening for the current of a part, opened beside another of its branch that may lie the other way round."""
    along = {p.part: p.forward != sheet.parts[p.part].kind.is_source for p in _branch_of(beside, setup)}
    same = along.get(beside)  # none where the part is in no loop
    return found if along.get(part, same) == same else replace(found, inward=not found.inward)
