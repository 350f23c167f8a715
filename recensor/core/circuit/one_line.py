"""A circuit in one line of text, our own notation: ``9V: 1k + (2k2 | 3k3 + 470) + 100; 5%``.

Before the colon the source, after it the resistors from its + to its −: ``+`` puts in series, ``|`` in
parallel and binds less, parentheses group. ``R7=1k`` names a part, ``1k 1%`` states its tolerance,
``?`` is an unmarked part. After a semicolon stands the tolerance of all resistors that state none, after another the
temperature of the circuit, ``21 °C``.
Other parts say what they are: ``lamp 6V 50mA``, ``diode 0.7V 10mA``, ``led 1.9V 10mA`` (from + to −), ``rheostat 1k
set 470``, ``switch``, ``open switch``, ``wire``. ``pot 10k at 3k`` is a potentiometer: both its parts in series, the
lower 3 kΩ, and its slider the node between them. Behind a source's value stands what it is: ``9V battery``,
``12V pack``, ``5V supply``. ``||``, ``//`` and ``∥`` are ``|``.
"""

import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any, NamedTuple, TypeVar

from recensor.core.circuit import potentiometer, series_parallel
from recensor.core.circuit.kinds import KINDS, RESISTOR, kind_called, kind_of_unit
from recensor.core.circuit.parts import SOURCE_WORDS, Part
from recensor.core.circuit.series_parallel import Leaf, Parallel, Tree
from recensor.core.circuit.setup import Leads, Setup, read_temperature
from recensor.core.circuit.sheet import Sheet
from recensor.core.errors import Refused
from recensor.core.figures import with_unit
from recensor.core.quantity import AMPERE, CELSIUS, OHM, Quantity, QuantityError, parse_percent, positive
from recensor.core.sentences import say

REFERENCE = "gnd"
SETUP = "main"
LONGEST_LINE = 2000
MOST_PARTS = 60
UNMARKED = "?"

# Other signs for parts in parallel; one that is longer has blanks behind it, so that every place stays what it is.
_PARALLEL = re.compile(r"\|\||//|∥")
_TOKEN = re.compile(r"[:+|();]|[^:+|();]+")
_SOURCE = re.compile(rf"(?P<rest>.*?\S)\s+(?P<word>{'|'.join(SOURCE_WORDS)})\s*", re.IGNORECASE | re.DOTALL)
_TOLERANCE = re.compile(r"(?P<rest>.*?)(?P<percent>[0-9]+(?:[.,][0-9]+)?\s*%)\s*", re.DOTALL)
# The kinds that a bare value in their unit does not stand for are said.
_SAID = [kind for kind in KINDS.values() if kind.example]
_OTHER = re.compile(
    rf"(?P<open>open\s+)?(?P<kind>{'|'.join(kind.word for kind in _SAID)})(?P<values>(?:\s+[0-9.]\S*)*)"
    rf"(?P<own>(?:\s+(?:{'|'.join(stated.keyword for kind in _SAID for stated in kind.states if stated.keyword)})"
    r"\s+\S+)*)(?:\s+set\s+(?P<set>\S+))?",
    re.IGNORECASE,
)
_POT = re.compile(
    rf"(?:(?P<name>[^=]+)=)?\s*{potentiometer.WORD}\s+(?P<whole>\S+)\s+at\s+(?P<lower>\S+)\s*", re.IGNORECASE
)
Read = TypeVar("Read")
NAME = re.compile(r"[A-Za-z][A-Za-z0-9_']{0,19}")


class NotationError(Refused):
    """The line is no circuit. `start` and `end` are the places of the characters that are wrong."""

    def __init__(self, message: str, start: int, end: int) -> None:
        super().__init__(message)
        self.start = start
        self.end = end


