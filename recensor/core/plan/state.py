"""The bench as it stands: power, supply, what is opened, how the meter is set and where its probes are."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from recensor.core.boards import Built, compare
from recensor.core.circuit import Leads, Off, Setup, Sheet
from recensor.core.figures import as_read, plainly
from recensor.core.plan.opening import Opening, Way
from recensor.core.plan.stage import called
from recensor.core.quantity import CURRENT, RESISTANCE, Measurand
from recensor.core.sentences import say


class State(NamedTuple):
    """The bench at one moment.

    `powered`: the supply is on, and `connected` to the circuit, which is built as `setup` says; None before it is
    built. `opened` is where the circuit is open for the ammeter. The meter reads `measurand` with its `dial` there, in
    the range of a `full` scale that was chosen by hand, None where it finds its own, the red lead in a `jack`; `red`
    and `black` are where the probes are. `proved`: meter and fuse were proved on a known current. In a row of a sweep,
    its `setting` of the source, a second meter stays in the gap as ammeter: `second` says how it is set.
    """

    powered: bool = False
    connected: bool = False
    setup: str | None = None
    opened: Opening | None = None
    measurand: Measurand | None = None
    dial: str | None = None
    full: float | None = None
    jack: str | None = None
    red: str | None = None
    black: str | None = None
    proved: bool = False
    second: str | None = None
    setting: str | None = None

    @property
    def in_circuit(self) -> bool:
        """Whether the meter is an ammeter in a gap of the circuit."""
        return self.measurand is CURRENT and self.opened is not None


def unsafe(state: State) -> str:
    """Why a bench must never stand like this; empty where nothing speaks against it."""
    live = state.powered and state.connected
    if state.measurand is RESISTANCE and state.powered:
        return say("plan.ohms_under_power")
    if state.opened is not None and live and state.measurand is not CURRENT and state.second is None:
        return say("plan.circuit_open_and_no")
    if state.measurand is CURRENT and live and state.opened is None and state.red is not None:
        return say("plan.ammeter_across_circuit")
    return ""


def unsafe_change(before: State, after: State) -> str:
    """Why one change must never be made at once; empty where nothing speaks against it."""
    if not (before.powered or after.powered):
        return ""
    if before.powered != after.powered and before.setup == after.setup and before.opened == after.opened:
        return ""
    moved = before.setup, before.connected, before.opened
    if moved != (after.setup, after.connected, after.opened):
        return say("plan.lead_moved_under_power")
    if (before.dial, before.jack) != (after.dial, after.jack):
        return say("plan.meter_set_otherwise_under")
    if CURRENT in (before.measurand, after.measurand) and (before.red, before.black) != (after.red, after.black):
        return say("plan.ammeters_probes_moved_under")
    return ""


@dataclass(frozen=True)
class Move:
    """One thing that a hand does, in words; whether it puts a probe somewhere, or turns the dial."""

    words: str
    probe: bool = False
    dial: bool = False


def moves(before: State, after: State, sheet: Sheet) -> list[Move]:
    """Every hands-on move from one state to another, in the order in which they are made."""
    return [
        *_power(before, after, False),
        *_circuit(before, after, sheet),
        *_meter(before, after),
        *_power(before, after, True),
    ]


def _power(before: State, after: State, on: bool) -> Iterator[Move]:
    if before.powered != after.powered and after.powered is on:
        yield Move(say("plan.power_on") if on else say("plan.power_off"))


def _circuit(before: State, after: State, sheet: Sheet) -> Iterator[Move]:
    if before.opened and before.opened != after.opened:
        yield Move(before.opened.undone)
    if before.connected and not after.connected:
        yield Move(say("plan.disconnect_supply"))
    if after.setup != before.setup and after.setup is not None:
        yield from _rebuilt(sheet.setups.get(before.setup or ""), sheet.setups[after.setup], sheet)
    opened = after.opened if before.opened != after.opened else None
    connects = after.connected and not before.connected
    if connects and opened and opened.way is Way.SUPPLY:
        yield Move(say("plan.connect_supply_but_for", lead=opened.name))
        opened = None
    elif connects:
        yield Move(say("plan.connect_supply"))
    if opened:
        yield Move(opened.done)
    if after.second and before.second != after.second:
        yield Move(after.second)
    if before.second and not after.second:
        yield Move(say("plan.put_second_meter_away"))
    if after.setting and before.setting != after.setting:
        yield Move(after.setting)


def rebuilding(sheet: Sheet, before: str, after: str, built: Built | None = None) -> list[Move]:
    """What is moved on the board from one setup to another, by their names; with its holes where it is `built`."""
    return list(_rebuilt(sheet.setups[before], sheet.setups[after], sheet, built))


def _rebuilt(before: Setup | None, after: Setup, sheet: Sheet, built: Built | None = None) -> Iterator[Move]:
    """What is built, or what is other than before."""
    if before is None:
        yield Move(say("plan.build_setup", after=after.name) if sheet.several else say("plan.build_circuit"))
        for name, leads in after.connections.items():
            if sheet.parts[name].kind.polarised and not sheet.parts[name].kind.is_source:
                yield Move(say("plan.mind_lead_at", name=name, leads=leads[0]))
    else:
        yield from _exchanged(before, after, sheet, built or Built())
        for name in sorted(before.sources_off - after.sources_off):
            if name in after.connections:
                yield Move(say("plan.put_back", name=name))
    for name in sorted(after.sources_off - (before.sources_off if before else frozenset())):
        is_wire = sheet.parts[name].kind.off is Off.WIRE
        yield Move(say("plan.wire_for_source" if is_wire else "plan.take_out_for_nothing", name=name))
    switches = {name for name in after.connections if sheet.parts[name].kind.can_open}
    was_open = before.open if before else switches
    for name in sorted(switches):
        if name in after.open and name not in was_open:
            yield Move(say("plan.open", name=name))
        elif name in was_open and name not in after.open:
            yield Move(say("plan.close", name=name))
    warming = [name for name in after.connections if sheet.parts[name].kind.warms]
    if warming and after.temperature and after.temperature != (before.temperature if before else None):
        celsius = f"{float(after.temperature):g}".replace("-", "−")
        yield Move(say("plan.temperature", names=", ".join(warming), celsius=celsius))
    for name, part in ((name, sheet.parts[name]) for name in after.connections if name not in after.sources_off):
        value = after.set_to(part)
        was = before.set_to(part) if before and name in before.connections else part.marked
        if value is not None and value != was:
            yield Move(say("plan.set_part", name=called(name, sheet), value=as_read(value, part.kind.unit)))


def _exchanged(before: Setup, after: Setup, sheet: Sheet, built: Built) -> Iterator[Move]:
    """What comes out, and then what goes in or to other nodes; of a wire in a part's place that alone is said."""
    out = [name for name in before.connections if name not in after.connections]
    if len(out) == 1 and _is_shorted(before, after, out[0]):
        yield Move(say("plan.take_out_for_a_wire", name=out[0]))
        return
    for name in out:
        if placed := built.placements.get(name):
            first, second = (hole.shown for hole in placed.holes)
            yield Move(say("plan.take_out_of_holes", name=name, first=first, second=second))
        else:
            yield Move(say("plan.take_out", name=name))
    nodes = compare(sheet, before, built).nodes if built.placements else {}
    rows = {node: strip.words for strip, node in nodes.items()}
    for name, leads in after.connections.items():
        if before.connections.get(name) != leads:
            ends = [say("plan.node_in_row", node=node, row=rows[node]) if node in rows else node for node in leads]
            yield Move(say("plan.part_from_to", name=name, leads=ends[0], leads_2=ends[1]))


