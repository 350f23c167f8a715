"""A joint is open: a lead touches nothing, or the leads of one node are in two pieces."""

from collections.abc import Iterator
from itertools import combinations

from recensor.core.circuit import Leads
from recensor.core.faults.candidate import Candidate, Scene, in_setup, lead_at
from recensor.core.faults.changes import LeadElsewhere, Stands
from recensor.core.faults.hypotheses.built import EMPTY_ROW, OPEN
from recensor.core.faults.kinds import FaultKind
from recensor.core.faults.mends import Rebuilt

# Of a node with more leads than this, pieces of several leads are not tried.
_MOST_LEADS = 6


def candidates(scene: Scene) -> Iterator[Candidate]:
    """One for each part of a circuit, and one for each way to take a node of four or more leads apart."""
    resistors = [(name, setup) for name in scene.resistors() for setup in scene.where(name)]
    sources = [(name, setup) for name in scene.sources() for setup in scene.where(name)]
    pieces = list(_pieces(scene))
    chances = len(resistors) + len(sources) + len(pieces)
    for name, setup in resistors:
        changes = (Stands(name, ohms=OPEN, by_itself=False, setup=setup),)
        words = f"A joint of {name} is open{in_setup(setup)}: one of its leads touches nothing."
        mend = Rebuilt(f"Press the leads of {name} in and read again", ohms={name: OPEN}, setup=setup)
        yield Candidate(
            FaultKind.JOINT_OPEN,
            (lead_at(name, 0),),
            changes,
            words,
            chances,
            also=((FaultKind.JOINT_OPEN, lead_at(name, 1)), (FaultKind.LEAD_ONE_ROW_OFF, lead_at(name, 0))),
            mend=mend,
        )
    for name, setup in sources:
        changes_of = (LeadElsewhere(name, 1, None, setup),)
        words = f"{name} is not connected{in_setup(setup)}: one of its leads touches nothing."
        leads = {name: (_leads(scene, name, setup)[0], EMPTY_ROW)}
        mend = Rebuilt(f"Connect {name} and read again", leads=leads, setup=setup)
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
        words = f"Node {node} is in two pieces{in_setup(setup)}: {named} are joined to each other and not to the rest."
        there = {name: _moved(scene, name, setup, lead) for name, lead in piece}
        mend = Rebuilt(f"Join node {node} and read again", leads=there, setup=setup)
        yield Candidate(FaultKind.JOINT_OPEN, tuple(lead_at(*one) for one in piece), apart, words, chances, mend=mend)


def _leads(scene: Scene, name: str, setup: str | None) -> Leads:
    return next(s.connections[name] for n, s in scene.setups.items() if setup in (None, n) and name in s.connections)


def _moved(scene: Scene, name: str, setup: str | None, lead: int) -> Leads:
    first, second = _leads(scene, name, setup)
    return (EMPTY_ROW, second) if lead == 0 else (first, EMPTY_ROW)


def _pieces(scene: Scene) -> Iterator[tuple[str, str, tuple[tuple[str, int], ...]]]:
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
