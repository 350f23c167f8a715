"""What a sheet asks for when nothing is left out, in the order of the work.

Each part by itself, the finished circuit's total, the source before connecting, voltages with the source read
again under load, and one current for each branch.
"""

import math
from collections.abc import Container
from dataclasses import replace
from enum import StrEnum

from recensor.core.circuit import loops
from recensor.core.circuit.setup import Setup
from recensor.core.circuit.sheet import Sheet
from recensor.core.circuit.target import Across, PartAlone, Target, Through, TouchedLeads
from recensor.core.quantity import CURRENT, RESISTANCE, VOLTAGE

# Below this resistance in ohms the meter's own leads count (common practice, no source).
LEADS_MATTER_BELOW = 50.0


def asked(sheet: Sheet, setup: Setup) -> list[Target]:
    """The readings that one setup asks for, each target once, in the order of the work.

    A source that is off is not read; with every source off nothing is, but for the parts by themselves.
    """
    passive = [name for name in setup.connections if not sheet.parts[name].kind.is_source]
    sources = setup.driving(sheet.parts)
    ohmic = [name for name in passive if sheet.parts[name].kind.ohmic]
    lowest = min((float(setup.stated(sheet.parts[name]) or LEADS_MATTER_BELOW) for name in ohmic), default=math.inf)
    targets: list[Target] = [TouchedLeads()] if lowest < LEADS_MATTER_BELOW else []
    uppers = {upper for upper, _ in sheet.potentiometers.values()}  # the rest of the whole: no reading of its own
    for name in passive:
        kind = sheet.parts[name].kind
        if kind.asked_by_default and name not in uppers:
            anew = kind.differs_by_setup and not sheet.set_alike(name)
            targets.append(PartAlone(name, kind.measured_as, setup.name if anew else None))
    if not any(sheet.parts[name].kind.is_nonlinear for name in passive):  # of what bends an ohmmeter says little
        targets += [Across(RESISTANCE, setup.connections[name], setup.name) for name in sources]
    for name in sources:
        own = setup.name if name in setup.values else None
        targets.append(PartAlone(name, sheet.parts[name].kind.measured_as, own))
    if not sources:
        return targets
    dropping = [name for name in passive if not sheet.parts[name].kind.is_wire]
    targets += [Across(VOLTAGE, setup.connections[name], setup.name) for name in (*dropping, *sources)]
    order = {name: (sheet.parts[name].kind.is_wire, k) for k, name in enumerate(setup.connections)}
    for branch in loops.branches(setup.closed):
        first = min((passage.part for passage in branch.passages), key=lambda name: order[name])
        targets.append(Through(first, setup.name))
    return list({target.key: target for target in targets}.values())


def usual_readings(sheet: Sheet) -> list[Target]:
    """The readings that all setups ask for when nothing is left out, each target once."""
    targets = {target.key: target for setup in sheet.setups.values() for target in asked(sheet, setup)}
    for sweep in sheet.sweeps.values():
        rows = (row for step in range(len(sweep.settings)) for row in (sweep.volts_at(step), sweep.amps_at(step)))
        targets |= {target.key: target for target in rows}
    out_of_circuit = [target for target in targets.values() if not target.in_circuit]
    return out_of_circuit + [target for target in targets.values() if target.in_circuit]


def asking_everything(sheet: Sheet) -> Sheet:
    """The sheet with all its usual readings asked for."""
    return replace(sheet, asked=tuple(usual_readings(sheet)))


class Wish(StrEnum):
    """What is asked of a circuit that is built out of parts in hand."""

    TOTAL = "total"
    VOLTS = "volts"
    AMPS = "amps"
    RATIO = "V/I"


# What is asked of a circuit where nobody said anything else yet.
USUAL_WISHES = frozenset({Wish.TOTAL, Wish.VOLTS})


