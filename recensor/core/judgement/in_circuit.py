"""A part that was read while it was still in the circuit: the other paths read in parallel with it."""

from collections.abc import Iterator

from recensor.core import network
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.network import Element
from recensor.core.record import Run


def readings_in_circuit(part: Part, run: Run) -> Iterator[tuple[float, str]]:
    """What an ohmmeter would show across a resistor in each setup, in ohms from nominal values, and how.

    Once with every source taken out, once with the voltage sources left in place, switched off. A setup
    with a part of unknown value says nothing.
    """
    for setup in run.setups.values():
        resistors = _resistors(setup, run)
        if part.name not in setup.connections or resistors is None:
            continue
        wires = [
            network.wire(name, *leads)
            for name, leads in setup.connections.items()
            if run.parts[name].kind is Kind.VOLTAGE_SOURCE
        ]
        for passive, how in (
            (resistors, "in the circuit"),
            (resistors + wires, "in the circuit, the supply connected"),
        ):
            try:
                solution = network.ohmmeter(passive, *setup.connections[part.name])
            except network.NetworkError:
                continue
            if solution is not None:
                yield float(solution.voltage(*setup.connections[part.name])), how


def _resistors(setup: Setup, run: Run) -> list[Element] | None:
    elements = []
    for name, (first, second) in setup.connections.items():
        part = run.parts[name]
        if part.kind is Kind.RESISTOR:
            if part.nominal is None:
                return None
            elements.append(Element(name, part.kind, first, second, float(part.nominal)))
    return elements