def read(line: str, title: str = "Circuit") -> Sheet:
    """The circuit of a line, as a sheet with one setup that asks for nothing. Raises `NotationError`.

    Examples
    --------
    >>> sheet = read("9V: 1k + (2k2 | 3k3)")
    >>> sheet.setups["main"].connections["R3"], sheet.parts["R2"].nominal.text
    (('B', 'gnd'), '2k2')
    """
    if len(line) > LONGEST_LINE:
        raise NotationError(
            say("circuit.line_longer_than_characters", longest_line=LONGEST_LINE), LONGEST_LINE, len(line)
        )
    reader = _LineReader(line)
    source, whole = reader.circuit()
    connect = _Connector()
    top = connect.node()
    connect.connections[source.name] = (top, REFERENCE)
    connect.place(whole, top, REFERENCE)
    setup = Setup(
        SETUP,
        REFERENCE,
        connect.connections,
        values=reader.settings,
        open=frozenset(reader.opened),
        temperature=reader.temperature,
    )
    return Sheet(title, {source.name: source, **reader.parts}, {SETUP: setup}, potentiometers=reader.potentiometers)


def write(sheet: Sheet, setup: Setup) -> str | None:
    """The line that draws a setup; None when it is no series-parallel circuit of one source, or has other names.

    Examples
    --------
    >>> sheet = read("9V: 1k + (2k2 | R9=3k3 1%); 5%")
    >>> write(sheet, sheet.setups["main"])
    '9V: 1k + (2k2 | R9=3k3 1%); 5%'
    """
    try:
        source, whole = series_parallel.tree_of_source(setup, sheet.parts)
    except series_parallel.NotSeriesParallelError:
        return None
    if not all(map(NAME.fullmatch, setup.connections)):
        return None
    both = sheet.potentiometers
    halves = {upper: name for name, (upper, lower) in both.items() if _is_one(upper, lower, whole, setup)}
    hidden = {half for name in halves.values() for half in both[name]}
    if any(half in setup.connections and half not in hidden for pair in both.values() for half in pair):
        return None  # its slider is joined to something else
    passive = [sheet.parts[leaf.part] for leaf in series_parallel.leaves(whole) if leaf.part not in hidden]
    resistors = [part for part in passive if part.kind.has_bands]
    stated = [part.tolerance.text for part in resistors if part.tolerance]
    usual = max(stated, key=stated.count) if stated and len(stated) == len(resistors) else ""
    usual_names = dict(_usual_names(passive))

    def item(part: Part) -> str:
        name = "" if usual_names.get(part.name, f"{part.kind.letter}1") == part.name else f"{part.name}="
        is_usual = part.kind.has_bands and part.tolerance and part.tolerance.text == usual
        tolerance = f" {part.tolerance.text}" if part.tolerance and not is_usual else ""
        return f"{name}{_stated(part, setup)}{tolerance}"

    def pot(name: str) -> str:
        lower = both[name][1]
        usual_name = f"{potentiometer.LETTER}{list(both).index(name) + 1}"
        nominal = sheet.parts[lower].nominal
        said = f"{potentiometer.WORD} {nominal.text if nominal else UNMARKED} at {setup.values[lower].text}"
        return said if name == usual_name else f"{name}={said}"

    def text(part: Tree, inside: bool = False) -> str:
        if isinstance(part, Leaf):
            return pot(halves[part.part]) if part.part in halves else item(sheet.parts[part.part])
        members = [one for one in part.members if not (isinstance(one, Leaf) and one.part in hidden - set(halves))]
        joined = (" | " if isinstance(part, Parallel) else " + ").join(text(member, True) for member in members)
        return f"({joined})" if inside and isinstance(part, Parallel) else joined

    driving = sheet.parts[source]
    if driving.nominal is None:
        return None
    unit = driving.kind.unit
    named = item(replace(driving, nominal=replace(driving.nominal, text=with_unit(driving.nominal, unit))))
    behind = [*([usual] if usual else []), *([with_unit(setup.temperature, CELSIUS)] if setup.temperature else [])]
    return "; ".join((f"{named}: {text(whole)}", *behind))


def _is_one(upper: str, lower: str, whole: Tree, setup: Setup) -> bool:
    """Whether both parts of a potentiometer follow each other in a tree, and one is set and not the other's."""
    order = [leaf.part for leaf in series_parallel.leaves(whole)]
    if upper not in order or lower not in order or order.index(lower) != order.index(upper) + 1:
        return False
    slider = setup.connections[upper][1]
    joined = [name for name, leads in setup.connections.items() if slider in leads]
    return joined == [upper, lower] and lower in setup.values


