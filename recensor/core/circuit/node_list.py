"""Any circuit as lines of text: a part, its two nodes, and what it is.

::

    reference gnd
    temperature 21
    V1 A gnd 9V internal 0.4
    R1 A B 4k7 5% 0.25W
    R2 B gnd ?
    "Load 1" B gnd 1k
    Vane B gnd 470 resistor
    V2 B gnd 5V off
    V3 C gnd 12V adjustable
    V4 D gnd 9V battery
    L1 A B 6V 50mA cold 12
    D1 B gnd 0.7V 10mA
    LED1 B gnd 1.9V 10mA
    RV1 A B 1k set 470
    P1 A W gnd pot 10k at 3k
    S1 A B open
    W1 B C wire

A potentiometer stands between three nodes, its slider at the middle one, and is set to its lower part. For a source and
for a diode the first node is its +. A lamp is stated by its volts and amperes, a diode by its drop
and the current at which it has that; a rheostat by its whole resistance and what it is set to. ``?`` is an unmarked
part; ``#`` begins a remark. Without a line ``reference``, the reference is the node ``gnd`` or ``0``, else the first
source's −. The kind of a part is what its line says last, else what its name begins with, else what its value's unit
says. Names with blanks stand in quotes.
"""

import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from recensor.core import lengths
from recensor.core.circuit import potentiometer
from recensor.core.circuit.kinds import (
    KEYWORDED,
    KINDS,
    RESISTOR,
    Kind,
    Stated,
    kind_called,
    kind_of_name,
    kind_of_unit,
)
from recensor.core.circuit.line_reader import NAME, REFERENCE, SETUP, UNMARKED
from recensor.core.circuit.parts import SOURCE_WORDS, Part
from recensor.core.circuit.setup import Leads, Setup, read_temperature
from recensor.core.circuit.sheet import Sheet
from recensor.core.errors import Refused
from recensor.core.figures import with_unit
from recensor.core.quantity import AMPERE, OHM, WATT, Quantity, QuantityError, parse, parse_percent, positive
from recensor.core.sentences import say

MOST_LINES = 200
NODE = re.compile(r"[A-Za-z0-9_+\-']{1,20}")
_WORD = re.compile(r'"((?:[^"\\]|\\.)+)"|(#)|([^\s"#]\S*)')
_ESCAPED = re.compile(r"\\(.)")
_BEHIND = re.compile(
    r"(?P<value>\?|\S.*?)(?:\s+(?P<current>[0-9]\S*A))?(?:\s+set\s+(?P<set>\S+))?"
    r"(?:\s+(?P<tolerance>\S+\s*%))?(?:\s+(?P<rating>\S+\s*W))?"
    rf"(?:\s+(?P<source>{'|'.join(SOURCE_WORDS)}))?(?:\s+(?P<adjustable>adjustable))?"
    rf"(?:\s+(?P<kind>{'|'.join(KINDS)}))?(?:\s+(?P<off>off))?"
)
TEMPERATURE = "temperature"
_OPEN, _CLOSED = "open", "closed"


class NodeListError(Refused):
    """A line is not understood; `line` is its number, counted from 1."""

    def __init__(self, message: str, line: int) -> None:
        super().__init__(say("circuit.line", line=line, message=message))
        self.line = line


