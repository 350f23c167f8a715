"""The schematic of a setup: a view model for ``drawing/schematic.svg``.

A series-parallel circuit of one source is drawn round a loop, every other one between rails.
"""

from collections.abc import Collection

from recensor.core.circuit import Setup
from recensor.core.record import Run, Target
from recensor.core.structure import NotSeriesParallelError, tree_of_source
from recensor.drawing import loop_layout, rail_layout
from recensor.drawing.canvas import Beside, Canvas, Meter, Schematic

NOTHING_BESIDE = Beside()


def schematic(
    run: Run, setup: Setup, target: Target | None = None, *, lit: Collection[str] = (), beside: Beside = NOTHING_BESIDE
) -> Schematic:
    """Lay the setup out; `target` is the next reading, whose part and probes are marked; `lit` names parts to mark."""
    canvas = Canvas(run, setup, beside)
    try:
        source, tree = tree_of_source(setup, run.parts)
        if setup.reference != setup.connections[source][1]:
            raise NotSeriesParallelError("the reference is not the source's −")
    except NotSeriesParallelError:
        drawn = rail_layout.draw(canvas)
    else:
        drawn = loop_layout.draw(canvas, source, tree)
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
    if target is not None:
        _mark(drawn, target, setup)
    return drawn


def _mark(drawn: Schematic, target: Target, setup: Setup) -> None:
    """Light the parts a reading is about and show where red and black go."""
    red = black = ""
    if target.across:
        red, black = target.across
        lit = [name for name, leads in setup.connections.items() if set(leads) == {red, black}]
    else:
        lit = [target.of or target.through or ""]
        leads = setup.connections.get(lit[0])
        if leads and target.of and any(s.name == lit[0] and s.kind != "resistor" for s in drawn.symbols):
            red, black = leads
    for symbol in drawn.symbols:
        symbol.lit = symbol.name in lit
        if symbol.name == target.through:
            drawn.meter = Meter(symbol.x, symbol.y - 40) if symbol.vertical else Meter(symbol.x - 40, symbol.y)
    for mark in drawn.nodes:
        mark.probe = "red" if mark.name == red else "black" if mark.name == black else ""
