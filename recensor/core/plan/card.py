"""One card for one reading: what to do first, how the meter is set, where the probes go, what to put back.

The rules are common practice, no source: ohms only on a dead circuit and a part out of it, a voltmeter in parallel, an
ammeter in series at a break, red toward the higher potential, nothing but voltmeter probes moved under power.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from recensor.core.circuit import Off, Sheet, Target
from recensor.core.figures import as_read
from recensor.core.meters import Setting
from recensor.core.plan.opening import Opening, Way
from recensor.core.plan.stage import Stage, called, stage_of, title
from recensor.core.plan.state import State
from recensor.core.plan.steps import Bench
from recensor.core.sentences import instruction, say

_HOW = {
    Stage.PARTS: say("plan.out_circuit_nothing_powered"),
    Stage.BUILD: say("plan.circuit_finished_supply_disconnected"),
    Stage.SOURCE: say("plan.nothing_connected_yet"),
    Stage.VOLTS: say("plan.meter_in_parallel_leads"),
    Stage.AMPS: say("plan.meter_in_gap_in"),
    Stage.LINE: say("plan.both_meters_stay_where"),
}


@dataclass(frozen=True)
class Card:
    """One reading to take.

    Attributes
    ----------
    here : what differs in this setup, and how this stage reads.
    do : the moves to make now, up to where power is switched, or to the reading.
    switch : ON or OFF where power is switched before the reading; `then` are the moves after it.
    setting : how the meter is set; `red` and `black` say where the probes go.
    after : what is put back afterwards.
    proves : what else the reading tells; empty for nothing.
    """

    stage: Stage
    title: str
    setup: str
    here: tuple[str, ...]
    do: tuple[str, ...]
    switch: str
    then: tuple[str, ...]
    setting: Setting
    red: str
    black: str
    after: str = ""
    proves: str = ""

    @property
    def power(self) -> str:
        """OFF or ON while reading."""
        return self.stage.power

    @property
    def dial(self) -> str:
        """The function on the dial."""
        return self.setting.dial


def card(target: Target, bench: Bench, state: State | None = None) -> Card:
    """How to take one reading, from the bench as it stands.

    Examples
    --------
    >>> from recensor.core.circuit import Through, one_line
    >>> told = card(Through("R2", "main"), Bench(one_line.read("9V: 1k + 2k2")), State(proved=True))
    >>> told.do[2:], told.switch, told.red, told.black  # doctest: +NORMALIZE_WHITESPACE
    (('move lead R2.1 from node B into an empty row', 'dial to A DC', 'red lead into the 10A jack'),
    'ON', 'node B', 'freed lead R2.1')
    """
    sheet, here = bench.sheet, stage_of(target, bench.sheet)
    *before, reading = bench.steps(state or State(), target)
    do: list[str] = []
    then: list[str] = []
    switch = ""
    for step in before:
        for move in step.moves:
            if move.words.startswith("power "):
                switch = switch or move.words.removeprefix("power ").upper()
            elif not move.probe:
                (then if switch else do).append(move.words)
    (then if switch else do).extend(move.words for move in reading.moves if not (move.probe or move.dial))
    gap = reading.state.opened if here is not Stage.LINE or target.is_through else None
    setup = sheet.setups.get(target.setup or "")
    is_fused = bench.setting(target).fuse is not None
    proves = gap is not None and not (state or State()).proved and reading.state.proved and is_fused
    return Card(
        stage=here,
        title=title(target, sheet),
        setup=setup.name if setup and sheet.several else "",
        here=(*(_differences(target, sheet) if setup else ()), *(() if bench.simulated else _how(target, here, gap))),
        do=tuple(do),
        switch=switch,
        then=tuple(then),
        setting=bench.setting(target),
        red=_place(target, sheet, gap, red=True),
        black=_place(target, sheet, gap, red=False),
        after=instruction(say("plan.undone_with_power_off", undone=gap.undone))
        if gap and here is not Stage.LINE and not bench.simulated
        else "",
        proves=say("plan.proves_meter_and_fuse") if proves and not bench.simulated else "",
    )


def _how(target: Target, here: Stage, gap: Opening | None) -> Iterator[str]:
    if target.is_leads:
        yield say("plan.touch_two_probes_together")
    elif gap is None or here is Stage.LINE:
        yield _HOW[here]


def _differences(target: Target, sheet: Sheet) -> Iterator[str]:
    """What differs in a setup from what stands on the parts."""
    setup = sheet.setups[target.setup or ""]
    for name in setup.connections:
        if name in setup.sources_off:
            first, second = setup.connections[name]
            if sheet.parts[name].kind.off is Off.WIRE:
                yield say("plan.taken_out_wire_from", name=name, first=first, second=second)
            else:
                yield say("plan.taken_out_nothing_in", name=name)
        elif name in setup.values:
            yield say(
                "plan.set_here",
                name=called(name, sheet),
                values=as_read(setup.values[name], sheet.parts[name].kind.unit),
            )


def _place(target: Target, sheet: Sheet, gap: Opening | None, *, red: bool) -> str:
    """Where a probe goes, in words."""
    if target.is_leads:
        return say("plan.black_probe") if red else say("plan.red_probe")
    if target.is_part_alone:
        if sheet.parts[target.part].kind.is_source:
            return f"{target.part} {'+' if red else '−'}"
        if half := sheet.half_of(target.part):
            name, is_lower = half
            kind = "plan.slider_of" if red is is_lower else "plan.first_end_of" if red else "plan.other_end_of"
            return say(kind, name=name)
        return say("plan.one_lead", part=target.part) if red else say("plan.other_lead")
    if gap is not None:
        side = gap.red if red else gap.black
        if side == gap.node:
            return say("plan.node", node=side)
        if gap.way is not Way.LINK:
            return say("plan.freed_lead", side=side)
        link, _, end = side.partition(".")
        return say("plan.end_of_link", link=link, end=end) if end else say("plan.link", link=link)
    if target.is_through:
        raise AssertionError("a current is read in a gap")
    node = target.red if red else target.black
    return say("plan.lead_at", at=target.at, node=node) if target.at else say("plan.node", node=node)
