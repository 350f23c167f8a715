"""SPICE netlists in and out: resistors, independent DC sources, diodes, lamps as behavioural sources, remarks.

Out: one setup as a netlist that any SPICE runs, with what SPICE has no words for (digits as typed, tolerances,
ratings, names) kept as a node list in remarks. A wire is a source of no volts, an open switch is left out, and a
lamp is a source of the current that its law gives. In: lines beginning with R, V, I, D, models of diodes, remarks,
continued lines and ``.end``; analyses and options are passed over and named. Everything else is refused by line.
SPICE tells no large from small letters, and ``gnd`` is its node 0: such nodes are one, and that is said.

SPICE counts a current source from its first node through itself to its second; Recensor's current leaves +.
"""

import math
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import NamedTuple

from recensor.core import lengths
from recensor.core.circuit import (
    CURRENT_SOURCE,
    DIODE,
    KINDS,
    LAMP,
    LED,
    MOST_PARTS,
    NAME,
    NODE,
    RESISTOR,
    SETUP,
    SWITCH,
    VOLTAGE_SOURCE,
    WIRE,
    Kind,
    Leads,
    NodeListError,
    Part,
    Setup,
    Sheet,
    node_list,
)
from recensor.core.errors import Refused
from recensor.core.quantity import AMPERE, LARGEST, SMALLEST, VOLT, parse
from recensor.core.solving import LAWS, Element, Filament, Junction, Law, elements_of, stated

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
_ELEMENTS = {"c": "a capacitor", "l": "an inductor", "q": "a transistor", "m": "a transistor",
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
    known = stated(sheet, setup).known
    unmarked = [name for name in setup.closed if name not in known]
    if unmarked:
        raise Refused(f"{' and '.join(unmarked)} has no value; a netlist needs one for every part.", unmarked)
    notes = [f"{_NOTE}{line}" for line in node_list.write(sheet, setup).splitlines()]
    title = " ".join(sheet.title.split()) or "Circuit"
    return "\n".join([title, *notes, *_renamed(sheet, setup), *_lines(sheet, setup), ".op", ".end", ""])


def read(text: str) -> Imported:
    """The circuit of a netlist. Raises `NetlistError`."""
    if len(text) > LONGEST_FILE:
        raise NetlistError(f"The file is longer than {LONGEST_FILE} characters.", 1)
    title, *_ = text.splitlines() or [""]
    title = title.strip()[: lengths.TITLE] or "Netlist"
    if noted := _noted(text, title):
        over = [f"line {number}: {words[0]}" for number, words in _statements(text) if _is_passed_over(words)]
        return Imported(noted, tuple(over))
    parts: dict[str, Part] = {}
    connections: dict[str, Leads] = {}
    passed_over: list[str] = []
    nodes = dict.fromkeys((GROUND, *_ALSO_GROUND), GROUND)
    names: set[str] = set()
    models = dict(_models(text))
    for number, words in _statements(text):
        letter = words[0][0].lower()
        if words[0].lower() == ".model":
            continue
        if letter == ".":
            if not _is_passed_over(words):
                raise NetlistError(f"{words[0][:20]} is not taken.", number)
            passed_over.append(f"line {number}: {words[0]}")
            continue
        if letter not in (*_KINDS, "d"):
            named = _ELEMENTS.get(letter)
            said = f"{words[0][:20]} is {named}" if named else f"“{words[0][:20]}” is not understood"
            raise NetlistError(f"{said}; here are taken resistors (R), DC sources (V, I) and diodes (D).", number)
        for node in words[1:3]:
            meant = nodes.setdefault(node.lower(), node)
            if meant != node and (said := f"{node} is node {meant}") not in passed_over:
                passed_over.append(said)
        words[1:3] = [nodes[node.lower()] for node in words[1:3]]
        part, leads = _diode(words, number, models, passed_over) if letter == "d" else _part(words, number)
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
    sheet = Sheet(title, parts, {SETUP: Setup(SETUP, GROUND, connections)})
    return Imported(sheet, tuple(passed_over))


def _is_passed_over(words: list[str]) -> bool:
    return words[0].lower() in _PASSED_OVER


def _noted(text: str, title: str) -> Sheet | None:
    """The circuit of the remarks, where there is one and the netlist still is what it gives."""
    notes = "\n".join(line.removeprefix(_NOTE) for line in text.splitlines() if line.startswith(_NOTE))
    try:
        noted = node_list.read(notes, title) if notes else None
        texts = [" ".join(words) for _, words in _statements(text) if not _is_passed_over(words)]
        if noted and list(_lines(noted, noted.setups[SETUP])) == texts:
            return noted
    except (NodeListError, NetlistError, KeyError):
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
        own, word = _LETTERS[LAWS[sheet.parts[name].kind]], re.sub(r"[^A-Za-z0-9_]", "_", name)
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
    # What is off has nothing inside, and gives nothing.
    known = {**stated(sheet, setup).known, **dict.fromkeys(setup.sources_off, 0.0)}
    off = {name: replace(sheet.parts[name], internal=None) for name in setup.sources_off}
    for element in elements_of(replace(setup, sources_off=frozenset()), {**sheet.parts, **off}, known):
        label, inner = labels[element.name], None
        if element.internal:
            inner = _Inner(free_labels.unlike(f"R{label}_internal"), free_nodes.unlike(f"{label}_inside"))
        written = element._replace(name=label, first=nodes[element.first], second=nodes[element.second])
        yield from _LINES[LAWS[element.kind]](written, inner)


class _Inner(NamedTuple):
    """The names of a source's internal resistance, and of the node inside."""

    label: str
    node: str


def _resistor(e: Element, inner: _Inner | None) -> Iterator[str]:
    yield f"{e.name} {e.first} {e.second} {e.value!r}"


def _current_source(e: Element, inner: _Inner | None) -> Iterator[str]:
    yield f"{e.name} {e.second} {e.first} dc {e.value!r}"
    if inner:
        yield f"{inner.label} {e.first} {e.second} {e.internal!r}"


def _voltage_source(e: Element, inner: _Inner | None) -> Iterator[str]:
    yield f"{e.name} {inner.node if inner else e.first} {e.second} dc {e.value!r}"
    if inner:
        yield f"{inner.label} {inner.node} {e.first} {e.internal!r}"


def _diode_lines(e: Element, inner: _Inner | None) -> Iterator[str]:
    law = LAWS[e.kind]
    if not isinstance(law, Junction) or e.rated is None:
        return
    saturation = float(e.rated.amperes) / math.expm1(e.value / law.volts)
    yield f"{e.name} {e.first} {e.second} M{e.name}"
    yield f".model M{e.name} d (is={saturation!r} n={law.volts / _SPICE_THERMAL!r})"


def _lamp_lines(e: Element, inner: _Inner | None) -> Iterator[str]:
    law = LAWS[e.kind]
    if not isinstance(law, Filament) or e.rated is None:
        return
    cold, curve = law.shape(e.rated, e.value)
    drop = f"V({e.first},{e.second})"
    glow = f"(1+{float(curve)!r}*({drop}/{e.value!r})*({drop}/{e.value!r}))"
    yield f"{e.name} {e.first} {e.second} I={drop}/({float(cold)!r}*{glow}^{law.POWER!r})"


# SPICE counts with a thermal voltage of kT/q at 27 °C.
_SPICE_THERMAL = 1.380649e-23 * 300.15 / 1.602176634e-19

_LINES: dict[Law, Callable[[Element, _Inner | None], Iterator[str]]] = {
    **{LAWS[kind]: _resistor for kind in KINDS.values() if kind.ohmic},
    LAWS[VOLTAGE_SOURCE]: _voltage_source,
    LAWS[CURRENT_SOURCE]: _current_source,
    LAWS[DIODE]: _diode_lines,
    LAWS[LED]: _diode_lines,
    LAWS[LAMP]: _lamp_lines,
    LAWS[SWITCH]: _voltage_source,
    LAWS[WIRE]: _voltage_source,
}
# What the name of a part of each law begins with in a netlist.
_LETTERS: dict[Law, str] = {
    law: "R" if kind.ohmic else {Junction: "D", Filament: "B"}.get(type(law), kind.letter[0])
    for kind, law in LAWS.items()
} | {LAWS[SWITCH]: "V", LAWS[WIRE]: "V"}

_MODEL = re.compile(r"\.model\s+(?P<name>\S+)\s+d\s*\((?P<values>[^)]*)\)", re.IGNORECASE)


def _models(text: str) -> Iterator[tuple[str, tuple[float, float]]]:
    """The saturation current and the emission coefficient of each diode model, by its name in small letters."""
    for number, words in _statements(text):
        if words[0].lower() != ".model":
            continue
        match = _MODEL.fullmatch(" ".join(words))
        if not match:
            raise NetlistError("Here are taken models of diodes, as in .model D1N d (is=1e-14 n=1.8).", number)
        values = dict(pair.split("=", 1) for pair in match["values"].lower().replace(",", " ").split() if "=" in pair)
        read = {key: _NUMBER.fullmatch(values[key]) for key in ("is", "n") if key in values}
        if None in read.values():
            raise NetlistError(f"The model {match['name'][:20]} has no number where one belongs.", number)
        found = {key: float(Decimal(m["number"]).scaleb(_SUFFIXES[m["suffix"]])) for key, m in read.items() if m}
        if min(found.values(), default=1.0) <= 0:
            raise NetlistError(f"The model {match['name'][:20]} has a value that is not above zero.", number)
        yield match["name"].lower(), (found.get("is", 1e-14), found.get("n", 1.0))


def _diode(
    words: list[str], number: int, models: Mapping[str, tuple[float, float]], passed_over: list[str]
) -> tuple[Part, Leads]:
    """A diode by its model: the drop that it has at 10 mA, by Shockley's law."""
    if len(words) != 4:
        raise NetlistError(f"{words[0][:20]} needs two nodes and a model.", number)
    name, first, second, model = words
    if model.lower() not in models:
        raise NetlistError(f"There is no model {model[:20]}.", number)
    _check_names(name, first, second, number)
    saturation, emission = models[model.lower()]
    drop = emission * _SPICE_THERMAL * math.log1p(_STATED_AT / saturation)
    kind = min((DIODE, LED), key=lambda one: abs(_emission(one) - emission))
    if abs(_emission(kind) - emission) > 0.01:
        passed_over.append(f"line {number}: n={emission:g} of {name} is taken as {_emission(kind):g}")
    stated_at = replace(parse(f"{_STATED_AT * 1e3:g}mA"), unit=AMPERE)
    return Part(name, kind, replace(parse(f"{drop:.4g}", VOLT), unit=VOLT), current=stated_at), (first, second)


# The current in amperes at which the drop of a diode out of a netlist is stated.
_STATED_AT = 0.01


def _emission(kind: Kind) -> float:
    law = LAWS[kind]
    return law.volts / _SPICE_THERMAL if isinstance(law, Junction) else 1.0


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
    if kind.is_source and rest and rest[0].lower() == "dc":
        rest = rest[1:]
    if not rest:
        raise NetlistError(f"{name[:20]} has no value.", number)
    if len(rest) > 1:
        raise NetlistError(f"“{' '.join(rest)[:40]}” is not taken: one DC value only.", number)
    match = _NUMBER.fullmatch(rest[0].lower())
    if not match:
        raise NetlistError(f"“{rest[0][:20]}” is no value.", number)
    _check_names(name, first, second, number)
    value = Decimal(match["number"]).scaleb(_SUFFIXES[match["suffix"]])
    if value and not SMALLEST <= abs(value) <= LARGEST:
        raise NetlistError(f"“{rest[0][:20]}” is out of all range.", number)
    if not kind.is_source and value <= 0:
        raise NetlistError(f"{name} has a resistance that is not above zero.", number)
    leads = (second, first) if is_turned else (first, second)
    if value < 0:
        value, leads = -value, leads[::-1]
    quantity = replace(parse(f"{value.normalize():f}", kind.unit), unit=kind.unit)
    return Part(name, kind, quantity), leads


def _check_names(name: str, first: str, second: str, number: int) -> None:
    if not NAME.fullmatch(name):
        raise NetlistError(f"“{name[:20]}” is no name of a part.", number)
    for node in (first, second):
        if not NODE.fullmatch(node):
            raise NetlistError(f"“{node[:20]}” is no name of a node.", number)
    if first == second:
        raise NetlistError(f"Both leads of {name} are at node {first}.", number)
