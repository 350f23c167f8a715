"""A joint is open: a lead touches nothing, or the leads of one node are in two pieces."""

from collections.abc import Iterator
from itertools import combinations

from recensor.core.circuit import Leads
from recensor.core.faults.candidate import Candidate, FaultContext, lead_at, part_at, say_in_setup
from recensor.core.faults.correction import Correction, Rebuilt, Struck
from recensor.core.faults.fault_kinds import FaultKind
from recensor.core.faults.hypotheses.circuit.built import EMPTY_ROW, OPEN
from recensor.core.faults.model.changes import LeadElsewhere, ResistanceIs, SinceReading
from recensor.core.quantity import RESISTANCE
from recensor.core.sentences import say

# Of a node with more leads than this, pieces of several leads are not tried.
_MOST_LEADS = 6


def candidates(scene: FaultContext) -> Iterator[Candidate]:
    """One for each part of a circuit, and one for each way to take a node of four or more leads apart."""
    mend: Correction
    resistors = [(name, setup) for name in scene.resistors() for setup in scene.where(name)]
    sources = [(name, setup) for name in scene.sources() for setup in scene.where(name)]
    pieces = list(_pieces(scene))
    since = {setup: place for setup in scene.setups if (place := _powered_from(scene, setup)) is not None}
    chances = len(resistors) + len(sources) + len(pieces) + len(since) * len(scene.resistors())
    for name, setup in resistors:
        changes = (ResistanceIs(name, ohms=OPEN, by_itself=False, setup=setup),)
        words = say_in_setup(
            "faults.joint_open_one_leads",
            setup,
            name=name,
        )
        mend = Rebuilt(say("faults.press_leads_in_and", name=name), ohms={name: OPEN}, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN,
            (lead_at(name, 0),),
            changes,
            words,
            chances,
            also=((FaultKind.JOINT_OPEN, lead_at(name, 1)), (FaultKind.LEAD_ONE_ROW_OFF, lead_at(name, 0))),
            mend=mend,
        )
    for setup, place in since.items():
        for name in scene.resistors():
            if name not in scene.setups[setup].connections:
                continue
            opened = (ResistanceIs(name, ohms=OPEN, by_itself=False, setup=setup), SinceReading(place))
            where = setup if len(scene.setups) > 1 else None
            words = say_in_setup("faults.joint_came_open_after", where, name=name)
            indexes = [int(k) for k in scene.observed.indexes[place:] if scene.run.readings[k].target.setup == setup]
            mend = Struck(say("faults.press_leads_in_and", name=name), tuple(indexes))
            yield Candidate(
                FaultKind.JOINT_OPEN,
                (lead_at(name, 0),),
                opened,
                words,
                chances,
                also=((FaultKind.JOINT_OPEN, lead_at(name, 1)), (FaultKind.LINK_LEFT_OUT, part_at(name))),
                mend=mend,
            )
    for name, setup in sources:
        changes_of = (LeadElsewhere(name, 1, None, setup),)
        words = say_in_setup(
            "faults.not_connected_one_leads",
            setup,
            name=name,
        )
        leads = {name: (scene.leads(name, setup)[0], EMPTY_ROW)}
        mend = Rebuilt(say("faults.connect_and_read_again", name=name), leads=leads, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN,
            (lead_at(name, 1),),
            changes_of,
            words,
            chances,
            also=((FaultKind.JOINT_OPEN, lead_at(name, 0)),),
            mend=mend,
        )
    for node, setup, piece in pieces:
        apart = tuple(LeadElsewhere(name, lead, None, setup) for name, lead in piece)
        named = " and ".join(name for name, _ in piece)
        words = say_in_setup("faults.node_in_two_pieces", setup, node=node, named=named)
        there = {name: _moved(scene, name, setup, lead) for name, lead in piece}
        mend = Rebuilt(say("faults.join_node_and_read", node=node), leads=there, setup=setup)
        yield Candidate(FaultKind.JOINT_OPEN, tuple(lead_at(*one) for one in piece), apart, words, chances, mend=mend)


def _powered_from(scene: FaultContext, setup: str) -> int | None:
    """The first reading of a setup under power, where its resistance was read before; None where it was not."""
    places = [k for k in range(scene.observed.count) if scene.observed.target(k).setup == setup]
    ohms = [k for k in places if scene.observed.measurands[k] is RESISTANCE]
    live = [k for k in places if scene.observed.measurands[k] is not RESISTANCE]
    return live[0] if ohms and live and ohms[0] < live[0] else None


def _moved(scene: FaultContext, name: str, setup: str | None, lead: int) -> Leads:
    first, second = scene.leads(name, setup)
    return (EMPTY_ROW, second) if lead == 0 else (first, EMPTY_ROW)


def _pieces(scene: FaultContext) -> Iterator[tuple[str, str, tuple[tuple[str, int], ...]]]:
    """Every way to part the leads of a node into two pieces of two or more leads: node, setup, the smaller piece."""
    for setup in scene.setups.values():
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
