"""SPICE netlists in and out: resistors, independent DC sources, remarks.

Out: one setup as a netlist that any SPICE runs, with what SPICE has no words for (digits as typed, tolerances,
ratings, names) kept as a node list in remarks. In: lines beginning with R, V, I, remarks, continued
lines and ``.end``; analyses and options are passed over and named. Everything else is refused by line.
SPICE tells no large from small letters, and ``gnd`` is its node 0: such nodes are one, and that is said.

SPICE counts a current source from its first node through itself to its second; Recensor's current leaves +.
"""

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import NamedTuple

from recensor.core.circuit import (
    CURRENT_SOURCE,
    MOST_PARTS,
    NAME,
    NODE,
    RESISTOR,
    SETUP,
    VOLTAGE_SOURCE,
    Kind,
    Leads,
    NodeListError,
    Part,
    Setup,
    Sheet,
    node_list,
)
from recensor.core.errors import Refused
from recensor.core.quantity import LARGEST, SMALLEST, parse

LONGEST_FILE = 200_000
GROUND, _ALSO_GROUND = "0", ("gnd", "gnd!", "ground")
_PLAIN_NODE = re.compile(r"[A-Za-z0-9_]+")
_NOTE = "*@ "
_SUFFIXES = {"t": 12, "g": 9, "meg": 6, "k": 3, "": 0, "m": -3, "u": -6, "n": -9, "p": -12, "f": -15}
_NUMBER = re.compile(
    r"(?P<number>[+-]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)(?:e[+-]?[0-9]{1,3})?)(?P<suffix>meg|[tgkmunpf]?)[a-z]*"
)
# The kinds that a netlist has words for here, by the letter that its lines begin with, and whether SPICE counts their
# current the other way.
_KINDS = {"r": (RESISTOR, False), "v": (VOLTAGE_SOURCE, False), "i": (CURRENT_SOURCE, True)}
_PASSED_OVER = (
    ".op",
    ".dc",
    ".ac",
    ".tran",
    ".tf",
    ".print",
    ".plot",
    ".options",
    ".option",
    ".temp",
    ".width",
    ".save",
)
_ELEMENTS = {"c": "a capacitor", "l": "an inductor", "d": "a diode", "q": "a transistor", "m": "a transistor",
             "j": "a transistor", "x": "a subcircuit", "e": "a dependent source", "f": "a dependent source",
             "g": "a dependent source", "h": "a dependent source", "b": "a dependent source", "k": "a coupling",
             "s": "a switch", "w": "a switch", "t": "a line"}  # fmt: skip


class NetlistError(Refused):
    """A line of the netlist is not taken; `line` is its number, counted from 1."""

    def __init__(self, message: str, line: int) -> None:
        super().__init__(f"Line {line}: {message}")
        self.line = line


@dataclass(frozen=True)
class Imported:
    """A circuit from a netlist, and what was passed over in it."""

    sheet: Sheet
    passed_over: tuple[str, ...]


def write(sheet: Sheet, setup: Setup) -> str:
    """A setup as a netlist. Raises `Refused` that names parts without a value, or of a kind that it has no word for."""
    unmarked = [name for name in setup.connections if not setup.stated(sheet.parts[name])]
    if unmarked:
        raise Refused(f"{' and '.join(unmarked)} has no value; a netlist needs one for every part.", unmarked)
    unsaid = [name for name in setup.connections if sheet.parts[name].kind not in _LINES]
    if unsaid:
        raise Refused(f"{' and '.join(unsaid)}: a netlist has no word for such a part here.", unsaid)
    notes = [f"{_NOTE}{line}" for line in node_list.write(sheet, setup).splitlines()]
    title = " ".join(sheet.title.split()) or "Circuit"
    return "\n".join([title, *notes, *_renamed(sheet, setup), *_lines(sheet, setup), ".op", ".end", ""])


