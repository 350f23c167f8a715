"""What a sheet asks for when nothing is left out, in the order of the work.

Each part by itself, the finished circuit's total, the source before connecting, voltages with the source read
again under load, and one current for each branch.
"""

from dataclasses import replace

from recensor.core.circuit import loops
from recensor.core.circuit.setup import Setup
from recensor.core.circuit.sheet import Sheet
from recensor.core.circuit.target import Across, PartAlone, Target, Through, TouchedLeads
from recensor.core.quantity import RESISTANCE, VOLTAGE

# Below this resistance in ohms the meter's own leads count (common practice, no source).
LEADS_MATTER_BELOW = 50.0


def asked(sheet: Sheet, setup: Setup) -> list[Target]:
    """The readings that one setup asks for, each target once, in the order of the work.

    A source that is off is not read; with every source off nothing is, but for the parts by themselves.
    """
    passive = [name for name in setup.connections if not sheet.parts[name].kind.drives]
    sources = setup.driving(sheet.parts)
    lowest = min(
        (float(sheet.parts[name].nominal or LEADS_MATTER_BELOW) for name in passive), default=LEADS_MATTER_BELOW
    )
    targets: list[Target] = [TouchedLeads()] if lowest < LEADS_MATTER_BELOW else []
    targets += [PartAlone(name, sheet.parts[name].kind.alone_as) for name in passive]
    targets += [Across(RESISTANCE, setup.connections[name], setup.name) for name in sources]
    for name in sources:
        own = setup.name if name in setup.values else None
        targets.append(PartAlone(name, sheet.parts[name].kind.alone_as, own))
    if not sources:
        return targets
    targets += [Across(VOLTAGE, setup.connections[name], setup.name) for name in (*passive, *sources)]
    order = list(setup.connections)
    for branch in loops.branches(setup.connections):
        first = min((passage.part for passage in branch.passages), key=order.index)
        targets.append(Through(first, setup.name))
    return list({target.key: target for target in targets}.values())


def usual_readings(sheet: Sheet) -> list[Target]:
    """The readings that all setups ask for when nothing is left out, each target once."""
    found = {target.key: target for setup in sheet.setups.values() for target in asked(sheet, setup)}
    by_itself = [target for target in found.values() if isinstance(target, PartAlone | TouchedLeads)]
    return by_itself + [target for target in found.values() if not isinstance(target, PartAlone | TouchedLeads)]


def asking_everything(sheet: Sheet) -> Sheet:
    """The sheet with all its usual readings asked for."""
    return replace(sheet, asked=tuple(usual_readings(sheet)))