def wished(sheet: Sheet, setup: Setup, wishes: Container[Wish]) -> list[Target]:
    """What is read in a setup for what is wished of it, in the order of the work, each target once.

    The total lies across each source that is on; where there is no source at all, from the first node to the reference.
    """
    sources = [name for name in setup.connections if sheet.parts[name].kind.is_source]
    driving = setup.driving(sheet.parts)
    terminals = [setup.connections[name] for name in driving]
    if not sources:
        terminals = [(setup.nodes[0], setup.reference)]
    targets: list[Target] = []
    if Wish.TOTAL in wishes:
        targets += [Across(RESISTANCE, leads, setup.name) for leads in terminals]
    if Wish.VOLTS in wishes and driving:
        dropping = [n for n in setup.connections if n not in sources and not sheet.parts[n].kind.is_wire]
        targets += [voltage_of(setup, sheet, name) for name in dropping]
    if Wish.RATIO in wishes:
        targets += [Across(VOLTAGE, setup.connections[name], setup.name) for name in driving]
    if Wish.AMPS in wishes and driving:
        targets += [target for target in asked(sheet, setup) if target.is_through]
    if Wish.RATIO in wishes:
        targets += [Through(name, setup.name) for name in driving]
    return list({target.key: target for target in targets}.values())


def wishes_met(sheet: Sheet, setup: Setup) -> frozenset[Wish]:
    """What was wished of a setup, as far as what is asked for there tells: a wish that is part of another is none."""
    there = {target.key for target in sheet.asked if target.setup == setup.name}
    keys = {wish: {target.key for target in wished(sheet, setup, {wish})} for wish in Wish}
    met = [wish for wish in Wish if keys[wish] and keys[wish] <= there]
    return frozenset(wish for wish in met if not any(keys[wish] < keys[other] for other in met))


class Asked(StrEnum):
    """Sets of readings to ask for at once."""

    USUAL = "the usual ones"
    VOLTAGES = "every part's voltage"
    CURRENTS = "the current of every part"
    CURRENTS_OF = "only the currents of"
    NONE = "none"


def voltage_of(setup: Setup, sheet: Sheet, name: str) -> Across:
    """The voltage of a part: its own, the probes on its leads, where several lie side by side."""
    leads = setup.connections[name]
    shared = [other for other in setup.across(*leads) if not sheet.parts[other].kind.is_source]
    return Across(VOLTAGE, leads, setup.name, name if len(shared) > 1 and name in shared else None)


def loaded_target(setup: Setup, sheet: Sheet, name: str, at: str | None = None) -> Across | Through:
    """Where a source is read under load: across its terminals, or through it."""
    kind = sheet.parts[name].kind
    if kind.measured_as is CURRENT:
        return Through(name, setup.name, at)
    return Across(kind.measured_as, setup.connections[name], setup.name, at)


def readings_of_set(sheet: Sheet, which: Asked, part: str = "") -> list[Target]:
    """The readings of a set, in all setups; what parts and sources are by themselves is asked for with voltages too.

    The currents of one part are read at each of its leads: beside it, and beside the parts that it is in a row with.
    """
    if which is Asked.NONE:
        return []
    if which is Asked.USUAL:
        return usual_readings(sheet)
    targets: list[Target] = []
    for setup in sheet.setups.values():
        driving = setup.driving(sheet.parts)
        for name in setup.connections if driving else ():
            if name in setup.sources_off or name in setup.open or (which is Asked.CURRENTS_OF and name != part):
                continue
            if which is Asked.VOLTAGES:
                if sheet.parts[name].kind.is_wire:
                    continue
                targets.append(voltage_of(setup, sheet, name))
            else:
                targets.append(Through(name, setup.name))
        if which is Asked.CURRENTS_OF and part in setup.connections and driving:
            branch = next(b for b in loops.branches(setup.connections) if part in [p.part for p in b.passages])
            targets += [Through(part, setup.name, passage.part) for passage in branch.passages if passage.part != part]
    return list({target.key: target for target in targets}.values())


def all_readings(sheet: Sheet) -> list[Target]:
    """What can be ticked on a sheet: the usual readings, and whatever else it asks for."""
    targets = {target.key: target for target in (*usual_readings(sheet), *sheet.asked)}
    return list(targets.values())