def read(text: str) -> Imported:
    """The circuit of a netlist. Raises `NetlistError`."""
    if len(text) > LONGEST_FILE:
        raise NetlistError(f"The file is longer than {LONGEST_FILE} characters.", 1)
    title, *_ = text.splitlines() or [""]
    parts: dict[str, Part] = {}
    connections: dict[str, Leads] = {}
    passed_over: list[str] = []
    nodes = dict.fromkeys((GROUND, *_ALSO_GROUND), GROUND)
    names: set[str] = set()
    for number, words in _statements(text):
        letter = words[0][0].lower()
        if letter == ".":
            if words[0].lower() not in _PASSED_OVER:
                raise NetlistError(f"{words[0][:20]} is not taken.", number)
            passed_over.append(f"line {number}: {words[0]}")
            continue
        if letter not in _KINDS:
            named = _ELEMENTS.get(letter)
            said = f"{words[0][:20]} is {named}" if named else f"“{words[0][:20]}” is not understood"
            raise NetlistError(f"{said}; here are taken resistors (R) and DC sources (V, I).", number)
        for node in words[1:3]:
            meant = nodes.setdefault(node.lower(), node)
            if meant != node and (said := f"{node} is node {meant}") not in passed_over:
                passed_over.append(said)
        words[1:3] = [nodes[node.lower()] for node in words[1:3]]
        part, leads = _part(words, number)
        if part.name.lower() in names:
            raise NetlistError(f"There are two parts named {part.name}; large and small letters are the same.", number)
        names.add(part.name.lower())
        if len(parts) == MOST_PARTS:
            raise NetlistError(f"A circuit has at most {MOST_PARTS} parts.", number)
        parts[part.name], connections[part.name] = part, leads
    if not parts:
        raise NetlistError("There is no resistor and no source in it.", 1)
    if GROUND not in {node for leads in connections.values() for node in leads}:
        raise NetlistError("No part is at node 0, the reference of every netlist.", 1)
    sheet = Sheet(title.strip()[:120] or "Netlist", parts, {SETUP: Setup(SETUP, GROUND, connections)})
    noted = _noted(text, sheet)
    return Imported(noted or sheet, tuple(passed_over))


def _noted(text: str, sheet: Sheet) -> Sheet | None:
    """The circuit of the remarks, where there is one and the netlist still is what it gives."""
    notes = "\n".join(line.removeprefix(_NOTE) for line in text.splitlines() if line.startswith(_NOTE))
    try:
        noted = node_list.read(notes, sheet.title) if notes else None
        said = [" ".join(words) for _, words in _statements(text) if words[0][0] != "."]
        if noted and list(_lines(noted, noted.setups[SETUP])) == said:
            return noted
    except (NodeListError, KeyError):
        return None
    return None


class _Names:
    """Names of our own made into names of a netlist: letters, digits and underscores, and no two alike in any case."""

    def __init__(self, taken: Iterable[str] = ()) -> None:
        self._used = {name.lower() for name in taken}

    def unlike(self, wanted: str) -> str:
        """The wanted name, with a number behind it where it is taken."""
        name, k = wanted, 1
        while name.lower() in self._used:
            k += 1
            name = f"{wanted}_{k}"
        self._used.add(name.lower())
        return name


def _names(sheet: Sheet, setup: Setup) -> tuple[dict[str, str], dict[str, str], _Names, _Names]:
    """The netlist's names of nodes and of parts, and what is left to name beside them.

    The names that a circuit has go out as they are as far as a netlist can tell them apart. Node 0, which may also be
    called gnd, is the reference and nothing else.
    """
    free_nodes, free_labels = _Names((GROUND, *_ALSO_GROUND)), _Names()
    others = [node for node in setup.nodes if node != setup.reference]
    plain = [node for node in others if _PLAIN_NODE.fullmatch(node) and node.lower() not in (GROUND, *_ALSO_GROUND)]
    nodes = {setup.reference: GROUND, **{node: free_nodes.unlike(node) for node in plain}}
    for k, node in enumerate(others, 1):
        if node not in nodes:
            nodes[node] = free_nodes.unlike(f"n{k}")
    labels = {}
    for name in setup.connections:
        own, word = sheet.parts[name].kind.letter, re.sub(r"[^A-Za-z0-9_]", "_", name)
        labels[name] = free_labels.unlike(word if word[0].upper() == own else f"{own}{word}")
    return nodes, labels, free_nodes, free_labels


def _renamed(sheet: Sheet, setup: Setup) -> Iterator[str]:
    """A remark for each name that had to be another one in the netlist."""
    nodes, labels, _, _ = _names(sheet, setup)
    for what, names in (("node", nodes), ("part", labels)):
        for own, written in names.items():
            if own != written:
                yield f"* {what} {written} is {own}"