def _usual_names(parts: Iterable[Part]) -> Iterator[tuple[str, str]]:
    """What parts are called where nothing is said: counted by what their names begin with."""
    counted: dict[str, int] = {}
    for part in parts:
        counted[part.kind.letter] = counted.get(part.kind.letter, 0) + 1
        yield part.name, f"{part.kind.letter}{counted[part.kind.letter]}"


def _stated(part: Part, setup: Setup) -> str:
    """A part's value as an item says it, with its kind where the value alone does not say that."""
    value = part.nominal.text if part.nominal else UNMARKED
    if kind_of_unit(part.kind.unit) is part.kind:
        return f"{value} {part.source}" if part.source else value
    words = ["open"] if part.name in setup.open else []
    words.append(part.kind.word)
    if part.kind.is_wire:
        return " ".join(words)
    if part.nominal:
        words.append(with_unit(part.nominal, part.kind.unit) if part.kind.is_nonlinear else part.nominal.text)
    words += [with_unit(part.current, AMPERE)] if part.current else []
    for stated in part.kind.states:
        quantity = part.stated(stated.name) if stated.keyword else None
        words += [stated.keyword, quantity.text] if quantity else []
    words += ["set", setup.values[part.name].text] if part.name in setup.values else []
    return " ".join(words)


@dataclass(frozen=True)
class _Item:
    part: str


@dataclass(frozen=True)
class _Group:
    members: "tuple[_Item | _Group, ...]"
    side_by_side: bool


@dataclass
class _Connector:
    """Gives every part of a group its two nodes, naming new ones A, B, C … as they are met."""

    connections: dict[str, Leads] = field(default_factory=dict)
    named: int = 0

    def node(self) -> str:
        self.named += 1
        return chr(64 + self.named) if self.named <= 26 else f"N{self.named}"

    def place(self, group: _Item | _Group, start: str, end: str) -> None:
        if isinstance(group, _Item):
            self.connections[group.part] = (start, end)
        elif group.side_by_side:
            for member in group.members:
                self.place(member, start, end)
        else:
            for k, member in enumerate(group.members):
                after = end if k == len(group.members) - 1 else self.node()
                self.place(member, start, after)
                start = after


