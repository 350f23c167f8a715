"""Generated circuits for property tests."""

from hypothesis import strategies as st

from recensor.core import graph
from recensor.core.circuit import CURRENT_SOURCE, RESISTOR, VOLTAGE_SOURCE, Part, Setup, Sheet
from recensor.core.quantity import parse
from recensor.core.solving import Element

OHMS = st.sampled_from([1.0, 4.7, 47.0, 220.0, 1e3, 3.3e3, 10e3, 82e3, 1e6])
RESISTANCES = st.sampled_from(["1k", "2k2", "470", "?"])
OTHERS = st.sampled_from(
    ["lamp 6V 50mA", "lamp 6V 50mA cold 12", "lamp", "diode 0.7V 10mA", "led 1.9V 10mA 5%", "led", "rheostat 1k",
     "rheostat 1k set 470", "switch", "open switch", "wire", "330 1%"]
)  # fmt: skip


@st.composite
def grounded_networks(draw: st.DrawFn, most_parts: int = 10) -> list[Element]:
    """Connected resistor networks with one or two voltage sources and perhaps a current source, reference ``n0``."""
    nodes = draw(st.integers(2, 6))
    elements = []
    for k in range(1, nodes):  # a random tree first: everything is joined
        elements.append(Element(f"R{k}", RESISTOR, f"n{k}", f"n{draw(st.integers(0, k - 1))}", draw(OHMS)))
    for k in range(draw(st.integers(0, most_parts - nodes))):
        a, b = draw(st.integers(0, nodes - 1)), draw(st.integers(0, nodes - 1))
        elements.append(Element(f"Rx{k}", RESISTOR, f"n{a}", f"n{b}", draw(OHMS)))
    elements.append(
        Element("V1", VOLTAGE_SOURCE, "n1", "n0", draw(st.floats(-30, 30)), draw(st.sampled_from([0.0, 0.4])))
    )
    if nodes > 2 and draw(st.booleans()):
        elements.append(Element("V2", VOLTAGE_SOURCE, f"n{nodes - 1}", "n1", draw(st.floats(-30, 30))))
    if draw(st.booleans()):
        internal = draw(st.sampled_from([0.0, 1e4]))
        elements.append(Element("I1", CURRENT_SOURCE, f"n{nodes - 1}", "n0", draw(st.floats(-0.1, 0.1)), internal))
    return elements


@st.composite
def lines(draw: st.DrawFn) -> str:
    """A series-parallel circuit in our one-line one_line."""
    groups = st.recursive(
        RESISTANCES,
        lambda inner: st.tuples(st.sampled_from([" + ", " | "]), st.lists(inner, min_size=2, max_size=3)).map(
            lambda pair: f"({pair[0].join(pair[1])})"
        ),
        max_leaves=12,
    )
    source = draw(st.sampled_from(["9V", "9V battery", "9V pack", "9V supply"]))
    return f"{source}: {draw(groups)}"


@st.composite
def mixed_lines(draw: st.DrawFn) -> str:
    """A line with parts of every kind."""
    groups = st.recursive(
        st.one_of(RESISTANCES, OTHERS),
        lambda inner: st.tuples(st.sampled_from([" + ", " | "]), st.lists(inner, min_size=2, max_size=3)).map(
            lambda pair: f"({pair[0].join(pair[1])})"
        ),
        max_leaves=9,
    )
    return f"9V: 100 + {draw(groups)}"


@st.composite
def planar_lists(draw: st.DrawFn) -> str:
    """A joined circuit cut out of a square grid, with sources anywhere and perhaps a dangling part."""
    across, down = draw(st.integers(2, 3)), draw(st.integers(2, 3))
    name = lambda x, y: "gnd" if (x, y) == (0, 0) else f"n{x}{y}"  # noqa: E731
    pairs = [((x, y), (x + 1, y)) for x in range(across - 1) for y in range(down)]
    pairs += [((x, y), (x, y + 1)) for x in range(across) for y in range(down - 1)]
    reached, kept = {(0, 0)}, []
    for pair in draw(st.permutations(pairs)) * 4:
        if pair not in kept and (reached & set(pair)) and (not set(pair) <= reached or draw(st.booleans())):
            kept.append(pair)
            reached |= set(pair)
    lines = [f"R{k} {name(*a)} {name(*b)} 1k" for k, (a, b) in enumerate(kept)]
    for k in range(draw(st.integers(1, min(3, len(lines))))):
        place = draw(st.integers(0, len(lines) - 1))
        words = lines[place].split()
        lines[place] = f"{'VI'[k % 2]}{k} {words[1]} {words[2]} {'9V' if k % 2 == 0 else '1mA'}"
    names = [line.split()[0] for line in lines]
    return "\n".join(line for k, line in enumerate(lines) if names[k] not in names[:k])


# Names that a netlist takes for others: SPICE knows no large letters, and its node 0 is also called gnd.
NODES = ["0", "gnd", "GND", "a", "A", "n1", "n2", "v1_inside", "V1_inside", "node b", "é", "x'"]
PARTS = {"resistor": ["R1", "r1", "R1'", "V9", "Load 1", "Load_1", "RV1_internal", "Vane"],
         "voltage source": ["V1", "v1", "Battery", "R7"], "current source": ["I1", "Sun"]}  # fmt: skip


@st.composite
def hostile(draw: st.DrawFn) -> Sheet:
    """A joined circuit whose names a netlist cannot take as they are."""
    nodes = draw(st.permutations(NODES))[: draw(st.integers(2, 6))]
    resistors = draw(st.permutations(PARTS["resistor"]))
    connections = {resistors[k - 1]: (node, draw(st.sampled_from(nodes[:k]))) for k, node in enumerate(nodes) if k}
    parts = {name: Part(name, RESISTOR, parse(draw(st.sampled_from(["470", "1k5", "2k2"])))) for name in connections}
    ways = draw(st.permutations([(a, b) for a in nodes for b in nodes if a < b]))
    held: graph.Groups[str] = graph.Groups()
    sources = [(kind, name) for kind in (VOLTAGE_SOURCE, CURRENT_SOURCE) for name in PARTS[kind.word]]
    for (kind, name), leads in list(zip(draw(st.permutations(sources)), ways, strict=False))[:3]:
        inside = draw(st.sampled_from([None, "50"]))
        if kind is VOLTAGE_SOURCE and not held.join(*leads):
            continue
        nominal = parse(draw(st.sampled_from(["5", "-3", "0.02"])) + ("" if kind is VOLTAGE_SOURCE else "m"))
        connections[name] = leads
        limit = parse("30m") if kind is VOLTAGE_SOURCE and inside else None
        parts[name] = Part(name, kind, nominal, internal=parse(inside) if inside else None, limit=limit)
    off = {name for name in connections if parts[name].kind.is_source and draw(st.integers(0, 3)) == 0}
    reference = draw(st.sampled_from(nodes))
    return Sheet("hostile", parts, {"main": Setup("main", reference, connections, frozenset(off))})