def _is_shorted(before: Setup, after: Setup, name: str) -> bool:
    """Whether one setup is another in which the two nodes of a part have become one."""
    nodes = set(before.connections[name])

    def joined(leads: Leads) -> list[str]:
        return ["" if node in nodes else node for node in leads]

    stays = {part: joined(leads) for part, leads in before.connections.items() if part != name}
    is_one_node = len(nodes & set(after.nodes)) < len(nodes)
    return is_one_node and stays == {part: joined(leads) for part, leads in after.connections.items()}


def _meter(before: State, after: State) -> Iterator[Move]:
    if after.measurand is None:
        return
    if before.dial != after.dial:
        full = plainly(after.full, after.measurand.unit) if after.full else ""
        yield Move(say("plan.dial_and_range" if full else "plan.dial", dial=after.dial, full=full), dial=True)
    elif after.full is not None and before.full != after.full:
        yield Move(say("plan.range", full=plainly(after.full, after.measurand.unit)), dial=True)
    if after.jack != before.jack and (before.jack is not None or after.measurand is CURRENT):
        yield Move(say("plan.red_lead_into_jack", jack=after.jack))
    for probe, was, now in (("red", before.red, after.red), ("black", before.black, after.black)):
        if now is not None and now != was:
            yield Move(say("plan.probe_at", probe=probe, now=now), probe=True)