def read(text: str, title: str = "Circuit") -> Sheet:
    """The circuit of a node list, as a sheet with one setup that asks for nothing. Raises `NodeListError`.

    Examples
    --------
    >>> sheet = read("V1 A gnd 9V; R1 A B 4k7 5%; R2 B gnd ?".replace(";", chr(10)))
    >>> sheet.setups["main"].reference, sheet.parts["R2"].nominal
    ('gnd', None)
    """
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise NodeListError(say("circuit.node_list_at_most", most_lines=MOST_LINES, lines=len(lines)), MOST_LINES)
    parts: dict[str, Part] = {}
    connections: dict[str, Leads] = {}
    reference, stated_at = "", 0
    temperature: Quantity | None = None
    values: dict[str, Quantity] = {}
    off: set[str] = set()
    opened: set[str] = set()
    potentiometers: dict[str, tuple[str, str]] = {}
    for number, line in enumerate(lines, 1):
        words = _words(line, number)
        if not words:
            continue
        if words[0].lower() == "reference" and len(words) == 2:
            reference, stated_at = words[1], number
            continue
        if words[0].lower() == TEMPERATURE and len(words) == 2:
            temperature = _temperature(words[1], number)
            continue
        if len(words) == 8 and (words[4].lower(), words[6].lower()) == (potentiometer.WORD, "at"):
            pot = _potentiometer(words, number)
            for half, leads in pot.connections.items():
                if half in parts:
                    raise NodeListError(say("circuit.two_parts_named", part=half), number)
                parts[half], connections[half] = pot.parts[half], leads
            values |= pot.settings
            potentiometers[words[0]] = potentiometer.halves_called(words[0])
            continue
        part, leads, state = _part(words, number)
        if part.name in parts:
            raise NodeListError(say("circuit.two_parts_named", part=part.name), number)
        parts[part.name], connections[part.name] = part, leads
        off |= {part.name} if state.off else set()
        opened |= {part.name} if state.open else set()
        if state.setting:
            values[part.name] = state.setting
    if not parts:
        raise NodeListError(say("circuit.write_part_two_nodes"), 1)
    nodes = {node for leads in connections.values() for node in leads}
    if reference and reference not in nodes:
        raise NodeListError(say("circuit.no_part_at_reference", reference=reference), stated_at)
    setup = Setup(
        SETUP,
        reference or _usual_reference(parts, connections),
        connections,
        frozenset(off),
        values,
        frozenset(opened),
        temperature,
    )
    return Sheet(title, parts, {SETUP: setup}, potentiometers=potentiometers)


def write(sheet: Sheet, setup: Setup) -> str:
    """The node list of a setup; reading it gives the same circuit, with what is set differently here as marked."""
    head: list[str] = [say("circuit.reference", quoted=_quoted(setup.reference))]
    head += [f"{TEMPERATURE} {_plain(setup.temperature)}"] if setup.temperature else []
    return "\n".join([*head, *_lines(sheet, setup)])


def _lines(sheet: Sheet, setup: Setup) -> Iterator[str]:
    halves = dict(_whole_potentiometers(sheet, setup))
    lowers = {sheet.potentiometers[name][1] for name in halves.values()}
    for name, leads in setup.connections.items():
        part = sheet.parts[name]
        if name in halves and part.nominal:
            lower = sheet.potentiometers[halves[name]][1]
            ends = map(_quoted, (halves[name], *leads, setup.connections[lower][1]))
            yield " ".join((*ends, potentiometer.WORD, _plain(part.nominal), "at", _plain(setup.values[lower])))
        if name in halves or name in lowers:
            continue
        value, setting = (
            (part.nominal, setup.set_to(part)) if part.kind.adjustable_value else (setup.set_to(part), None)
        )
        words = [*map(_quoted, (name, *leads)), *([] if part.kind.is_wire else [_plain(value) if value else UNMARKED])]
        words += [with_unit(part.current, AMPERE)] if part.current else []
        words += ["set", _plain(setting)] if setting else []
        words += [part.tolerance.text.replace(" ", "")] if part.tolerance else []
        words += [with_unit(part.rating, WATT)] if part.rating else []
        for stated in KEYWORDED:
            quantity = part.stated(stated.name)
            words += [stated.keyword, _plain(quantity)] if quantity else []
        words += [part.source.value] if part.source else []
        words += ["adjustable"] if part.adjustable else []
        words += [_OPEN if name in setup.open else _CLOSED] if part.kind.can_open else []
        if kind_of_name(name) is not part.kind or (part.kind.is_wire and not part.kind.can_open):
            words.append(part.kind.word)
        words += ["off"] if name in setup.sources_off else []
        yield " ".join(words)


