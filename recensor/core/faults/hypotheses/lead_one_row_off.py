"""A lead of a part is in another row: at another node."""

from collections.abc import Iterator

from recensor.core.circuit import Leads
from recensor.core.faults.candidate import Candidate, Scene, in_setup, lead_at
from recensor.core.faults.changes import LeadElsewhere
from recensor.core.faults.kinds import FaultKind
from recensor.core.faults.mends import Rebuilt


def candidates(scene: Scene) -> Iterator[Candidate]:
    """One for each lead and each other node."""
    found = list(dict.fromkeys(_all(scene)))
    for name, lead, node, setup, leads in found:
        mended = leads[lead]
        words = f"{name}'s {('first', 'second')[lead]} lead is at {node}{in_setup(setup)}, not at {mended}."
        there = (node, leads[1]) if lead == 0 else (leads[0], node)
        mend = Rebuilt(f"Move that lead of {name} to {mended} and read again", leads={name: there}, setup=setup)
        yield Candidate(
            FaultKind.LEAD_ONE_ROW_OFF,
            (lead_at(name, lead),),
            (LeadElsewhere(name, lead, node, setup),),
            words,
            len(found),
            mend=mend,
        )


def _all(scene: Scene) -> Iterator[tuple[str, int, str, str | None, Leads]]:
    for name in scene.resistors():
        for setup in scene.where(name):
            drawn = [s for n, s in scene.setups.items() if setup in (None, n) and name in s.connections]
            leads = drawn[0].connections[name]
            if any(s.connections[name] != leads for s in drawn):
                continue  # drawn differently in each: one of them is moved by itself
            for lead in (0, 1):
                for node in drawn[0].nodes:
                    if node not in leads:
                        yield name, lead, node, setup, leads
