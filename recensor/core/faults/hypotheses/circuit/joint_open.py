"""A joint is open: a lead touches nothing, or the leads of one node are in two pieces."""

from collections.abc import Iterator
from itertools import combinations

from recensor.core.circuit import Leads
from recensor.core.faults.candidate import Candidate, FaultContext, lead_at, part_at, say_in_setup
from recensor.core.faults.correction import Correction, Rebuilt, Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import EMPTY_ROW, OPEN, opened
from recensor.core.faults.model.changes import LeadElsewhere, ResistanceIs, SinceReading
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say

# Of a node with more leads than this, pieces of several leads are not tried.
_MOST_LEADS = 6


def candidates(context: FaultContext) -> Iterator[Candidate]:
    """One for each part of a circuit, and one for each way to take a node of four or more leads apart."""
    correction: Correction
    resistors = [(name, setup) for name in context.passive() for setup in context.where(name)]
    sources = [(name, setup) for name in context.sources() for setup in context.where(name)]
    pieces = list(_pieces(context))
    since = {setup: place for setup in context.setups if (place := _powered_from(context, setup)) is not None}
    chances = len(resistors) + len(sources) + len(pieces) + len(since) * len(context.passive())
    for name, setup in resistors:
        changes = (opened(context, name, setup),)
        words = say_in_setup(
            "faults.joint_open_one_leads",
            setup,
            name=name,
        )
        correction = Rebuilt(say("faults.press_leads_in_and", name=name), ohms={name: OPEN}, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN,
            (lead_at(name, 0),),
            changes,
            words,
            chances,
            also=((FaultKind.JOINT_OPEN, lead_at(name, 1)), (FaultKind.LEAD_ONE_ROW_OFF, lead_at(name, 0))),
            correction=correction,
        )
    for setup, place in since.items():
        for name in context.passive():
            if name not in context.setups[setup].connections:
                continue
            since_then = (ResistanceIs(name, ohms=OPEN, out_of_circuit=False, setup=setup), SinceReading(place))
            where = setup if len(context.setups) > 1 else None
            words = say_in_setup("faults.joint_came_open_after", where, name=name)
            indexes = [
                int(k) for k in context.observed.indexes[place:] if context.run.readings[k].target.setup == setup
            ]
            correction = Struck(say("faults.press_leads_in_and", name=name), tuple(indexes))
            yield Candidate(
                FaultKind.JOINT_OPEN,
                (lead_at(name, 0),),
                since_then,
                words,
                chances,
                also=((FaultKind.JOINT_OPEN, lead_at(name, 1)), (FaultKind.LINK_LEFT_OUT, part_at(name))),
                correction=correction,
            )
    for name, setup in sources:
        changes_of = (LeadElsewhere(name, 1, None, setup),)
        words = say_in_setup(
            "faults.not_connected_one_leads",
            setup,
            name=name,
        )
        leads = {name: (context.leads(name, setup)[0], EMPTY_ROW)}
        correction = Rebuilt(say("faults.connect_and_read_again", name=name), leads=leads, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN,
            (lead_at(name, 1),),
            changes_of,
            words,
            chances,
            also=((FaultKind.JOINT_OPEN, lead_at(name, 0)),),
            correction=correction,
        )
    for node, setup, piece in pieces:
        apart = tuple(LeadElsewhere(name, lead, None, setup) for name, lead in piece)
        named = " and ".join(name for name, _ in piece)
        words = say_in_setup("faults.node_in_two_pieces", setup, node=node, named=named)
        there = {name: _moved(context, name, setup, lead) for name, lead in piece}
        correction = Rebuilt(say("faults.join_node_and_read", node=node), leads=there, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN, tuple(lead_at(*one) for one in piece), apart, words, chances, correction=correction
        )


def _powered_from(context: FaultContext, setup: str) -> int | None:
    """The first reading of a setup under power, where its resistance was read before; None where it was not."""
    places = [k for k in range(context.observed.count) if context.observed.target(k).setup == setup]
    ohms = [k for k in places if context.observed.measurands[k] is RESISTANCE]
    live = [k for k in places if context.observed.measurands[k] is not RESISTANCE]
    return live[0] if ohms and live and ohms[0] < live[0] else None


def _moved(context: FaultContext, name: str, setup: str | None, lead: int) -> Leads:
    first, second = context.leads(name, setup)
    return (EMPTY_ROW, second) if lead == 0 else (first, EMPTY_ROW)


def _pieces(context: FaultContext) -> Iterator[tuple[str, str, tuple[tuple[str, int], ...]]]:
    """Every way to part the leads of a node into two pieces of two or more leads: node, setup, the smaller piece."""
    for setup in context.setups.values():
        for node in setup.nodes:
            leads = [
                (name, lead)
                for name, ends in setup.connections.items()
                for lead in (0, 1)
                if ends[lead] == node and name not in setup.sources_off
            ]
            if not 4 <= len(leads) <= _MOST_LEADS:
                continue
            for size in range(2, len(leads) // 2 + 1):
                for piece in combinations(leads, size):
                    if 2 * size < len(leads) or piece[0] == leads[0]:
                        yield node, setup.name, piece
