"""The schematic of a setup: a view model for ``drawing/schematic.svg``.

A series-parallel circuit of one source is drawn round a loop, every other one between rails.
"""

from collections.abc import Collection

from recensor.core.circuit import (
    Across,
    NotSeriesParallelError,
    PartAlone,
    Setup,
    Sheet,
    Target,
    Through,
    tree_of_source,
)
from recensor.drawing.schematic import loop_layout, rail_layout
from recensor.drawing.schematic.canvas import Beside, Canvas, Meter, Schematic

NOTHING_BESIDE = Beside()


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
    if isinstance(target, Across):
        lit, probes = set(setup.across(*target.nodes)), {target.red: "red", target.black: "black"}
    elif isinstance(target, PartAlone):
        lit = {target.part}
        if sheet.parts[target.part].kind.drives and target.part in setup.connections:
            probes = dict(zip(setup.connections[target.part], ("red", "black"), strict=True))
    elif isinstance(target, Through):
        lit, through = {target.part}, target.part
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
        if symbol.name == through:
            drawn.meter = Meter(symbol.x, symbol.y - 40) if symbol.vertical else Meter(symbol.x - 40, symbol.y)
    for mark in drawn.nodes:
        mark.probe = probes.get(mark.name, "")
