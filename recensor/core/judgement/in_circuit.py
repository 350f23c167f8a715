"""A part that was read while it was still in the circuit: the other paths read in parallel with it."""

from collections.abc import Iterator
from dataclasses import replace

from recensor.core import network
from recensor.core.circuit import Kind, Part
from recensor.core.record import Run


def readings_in_circuit(part: Part, run: Run) -> Iterator[tuple[float, str]]:
    """What an ohmmeter would show across a resistor in each setup, in ohms from nominal values, and how.

    Once with every source taken out, once with the voltage sources left in place, switched off. A setup
    with a part of unknown value says nothing.
    """
    nominal = {name: float(one.nominal) if one.nominal else None for name, one in run.parts.items()}
    for setup in run.setups.values():
        if part.name not in setup.connections or any(nominal[name] is None for name in setup.connections):
            continue
        sources = frozenset(name for name in setup.connections if run.parts[name].kind.is_source)
        dead = network.elements_of(replace(setup, sources_off=sources), run.parts, nominal)
        resistors = [element for element in dead if element.kind is Kind.RESISTOR]
        for passive, how in ((resistors, "in the circuit"), (dead, "in the circuit, the supply connected")):
            try:
                solution = network.ohmmeter(passive, *setup.connections[part.name])
            except network.NetworkError:
                continue
            if solution is not None:
                yield float(solution.voltage(*setup.connections[part.name])), how
