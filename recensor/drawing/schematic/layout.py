"""The schematic of a setup: a view model for ``drawing/schematic.svg``.

A series-parallel circuit of one source is drawn round a loop, every other one between rails.
"""

from collections.abc import Collection

from recensor.core.circuit import (
    NotSeriesParallelError,
    Setup,
    Sheet,
    Target,
    tree_of_source,
)
from recensor.core.plan import opening
from recensor.drawing.schematic import loop_layout, rail_layout
from recensor.drawing.schematic.canvas import Beside, Canvas, MeterSymbol, Schematic, Symbol

NOTHING_BESIDE = Beside()

# From the middle of a part to that of the meter in the gap at its end.
_TO_METER = 42.0


def schematic(
    sheet: Sheet,
    setup: Setup,
    target: Target | None = None,
    *,
    lit: Collection[str] = (),
    beside: Beside = NOTHING_BESIDE,
) -> Schematic:
    """Lay the setup out; `target` is the next reading, whose part and probes are marked; `lit` names parts to mark."""
    canvas = Canvas(sheet, setup, beside)
    try:
        source, tree = tree_of_source(setup, sheet.parts)
        if setup.reference != setup.connections[source][1]:
            raise NotSeriesParallelError("the reference is not the source's −")
    except NotSeriesParallelError:
        drawn = rail_layout.draw(canvas)
    else:
        drawn = loop_layout.draw(canvas, source, tree)
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
    if target is not None:
        _mark(drawn, target, sheet, setup)
    return drawn


def _mark(drawn: Schematic, target: Target, sheet: Sheet, setup: Setup) -> None:
    """Light the parts a reading is about and show where red and black go."""
    lit, probes, through = set[str](), {}, ""
    if target.is_across:
        lit, probes = set(setup.across(*target.nodes)), {target.red: "red", target.black: "black"}
    elif target.is_part_alone:
        lit = {target.part}
        if sheet.parts[target.part].kind.is_source and target.part in setup.connections:
            probes = dict(zip(setup.connections[target.part], ("red", "black"), strict=True))
    elif target.is_through:
        lit, through = {target.part}, target.at or target.part
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
        if symbol.name == through and target.is_through:
            drawn.meter = _in_gap(symbol, opening(target, sheet).inward)
    for mark in drawn.nodes:
        mark.probe = probes.get(mark.name, "")


def _in_gap(symbol: Symbol, inward: bool) -> MeterSymbol:
    """The ammeter beside a part's first lead; its red lead is away from the part where the current goes into it."""
    outward = -_TO_METER if symbol.first_leads else _TO_METER
    x, y = (symbol.x, symbol.y + outward) if symbol.vertical else (symbol.x + outward, symbol.y)
    return MeterSymbol(x, y, symbol.vertical, red_first=inward == symbol.first_leads)