def _whole_potentiometers(sheet: Sheet, setup: Setup) -> Iterator[tuple[str, str]]:
    """The potentiometers that a line can say, by their upper parts: whole and setting are known, and both are there."""
    for name, (upper, lower) in sheet.potentiometers.items():
        there = upper in setup.connections and lower in setup.connections and lower in setup.values
        if there and sheet.parts[upper].nominal and setup.connections[upper][1] == setup.connections[lower][0]:
            yield upper, name


def _plain(quantity: Quantity) -> str:
    """A value in one word, as it was read where it could mean two things."""
    return (quantity.ambiguity.meanings[0] if quantity.ambiguity else quantity.text).replace(" ", "")


def _quoted(name: str) -> str:
    """A name as a word: in quotes where it would not be one, or would mean something else."""
    if NODE.fullmatch(name) and name.lower() not in ("reference", TEMPERATURE):
        return name
    return '"' + name.replace("\\", "\\\\").replace('"', '\\"') + '"'


def _words(line: str, number: int) -> list[str]:
    """The words of a line up to a remark, those in quotes without them."""
    found, at = [], 0
    while at < len(line):
        if line[at].isspace():
            at += 1
            continue
        match = _WORD.match(line, at)
        if match is None:
            raise NodeListError(say("circuit.quoted_name_does_not"), number)
        quoted, remark, plain = match.groups()
        if remark:
            break
        found.append(_ESCAPED.sub(r"\1", quoted) if quoted else plain.split("#", 1)[0])
        if plain and "#" in plain:
            break
        at = match.end()
    return found


class _State(NamedTuple):
    """What a line says of the setup rather than of the part."""

    off: bool = False
    open: bool = False
    setting: Quantity | None = None


class _Potentiometer(NamedTuple):
    """Both rheostats of a potentiometer, where they are, and what they are set to."""

    parts: dict[str, Part]
    connections: dict[str, Leads]
    settings: dict[str, Quantity]


def _potentiometer(words: list[str], number: int) -> _Potentiometer:
    name, first, slider, second, _, whole, _, lower = words
    try:
        goes_to, set_to = positive(whole, OHM), positive(lower, OHM)
        settings = potentiometer.settings(name, set_to, goes_to)
    except QuantityError as error:
        raise NodeListError(str(error), number) from None
    upper, below = potentiometer.halves_called(name)
    connections = {upper: (first, slider), below: (slider, second)}
    for half, leads in connections.items():
        if leads[0] == leads[1]:
            raise NodeListError(say("circuit.both_leads_at_would", name=half, first=leads[0]), number)
    return _Potentiometer(potentiometer.two_parts(name, goes_to), connections, settings)