@dataclass
class _LineReader:
    """Recursive descent over the tokens; `at` counts tokens, and each knows its place in the line."""

    line: str
    at: int = 0
    depth: int = 0
    parts: dict[str, Part] = field(default_factory=dict)
    settings: dict[str, Quantity] = field(default_factory=dict)
    opened: set[str] = field(default_factory=set)
    potentiometers: dict[str, tuple[str, str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.line = _PARALLEL.sub(lambda match: f"{'|':{len(match.group())}}", self.line)
        self.tokens = [(match.group(), match.start()) for match in _TOKEN.finditer(self.line) if match.group().strip()]
        self.source = ""
        self.usual: Quantity | None = None
        self.temperature: Quantity | None = None
        self._read_behind_semicolons()

    def circuit(self) -> tuple[Part, _Item | _Group]:
        """The source and the group behind the colon."""
        if not any(piece == ":" for piece, _ in self.tokens):
            raise NotationError(say("circuit.write_source_before_colon"), 0, len(self.line))
        source = self._source()
        self._expect(":", say("circuit.colon_follows_source_in"))
        whole = self._side_by_side()
        if self._peek() is not None:
            piece, start = self.tokens[self.at]
            text = say("circuit.closing_parenthesis_no_opening" if piece == ")" else "circuit.write_plus_or_bar")
            raise NotationError(text, start, start + len(piece))
        return source, whole

    def _read_behind_semicolons(self) -> None:
        """The tolerance of all resistors that state none, and the temperature; each perhaps, in any order."""
        at = next((k for k, (piece, _) in enumerate(self.tokens) if piece == ";"), len(self.tokens))
        marks, texts = self.tokens[at::2], self.tokens[at + 1 :: 2]
        del self.tokens[at:]
        wrong = NotationError(say("circuit.after_semicolon_stands_one"), len(self.line) - 1, len(self.line))
        if len(marks) != len(texts) or any(mark != ";" for mark, _ in marks):
            raise wrong
        for token, start in texts:
            if "%" in token and self.usual is None:
                self.usual = _located(partial(parse_percent, token.strip()), token, start)
            elif "%" not in token and self.temperature is None:
                self.temperature = _located(partial(read_temperature, token), token, start)
            else:
                raise wrong

    def _peek(self) -> str | None:
        return self.tokens[self.at][0].strip() if self.at < len(self.tokens) else None

    def _expect(self, wanted: str, message: str) -> None:
        if self._peek() != wanted:
            start = self.tokens[self.at][1] if self.at < len(self.tokens) else len(self.line)
            raise NotationError(message, start, max(start + 1, len(self.line)))
        self.at += 1

    def _side_by_side(self) -> _Item | _Group:
        return self._joined("|", self._in_series, True)

    def _in_series(self) -> _Item | _Group:
        return self._joined("+", self._member, False)

    def _joined(self, sign: str, member: Callable[[], "_Item | _Group"], side_by_side: bool) -> _Item | _Group:
        members = self._flat(member(), side_by_side)
        while self._peek() == sign:
            self.at += 1
            members += self._flat(member(), side_by_side)
        return members[0] if len(members) == 1 else _Group(tuple(members), side_by_side)

    @staticmethod
    def _flat(member: "_Item | _Group", side_by_side: bool) -> "list[_Item | _Group]":
        """Members of a member of the same kind are members."""
        if isinstance(member, _Group) and member.side_by_side is side_by_side:
            return list(member.members)
        return [member]

    def _member(self) -> _Item | _Group:
        if self._peek() == "(":
            opened = self.tokens[self.at][1]
            self.at += 1
            self.depth += 1
            if self.depth > MOST_PARTS:
                raise NotationError(
                    say("circuit.more_than_parentheses_stand", most_parts=MOST_PARTS), opened, opened + 1
                )
            group = self._side_by_side()
            self.depth -= 1
            if self._peek() != ")":
                raise NotationError(say("circuit.parenthesis_not_closed"), opened, opened + 1)
            self.at += 1
            return group
        token, start = self._word(say("circuit.here_resistor_missing"))
        if match := _POT.fullmatch(token):
            return self._potentiometer(match, token, start)
        part = self._part(token, start, OHM)
        self._add(part, token, start)
        return _Item(part.name)

    def _add(self, part: Part, token: str, start: int) -> None:
        if part.name in self.parts or part.name == self.source:
            raise NotationError(say("circuit.two_parts_named", part=part.name), start, start + len(token))
        if len(self.parts) == MOST_PARTS:
            raise NotationError(say("circuit.circuit_at_most_parts", most_parts=MOST_PARTS), start, len(self.line))
        self.parts[part.name] = part

    def _potentiometer(self, match: re.Match[str], token: str, start: int) -> _Group:
        """Both parts of a potentiometer in series; the node between them is its slider."""
        name = (match["name"] or f"{potentiometer.LETTER}{len(self.potentiometers) + 1}").strip()
        if not NAME.fullmatch(name):
            raise NotationError(say("circuit.no_name_names_begin", name=name[:20]), start, start + len(token))
        whole, lower = (_located(partial(positive, match[key], OHM), token, start) for key in ("whole", "lower"))
        for part in potentiometer.two_parts(name, whole, self.usual).values():
            self._add(part, token, start)
        self.settings |= _located(partial(potentiometer.settings, name, lower, whole), token, start)
        self.potentiometers[name] = potentiometer.halves_called(name)
        return _Group(tuple(map(_Item, self.potentiometers[name])), side_by_side=False)

    def _word(self, missing: str) -> tuple[str, int]:
        if self.at >= len(self.tokens) or self.tokens[self.at][0] in ":+|()":
            start = self.tokens[self.at][1] if self.at < len(self.tokens) else len(self.line)
            raise NotationError(missing, start, start + 1)
        self.at += 1
        return self.tokens[self.at - 1]

    def _source(self) -> Part:
        token, start = self._word(say("circuit.source_missing_in_9v"))
        part = self._part(token, start, None)
        if not part.kind.is_source:
            raise NotationError(say("circuit.source_needs_unit_or"), start, start + len(token))
        self.source = part.name
        return part

    def _part(self, token: str, start: int, unit: str | None) -> Part:
        said = _part(token, start, unit)
        part = said.part
        alike = [other for other in self.parts.values() if other.kind.letter == part.kind.letter]
        tolerance = part.tolerance or (self.usual if part.kind.has_bands and part.nominal else None)
        part = replace(part, name=part.name or f"{part.kind.letter}{len(alike) + 1}", tolerance=tolerance)
        if said.setting:
            self.settings[part.name] = said.setting
        if said.open:
            self.opened.add(part.name)
        return part


def read_part(text: str) -> Part:
    """One part as a line writes it: ``470``, ``9V``, ``?``, ``R7=1k 5%``; its name is empty where none is said.

    Raises `NotationError`.

    Examples
    --------
    >>> part = read_part("Rx=2k2 5%")
    >>> part.name, part.kind.word, part.nominal.text, part.tolerance.text
    ('Rx', 'resistor', '2k2', '5%')
    """
    said = _part(text, 0, None)
    if said.setting or said.open:
        raise NotationError(say("circuit.what_set_said_setup"), 0, len(text))
    return said.part


class _Said(NamedTuple):
    """A part, and what its item says of the setup."""

    part: Part
    setting: Quantity | None = None
    open: bool = False


def _part(token: str, start: int, unit: str | None) -> _Said:
    text, tolerance, name = token, None, ""
    stated = _TOLERANCE.fullmatch(token)
    if stated:
        text = stated["rest"]
        tolerance = _located(lambda: parse_percent(stated["percent"]), token, start)
    if "=" in text:
        name, text = (piece.strip() for piece in text.split("=", 1))
        if not NAME.fullmatch(name):
            raise NotationError(say("circuit.no_name_names_begin", name=name[:20]), start, start + len(token))
    if text.strip() == UNMARKED and unit in (OHM, None):
        return _Said(Part(name, RESISTOR))
    source = _SOURCE.fullmatch(text)
    text = source["rest"] if source else text
    if match := _OTHER.fullmatch(text.strip()):
        said = _located(lambda: _other(name, match), token, start)
        return said._replace(part=replace(said.part, tolerance=tolerance))
    value = _located(lambda: positive(text.strip(), unit), token, start)
    kind = kind_of_unit(value.unit or OHM)
    if kind is None:
        *units, last = dict.fromkeys(kind.unit for kind in KINDS.values())
        raise NotationError(
            say("circuit.part_stated_in_or", units=", ".join(units), last=last), start, start + len(token)
        )
    if source and not kind.is_source:
        raise NotationError(say("circuit.only_source_is_battery"), start, start + len(token))
    return _Said(Part(name, kind, value, tolerance, source=SOURCE_WORDS[source["word"].lower()] if source else None))


def _other(name: str, match: re.Match[str]) -> _Said:
    """A part that says what it is. Raises `QuantityError`."""
    kind = kind_called(match["kind"].lower())
    texts = match["values"].split()
    values = [positive(text, unit) for text, unit in zip(texts, (kind.unit, AMPERE), strict=False)]
    room = 0 if kind.is_wire else 2 if kind.is_nonlinear else 1
    if len(texts) > room or (match["open"] and not kind.can_open):
        raise QuantityError(say("circuit.written", word=kind.word, examples=kind.example))
    own = {stated.keyword: stated for stated in kind.states if stated.keyword}
    said = match["own"].lower().split()
    if not own.keys() >= set(said[::2]) or (match["set"] and not kind.adjustable_value):
        raise QuantityError(say("circuit.written", word=kind.word, examples=kind.example))
    pairs = zip(said[::2], match["own"].split()[1::2], strict=True)
    stated: dict[str, Any] = {own[word].name: positive(text, own[word].unit) for word, text in pairs}
    setting = positive(match["set"], OHM) if match["set"] else None
    nominal, current = (*values, None, None)[:2]
    return _Said(Part(name, kind, nominal, current=current, **stated), setting, bool(match["open"]))


def _located(read_one: Callable[[], Read], token: str, start: int) -> Read:
    """Turn a quantity's error into one at its place in the line."""
    try:
        return read_one()
    except QuantityError as error:
        lead = len(token) - len(token.lstrip())
        raise NotationError(str(error), start + lead, start + len(token.rstrip())) from None
