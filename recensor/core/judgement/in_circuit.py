"""A part that was read while it was still in the circuit: the other paths read in parallel with it."""

from collections.abc import Iterator

from recensor.core.circuit import Part, Sheet
from recensor.core.solving import NetworkError, dead, resistance_between


def readings_in_circuit(part: Part, sheet: Sheet) -> Iterator[tuple[float, str]]:
    """What an ohmmeter would show across a part in each setup, in ohms from nominal values, and how.

    Once with every source taken out, once with the sources left in place, switched off. A setup
    with a part of unknown value says nothing.
    """
    nominal = {name: float(other.nominal) for name, other in sheet.parts.items() if other.nominal}
    for setup in sheet.setups.values():
        if part.name not in setup.connections or not nominal.keys() >= setup.connections.keys():
            continue
        for left_in, how in ((False, "in the circuit"), (True, "in the circuit, the supply connected")):
            try:
                passive = dead(setup, sheet.parts, nominal, left_in=left_in)
                (seen,) = resistance_between(passive, [setup.connections[part.name]])
            except NetworkError:
                continue
            if seen:
                yield seen[0], how
