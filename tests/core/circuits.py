"""Generated circuits for property tests."""

from hypothesis import strategies as st

from recensor.core.circuit import Kind
from recensor.core.network import Element

OHMS = st.sampled_from([1.0, 4.7, 47.0, 220.0, 1e3, 3.3e3, 10e3, 82e3, 1e6])


@st.composite
def grounded_networks(draw: st.DrawFn, most_parts: int = 10) -> list[Element]:
    """Connected resistor networks with one or two voltage sources and perhaps a current source, reference ``n0``."""
    nodes = draw(st.integers(2, 6))
    elements = []
    for k in range(1, nodes):  # a random tree first: everything is joined
        elements.append(Element(f"R{k}", Kind.RESISTOR, f"n{k}", f"n{draw(st.integers(0, k - 1))}", draw(OHMS)))
    for k in range(draw(st.integers(0, most_parts - nodes))):
        a, b = draw(st.integers(0, nodes - 1)), draw(st.integers(0, nodes - 1))
        elements.append(Element(f"Rx{k}", Kind.RESISTOR, f"n{a}", f"n{b}", draw(OHMS)))
    elements.append(
        Element("V1", Kind.VOLTAGE_SOURCE, "n1", "n0", draw(st.floats(-30, 30)), draw(st.sampled_from([0.0, 0.4])))
    )
    if nodes > 2 and draw(st.booleans()):
        elements.append(Element("V2", Kind.VOLTAGE_SOURCE, f"n{nodes - 1}", "n1", draw(st.floats(-30, 30))))
    if draw(st.booleans()):
        internal = draw(st.sampled_from([0.0, 1e4]))
        elements.append(Element("I1", Kind.CURRENT_SOURCE, f"n{nodes - 1}", "n0", draw(st.floats(-0.1, 0.1)), internal))
    return elements