def _part(words: list[str], number: int) -> tuple[Part, Leads, _State]:
    if len(words) < 4:
        raise NodeListError(say("circuit.part_needs_name_two"), number)
    name, first, second = words[:3]
    for what, word, usual in (
        (say("circuit.part"), name, NAME),
        (say("circuit.node"), first, NODE),
        (say("circuit.node"), second, NODE),
    ):
        if not usual.fullmatch(word) and not _is_usable(word):
            raise NodeListError(say("circuit.no_name", word=word[:20], what=what), number)
    if first == second:
        raise NodeListError(say("circuit.both_leads_at_would", name=name, first=first), number)
    if wire := _wire(name, words[3:]):
        return wire, (first, second), _State(open=_OPEN in words[3:])
    behind, said = _keyworded(words[3:])
    match = _BEHIND.fullmatch(" ".join(behind))
    if not match:
        raise NodeListError(say("circuit.what_follows_nodes_not"), number)
    kind = _kind(name, match["value"], match["kind"], number)
    try:
        own: dict[str, Any] = {stated.name: positive(text, stated.unit) for stated, text in said.items()}
        unmarked = match["value"] == UNMARKED and kind.may_be_unmarked
        part = Part(
            name,
            kind,
            None if unmarked else _value(match["value"], kind),
            parse_percent(match["tolerance"]) if match["tolerance"] else None,
            positive(match["rating"], WATT) if match["rating"] else None,
            adjustable=match["adjustable"] is not None,
            source=SOURCE_WORDS[match["source"]] if match["source"] else None,
            current=positive(match["current"], AMPERE) if match["current"] else None,
            **own,
        )
        setting = positive(match["set"], OHM) if match["set"] else None
    except QuantityError as error:
        raise NodeListError(str(error), number) from None
    for is_said, what, fits in (
        *((stated in said, say(stated.what), kind.can_state(stated.name)) for stated in KEYWORDED),
        (part.current, say("circuit.current_own"), kind.is_nonlinear),
        (match["set"], say("circuit.setting"), kind.adjustable_value),
        (match["adjustable"], say("circuit.knob"), kind.is_source),
        (match["source"], say("circuit.battery_or_supply"), kind.is_source),
        (match["off"], say("circuit.state_being_off"), kind.is_source),
    ):
        if is_said and not fits:
            raise NodeListError(say("circuit.and_not", name=name, word=kind.word, what=what), number)
    if kind.is_wire:
        raise NodeListError(say("circuit.no_value_write_open", word=kind.word), number)
    return part, (first, second), _State(match["off"] is not None, setting=setting)


def _temperature(text: str, number: int) -> Quantity:
    try:
        return read_temperature(text)
    except QuantityError as error:
        raise NodeListError(str(error), number) from None


def _keyworded(words: list[str]) -> tuple[list[str], dict[Stated, str]]:
    """What is said of a part behind words of its own, and the words that are left; each is said once, in any order."""
    left, said = list(words), {}
    for stated in KEYWORDED:
        if stated.keyword in left[:-1]:
            at = left.index(stated.keyword)
            said[stated] = left[at + 1]
            del left[at : at + 2]
    return left, said


def _wire(name: str, behind: list[str]) -> Part | None:
    """A wire or a switch, of which a line says no value; None where it is something else."""
    kind = next((kind_called(word) for word in behind if word in KINDS), kind_of_name(name))
    states = (_OPEN, _CLOSED) if kind and kind.can_open else ()
    plain = all(word in (*states, kind.word) for word in behind) if kind else False
    return Part(name, kind) if kind and kind.is_wire and plain else None


def _is_usable(name: str) -> bool:
    """Whether a quoted name is one that a run document takes."""
    return bool(name.strip()) and name == name.strip() and len(name) <= lengths.NAME and name.isprintable()


def _kind(name: str, value: str, text: str | None, number: int) -> Kind:
    if text:
        return kind_called(text)
    if kind := kind_of_name(name):
        return kind
    try:
        unit = None if value == UNMARKED else parse(value).unit
    except QuantityError as error:
        raise NodeListError(str(error), number) from None
    if value == UNMARKED:
        return RESISTOR
    if unit is None or (kind := kind_of_unit(unit)) is None:
        *letters, last = dict.fromkeys(kind.letter for kind in KINDS.values())
        begin = say("circuit.names_begin_with_or", letters=", ".join(letters), last=last)
        raise NodeListError(say("circuit.does_not_say_what", name=name[:20], begin=begin), number)
    return kind


def _value(text: str, kind: Kind) -> Quantity:
    """What a part is: a resistance above zero, a source any number."""
    if not kind.is_source:
        return positive(text, kind.unit)
    positive(text.removeprefix("-").removeprefix("−"), kind.unit)
    return parse(text, kind.unit)


def _usual_reference(parts: dict[str, Part], connections: dict[str, Leads]) -> str:
    nodes = [node for leads in connections.values() for node in leads]
    for usual in (REFERENCE, "0"):
        if usual in nodes:
            return usual
    return next((connections[name][1] for name, part in parts.items() if part.kind.is_source), nodes[-1])
