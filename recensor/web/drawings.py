"""Drawings of setups, rendered; and what stands beside their parts on demand."""

from collections.abc import Collection

from django.template.loader import render_to_string

from recensor.core.circuit import Setup, Sheet
from recensor.core.figures import rounded
from recensor.core.quantity import AMPERE, VOLT, WATT
from recensor.core.solving import operate
from recensor.drawing.conventions import Conventions
from recensor.drawing.schematic import NOTHING_BESIDE, Beside, Schematic, schematic

# What the drawing can show beside each part: the calculated voltage, current or power.
SHOWN = {"voltages": VOLT, "currents": AMPERE, "powers": WATT}


def calculated(sheet: Sheet, setup: Setup, shown: str) -> Beside:
    """The calculated quantity of every part from nominal values; nothing where nothing can be calculated."""
    operating = operate(sheet, setup)
    if shown not in SHOWN or operating.problem:
        return NOTHING_BESIDE
    wires = setup.wires(sheet.parts)
    notes, currents = {}, {}
    for name, state in operating.parts.items():
        currents[name] = state.amperes if operating.carries(name) else 0.0
        value = {VOLT: state.volts, AMPERE: state.amperes, WATT: state.watts}[SHOWN[shown]]
        if name not in wires:
            notes[name] = rounded(abs(value), None, SHOWN[shown])
    return Beside(notes, currents, SHOWN[shown] == VOLT)


def drawn(drawing: Schematic, conventions: Conventions) -> str:
    """A laid-out schematic as SVG."""
    return render_to_string("drawing/schematic.svg", {"drawing": drawing, "conventions": conventions})


def of_setup(
    sheet: Sheet,
    setup: Setup,
    conventions: Conventions = Conventions(),  # noqa: B008 (frozen)
    *,
    lit: Collection[str] = (),
    beside: Beside = NOTHING_BESIDE,
) -> str:
    """The drawing of a setup as SVG."""
    return drawn(schematic(sheet, setup, lit=lit, beside=beside), conventions)
