"""What a circuit in one line is made of: parts as they are written, groups of them, and their places between nodes."""

import re
from collections.abc import Callable, Collection, Iterator
from dataclasses import dataclass, field, replace
from functools import partial
from itertools import count
from typing import Any, NamedTuple, TypeVar

from recensor.core.circuit import potentiometer
from recensor.core.circuit.kinds import KINDS, RESISTOR, Kind, kind_called, kind_of_unit
from recensor.core.circuit.parts import SOURCE_WORDS, Part
from recensor.core.circuit.setup import Leads, read_temperature
from recensor.core.errors import Refused
from recensor.core.quantity import AMPERE, OHM, Quantity, QuantityError, parse_percent, positive
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


@dataclass(frozen=True)
class LinePart:
    part: str


@dataclass(frozen=True)
class LineGroup:
    members: "tuple[LinePart | LineGroup, ...]"
    side_by_side: bool


def _node_called(number: int) -> str:
    """The name of the n-th node: A, B, C … and N27 on."""
    return chr(64 + number) if number <= 26 else f"N{number}"


def free_nodes(taken: Collection[str]) -> Iterator[str]:
    """The names of nodes in their order, but for those that are taken."""
    return (name for number in count(1) if (name := _node_called(number)) not in taken)


@dataclass
class Connector:
    """Gives every part of a group its two nodes, naming new ones A, B, C … as they are met."""

    connections: dict[str, Leads] = field(default_factory=dict)
    named: int = 0

    def node(self) -> str:
        self.named += 1
        return _node_called(self.named)

    def place(self, group: LinePart | LineGroup, start: str, end: str) -> None:
        if isinstance(group, LinePart):
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
class LineReader:
    """Recursive descent over the tokens; `at` counts tokens, and each knows its place in the line."""

    line: str
    at: int = 0
    depth: int = 0
    parts: dict[str, Part] = field(default_factory=dict)
    settings: dict[str, Quantity] = field(default_factory=dict)
    opened: set[str] = field(default_factory=set)
    potentiometers: dict[str, tuple[str, str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if len(self.line) > LONGEST_LINE:
            raise NotationError(
                say("circuit.line_longer_than_characters", longest_line=LONGEST_LINE), LONGEST_LINE, len(self.line)
            )
        self.line = _PARALLEL.sub(lambda match: f"{'|':{len(match.group())}}", self.line)
        self.tokens = [(match.group(), match.start()) for match in _TOKEN.finditer(self.line) if match.group().strip()]
        self.source = ""
        self.usual: Quantity | None = None
        self.temperature: Quantity | None = None
        self._read_behind_semicolons()

    def circuit(self) -> tuple[Part, LinePart | LineGroup]:
        """The source and the group behind the colon."""
        if not any(piece == ":" for piece, _ in self.tokens):
            raise NotationError(say("circuit.write_source_before_colon"), 0, len(self.line))
        source = self._source()
        self._expect(":", say("circuit.colon_follows_source_in"))
        return source, self.whole()

    def whole(self) -> LinePart | LineGroup:
        """Everything that is left, as one group."""
        whole = self._side_by_side()
        if self._peek() is not None:
            piece, start = self.tokens[self.at]
            text = say("circuit.closing_parenthesis_no_opening" if piece == ")" else "circuit.write_plus_or_bar")
            raise NotationError(text, start, start + len(piece))
        return whole

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

    def _side_by_side(self) -> LinePart | LineGroup:
        return self._joined("|", self._in_series, True)

    def _in_series(self) -> LinePart | LineGroup:
        return self._joined("+", self._member, False)

    def _joined(
        self, sign: str, member: Callable[[], "LinePart | LineGroup"], side_by_side: bool
    ) -> LinePart | LineGroup:
        members = self._flat(member(), side_by_side)
        while self._peek() == sign:
            self.at += 1
            members += self._flat(member(), side_by_side)
        return members[0] if len(members) == 1 else LineGroup(tuple(members), side_by_side)

    @staticmethod
    def _flat(member: "LinePart | LineGroup", side_by_side: bool) -> "list[LinePart | LineGroup]":
        """Members of a member of the same kind are members."""
        if isinstance(member, LineGroup) and member.side_by_side is side_by_side:
            return list(member.members)
        return [member]

    def _member(self) -> LinePart | LineGroup:
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
        return self.member(token, start)

    def member(self, token: str, start: int) -> "LinePart | LineGroup":
        """What one word of the line stands for."""
        if match := _POT.fullmatch(token):
            return self._potentiometer(match, token, start)
        part = self.part(token, start, OHM)
        self._add(part, token, start)
        return LinePart(part.name)

    def _add(self, part: Part, token: str, start: int) -> None:
        if part.name in self.parts or part.name == self.source:
            raise NotationError(say("circuit.two_parts_named", part=part.name), start, start + len(token))
        if len(self.parts) == MOST_PARTS:
            raise NotationError(say("circuit.circuit_at_most_parts", most_parts=MOST_PARTS), start, len(self.line))
        self.parts[part.name] = part

    def _potentiometer(self, match: re.Match[str], token: str, start: int) -> LineGroup:
        """Both parts of a potentiometer in series; the node between them is its slider."""
        name = (match["name"] or self.next_potentiometer()).strip()
        if not NAME.fullmatch(name):
            raise NotationError(say("circuit.no_name_names_begin", name=name[:20]), start, start + len(token))
        whole, lower = (_located(partial(positive, match[key], OHM), token, start) for key in ("whole", "lower"))
        for part in potentiometer.two_parts(name, whole, self.usual).values():
            self._add(part, token, start)
        self.settings |= _located(partial(potentiometer.settings, name, lower, whole), token, start)
        self.potentiometers[name] = potentiometer.halves_called(name)
        return LineGroup(tuple(map(LinePart, self.potentiometers[name])), side_by_side=False)

    def _word(self, missing: str) -> tuple[str, int]:
        if self.at >= len(self.tokens) or self.tokens[self.at][0] in ":+|()":
            start = self.tokens[self.at][1] if self.at < len(self.tokens) else len(self.line)
            raise NotationError(missing, start, start + 1)
        self.at += 1
        return self.tokens[self.at - 1]

    def _source(self) -> Part:
        token, start = self._word(say("circuit.source_missing_in_9v"))
        part = self.part(token, start, None)
        if not part.kind.is_source:
            raise NotationError(say("circuit.source_needs_unit_or"), start, start + len(token))
        self.source = part.name
        return part

    def next_name(self, kind: Kind) -> str:
        """What a part is called that has no name: numbered in the order of the line."""
        halves = {half for pair in self.potentiometers.values() for half in pair}
        alike = [name for name, part in self.parts.items() if part.kind.letter == kind.letter and name not in halves]
        return f"{kind.letter}{len(alike) + 1}"

    def next_potentiometer(self) -> str:
        """What a potentiometer is called that has no name."""
        return f"{potentiometer.LETTER}{len(self.potentiometers) + 1}"

    def part(self, token: str, start: int, unit: str | None) -> Part:
        said = _part(token, start, unit)
        part = said.part
        tolerance = part.tolerance or (self.usual if part.kind.has_bands and part.nominal else None)
        part = replace(part, name=part.name or self.next_name(part.kind), tolerance=tolerance)
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
