"""A lead of a part is in another row: at another node, or alone. Where the board is known, in a row beside its own."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from recensor.core.boards import Built, Hole, compare
from recensor.core.circuit import Leads, Setup
from recensor.core.faults.candidate import Candidate, FaultContext, lead_at, say_in_setup
from recensor.core.faults.correction import Rebuilt
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import EMPTY_ROW
from recensor.core.faults.model.changes import LeadElsewhere
from recensor.core.sentences import say

# Where the board is known, a row that is not beside the right one is so many times less likely.
_FARTHER = 20


@dataclass(frozen=True)
class _Misplaced:
    """A lead at another node, None for an empty row; on a known board from the hole where it should be."""

    part: str
    lead: int
    node: str | None
    setup: str | None
    leads: Leads
    hole: Hole | None = None
    row: str = ""


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each lead and each other node, and for each row beside it where the board is known."""
    beside = list(_beside(context))
    misplaced_leads = list(dict.fromkeys(_anywhere(context)))
    for misplaced in (*beside, *misplaced_leads):
        ordinal, right = ("first", "second")[misplaced.lead], misplaced.leads[misplaced.lead]
        words = say_in_setup(
            "faults.lead_at_not_at",
            misplaced.setup,
            part=misplaced.part,
            ordinal=ordinal,
            node=misplaced.node,
            right=right,
        )
        act = say("faults.move_lead_and_read", part=misplaced.part, right=right)
        if misplaced.hole is not None:
            kind = "faults.lead_one_row_off_at_node" if misplaced.node else "faults.lead_one_row_off_in_empty_row"
            words = say(kind, part=misplaced.part, ordinal=ordinal, row=misplaced.row, node=misplaced.node)
            act = say("faults.move_lead_and_read_again", part=misplaced.part, ordinal=ordinal, hole=misplaced.hole.name)
        node = misplaced.node or EMPTY_ROW
        leads = (node, misplaced.leads[1]) if misplaced.lead == 0 else (misplaced.leads[0], node)
        chances = len(beside) if misplaced.hole is not None else len(misplaced_leads) * (_FARTHER if beside else 1)
        yield Candidate(
            FaultKind.LEAD_ONE_ROW_OFF,
            (lead_at(misplaced.part, misplaced.lead),),
            (LeadElsewhere(misplaced.part, misplaced.lead, misplaced.node, misplaced.setup),),
            words,
            chances,
            correction=Rebuilt(act, leads={misplaced.part: leads}, setup=misplaced.setup),
        )


def _anywhere(context: FaultContext) -> Iterator[_Misplaced]:
    for name in context.passive():
        for setup in context.where(name):
            drawn = [s for n, s in context.setups.items() if setup in (None, n) and name in s.connections]
            leads = drawn[0].connections[name]
            if any(s.connections[name] != leads for s in drawn):
                continue  # drawn differently in each: one of them is moved by itself
            for lead in (0, 1):
                for node in drawn[0].nodes:
                    if node not in leads:
                        yield _Misplaced(name, lead, node, setup, leads)


def _beside(context: FaultContext) -> Iterator[_Misplaced]:
    """The rows beside each lead on the boards that are known."""
    for name, setup in context.setups.items():
        built = context.run.boards.get(name)
        if built is not None:
            yield from _on_board(context, setup, built)


def _on_board(context: FaultContext, setup: Setup, built: Built) -> Iterator[_Misplaced]:
    board, nets = built.board, built.nets()
    nodes = compare(context.run.sheet, setup, built).nodes
    used = {strip for net in nodes for strip in nets.strips(net)}
    for part in context.passive():
        leads, placement = setup.connections.get(part), built.placements.get(part)
        if leads is None or placement is None:
            continue
        for hole in placement.holes:
            own = nodes.get(nets.of(hole))
            if hole.is_rail or own not in leads:
                continue
            for row in (hole.row - 1, hole.row + 1):
                if not 1 <= row <= board.rows:
                    continue
                strip = board.strip(replace(hole, row=row))
                node = nodes.get(nets.of(replace(hole, row=row))) if strip in used else None
                if node not in leads:
                    yield _Misplaced(part, leads.index(own), node, setup.name, leads, hole, strip.words)
