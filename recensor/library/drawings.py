"""Drawings of setups, rendered; and what stands beside their parts on demand."""

from collections.abc import Collection

from django.template.loader import render_to_string

from recensor.core import network
from recensor.core.circuit import Kind, Setup
from recensor.core.quantity import AMPERE, VOLT, WATT, rounded
from recensor.core.record import Run
from recensor.drawing.canvas import Beside
from recensor.drawing.schematic import NOTHING_BESIDE, schematic

# What the drawing can show beside each part: the calculated voltage, current or power.
SHOWN = {"voltages": VOLT, "currents": AMPERE, "powers": WATT}


def calculated(run: Run, setup: Setup, shown: str) -> Beside:
    """The calculated quantity of every part from nominal values; nothing while a part is unmarked."""
    stated = {name: setup.stated(run.parts[name]) for name in setup.connections}
    if shown not in SHOWN or not all(stated.values()):
        return NOTHING_BESIDE
    elements = network.elements_of(setup, run.parts, {name: float(value) for name, value in stated.items()})
    try:
        solution = network.solve(elements, setup.reference)
    except network.NetworkError:
        return NOTHING_BESIDE
    notes, currents = {}, {}
    for element in elements:
        current = float(solution.current(element.name))
        drop = float(solution.voltage(element.first, element.second))
        value = {VOLT: abs(drop), AMPERE: abs(current), WATT: abs(drop * current)}[SHOWN[shown]]
        notes[element.name] = rounded(value, None, SHOWN[shown])
        currents[element.name] = current if abs(current) > 1e-9 * solution.largest_current else 0.0
    wires = {name for name in setup.sources_off if run.parts[name].kind is Kind.VOLTAGE_SOURCE}
    return Beside({name: note for name, note in notes.items() if name not in wires}, currents, SHOWN[shown] == VOLT)


def of_setup(
    run: Run, setup: Setup, *, zigzag: bool = False, lit: Collection[str] = (), beside: Beside = NOTHING_BESIDE
) -> str:
    """The drawing of a setup as SVG."""
    drawing = schematic(run, setup, lit=lit, beside=beside)
    return render_to_string("drawing/schematic.svg", {"drawing": drawing, "zigzag": zigzag})
