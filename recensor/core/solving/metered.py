"""A meter drawn into a circuit: a voltmeter across two nodes, an ammeter in the gap beside a part."""

from collections.abc import Sequence

from recensor.core.circuit import RESISTOR, Across, Through
from recensor.core.solving.laws import Element

# No part and no node can have these names.
METER, _GAP = "\0meter", "\0gap"


def with_meter(elements: Sequence[Element], target: Across | Through, ohms: float) -> tuple[Element, ...]:
    """The elements with a meter of so many ohms where a target is read; unchanged where there is no such part.

    Examples
    --------
    >>> from recensor.core.circuit import VOLTAGE_SOURCE
    >>> from recensor.core.solving import solve
    >>> loop = [Element("V1", VOLTAGE_SOURCE, "a", "gnd", 9.0), Element("R1", RESISTOR, "a", "gnd", 900.0)]
    >>> read = Through("R1", "main")
    >>> float(solve(with_meter(loop, read, 100.0), "gnd").answer(read))
    0.009
    """
    if target.is_across:
        return (*elements, Element(METER, RESISTOR, *target.nodes, ohms))
    opened = target.at or target.part
    place = next((k for k, element in enumerate(elements) if element.name == opened), None)
    if place is None:
        return tuple(elements)
    beside = elements[place]
    gap = Element(METER, RESISTOR, beside.first, _GAP, ohms)
    return (*elements[:place], beside._replace(first=_GAP), *elements[place + 1 :], gap)