def _lines(sheet: Sheet, setup: Setup) -> Iterator[str]:
    """One line for each part, and one more for an internal resistance, with the netlist's own names."""
    nodes, labels, free_nodes, free_labels = _names(sheet, setup)
    for name, (first, second) in setup.connections.items():
        part, label = sheet.parts[name], labels[name]
        value = setup.stated(part)
        amount = 0.0 if name in setup.sources_off or value is None else float(value)
        # What is off goes out with all that is inside.
        internal, inner = 0.0 if name in setup.sources_off else part.internal_resistance, None
        if internal:
            inner = _Inner(free_labels.unlike(f"R{label}_internal"), free_nodes.unlike(f"{label}_inside"))
        yield from _LINES[part.kind](label, nodes[first], nodes[second], amount, internal, inner)


class _Inner(NamedTuple):
    """The names of a source's internal resistance, and of the node inside."""

    label: str
    node: str


def _resistor(label: str, a: str, b: str, amount: float, internal: float, inner: _Inner | None) -> Iterator[str]:
    yield f"{label} {a} {b} {amount!r}"


def _current_source(label: str, a: str, b: str, amount: float, internal: float, inner: _Inner | None) -> Iterator[str]:
    yield f"{label} {b} {a} dc {amount!r}"
    if inner:
        yield f"{inner.label} {a} {b} {internal!r}"


def _voltage_source(label: str, a: str, b: str, amount: float, internal: float, inner: _Inner | None) -> Iterator[str]:
    yield f"{label} {inner.node if inner else a} {b} dc {amount!r}"
    if inner:
        yield f"{inner.label} {inner.node} {a} {internal!r}"


_LINES: dict[Kind, Callable[[str, str, str, float, float, _Inner | None], Iterator[str]]] = {
    RESISTOR: _resistor,
    VOLTAGE_SOURCE: _voltage_source,
    CURRENT_SOURCE: _current_source,
}


def _statements(text: str) -> Iterator[tuple[int, list[str]]]:
    """Each statement's line number and words, continued lines joined; without title, remarks and what follows .end."""
    current: tuple[int, list[str]] | None = None
    for number, line in enumerate(text.splitlines()[1:], 2):
        said = re.split(r";|\$ ", line, maxsplit=1)[0].strip()
        if not said or said.startswith("*"):
            continue
        if said.startswith("+"):
            if current is None:
                raise NetlistError("Nothing stands before this continued line.", number)
            current[1].extend(said[1:].split())
            continue
        if current:
            yield current
        if said.lower() == ".end":
            return
        current = (number, said.split())
    if current:
        yield current


def _part(words: list[str], number: int) -> tuple[Part, Leads]:
    kind, is_turned = _KINDS[words[0][0].lower()]
    if len(words) < 4:
        raise NetlistError(f"{words[0][:20]} needs two nodes and a value.", number)
    name, first, second, *rest = words
    if kind.drives and rest and rest[0].lower() == "dc":
        rest = rest[1:]
    if not rest:
        raise NetlistError(f"{name[:20]} has no value.", number)
    if len(rest) > 1:
        raise NetlistError(f"“{' '.join(rest)[:40]}” is not taken: one DC value only.", number)
    match = _NUMBER.fullmatch(rest[0].lower())
    if not match:
        raise NetlistError(f"“{rest[0][:20]}” is no value.", number)
    if not NAME.fullmatch(name):
        raise NetlistError(f"“{name[:20]}” is no name of a part.", number)
    for node in (first, second):
        if not NODE.fullmatch(node):
            raise NetlistError(f"“{node[:20]}” is no name of a node.", number)
    if first == second:
        raise NetlistError(f"Both leads of {name} are at node {first}.", number)
    value = Decimal(match["number"]).scaleb(_SUFFIXES[match["suffix"]])
    if value and not SMALLEST <= abs(value) <= LARGEST:
        raise NetlistError(f"“{rest[0][:20]}” is out of all range.", number)
    if not kind.drives and value <= 0:
        raise NetlistError(f"{name} has a resistance that is not above zero.", number)
    leads = (second, first) if is_turned else (first, second)
    if value < 0:
        value, leads = -value, leads[::-1]
    quantity = replace(parse(f"{value.normalize():f}", kind.unit), unit=kind.unit)
    return Part(name, kind, quantity), leads
