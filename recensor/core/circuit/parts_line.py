"""A circuit in one line of parts that are there: ``R1 + (R2 | R3)``, ``V2: R1 | R4=1k``.

The signs are those of `one_line`. A name stands for the part that bears it; whatever has a value is a new part, its
name before it as in ``R4=1k`` or ``R4 1k``. Before a colon stands the source; without one it is whichever drives the
circuit that stands on the board.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from recensor.core.circuit import potentiometer, series_parallel
from recensor.core.circuit.kinds import KINDS, Kind
from recensor.core.circuit.line_reader import (
    NAME,
    REFERENCE,
    UNMARKED,
    Connector,
    LineGroup,
    LinePart,
    LineReader,
    NotationError,
)
from recensor.core.circuit.parts import Part, first_free, one_of
from recensor.core.circuit.potentiometer import Halves
from recensor.core.circuit.series_parallel import Leaf, Parallel, Tree
from recensor.core.circuit.setup import Leads
from recensor.core.circuit.sheet import Sheet
from recensor.core.quantity import OHM, Quantity
from recensor.core.sentences import say

_NAMED = re.compile(rf"(?P<name>{NAME.pattern})\s+(?P<value>(?:[0-9.{UNMARKED}]|{'|'.join(KINDS)}).*)", re.IGNORECASE)


@dataclass(frozen=True)
class PartsLine:
    """A circuit as it was typed: `words` is its line with the parts' names, `source` what stands before the colon.

    `connections` lead from the node `top` to the node `bottom`; `new` are the parts that come with it.
    """

    words: str
    source: Part | None
    connections: Mapping[str, Leads]
    top: str
    bottom: str
    new: Mapping[str, Part]
    settings: Mapping[str, Quantity]
    open: frozenset[str]
    potentiometers: Halves


def read(line: str, sheet: Sheet) -> PartsLine:
    """The circuit of a line of parts, some of a sheet. Raises `NotationError`.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> typed = read("r1 + (R2 | R4 470)", one_line.read("9V: 1k + 2k2 + 3k3"))
    >>> typed.words, typed.connections["R4"], typed.new["R4"].nominal.text
    ('R1 + (R2 | R4)', ('B', 'gnd'), '470')
    """
    reader = _PartsReader(line, sheet=sheet)
    source, whole = reader.circuit() if ":" in line else (None, reader.whole())
    connect = Connector()
    top = connect.node()
    connect.place(whole, top, REFERENCE)
    new = {name: part for name, part in reader.parts.items() if name not in sheet.parts}
    if source is not None and source.name not in sheet.parts:
        new = {source.name: source, **new}
    whole_ones = {**sheet.potentiometers, **reader.potentiometers}
    words = write(series_parallel.tree(connect.connections, top, REFERENCE), whole_ones)
    return PartsLine(
        f"{source.name}: {words}" if source else words,
        source,
        connect.connections,
        top,
        REFERENCE,
        new,
        reader.settings,
        frozenset(reader.opened),
        reader.potentiometers,
    )


def write(whole: Tree, potentiometers: Halves | None = None) -> str:
    """A circuit as a line of its parts' names, each potentiometer by its own."""

    def text(part: Tree, *, is_inside: bool = False) -> str:
        if isinstance(part, Leaf):
            return part.part
        side_by_side = isinstance(part, Parallel)
        joined = (" | " if side_by_side else " + ").join(text(member, is_inside=True) for member in part.members)
        return f"({joined})" if is_inside and side_by_side else joined

    line = text(whole)
    for name, (upper, lower) in (potentiometers or {}).items():
        line = line.replace(f"{upper} + {lower}", name)
    return line


def read_new(text: str, sheet: Sheet) -> Part:
    """One new part, ``R4=1k``, ``R4 1k``, ``470`` or ``lamp 6V 50mA``, under a name that is free.

    Raises `NotationError`.
    """
    return _PartsReader(text, sheet=sheet).part(text, 0, None, is_new=True)


def usual_tolerance(sheet: Sheet) -> Quantity | None:
    """The tolerance that most resistors of a sheet have, which a new one has too where it states none."""
    stated = [part.tolerance for part in sheet.parts.values() if part.kind.has_bands and part.tolerance]
    return max(stated, key=stated.count, default=None)


@dataclass
class _PartsReader(LineReader):
    """A reader to which a name of the sheet stands for its part."""

    sheet: Sheet = field(kw_only=True)

    def __post_init__(self) -> None:
        super().__post_init__()
        self.usual = self.usual or usual_tolerance(self.sheet)

    def member(self, token: str, start: int) -> LinePart | LineGroup:
        """A potentiometer of the sheet is both its halves; everything else is a part."""
        name = one_of(self.sheet.potentiometers, token.strip())
        if not name:
            typed = super().member(token, start)
            if self.sheet.parts.keys() & {half for pair in self.potentiometers.values() for half in pair}:
                raise NotationError(say("circuit.part_is_there_already", name=token.strip()), start, start + len(token))
            return typed
        halves = self.sheet.potentiometers[name]
        for half in halves:
            self._add(self.sheet.parts[half], token, start)
        return LineGroup(tuple(map(LinePart, halves)), side_by_side=False)

    def part(self, token: str, start: int, unit: str | None, *, is_new: bool = False) -> Part:
        """A part of the sheet by its name, or a new one. Raises `NotationError`, for a name that is none too."""
        typed, end = token.strip(), start + len(token.rstrip())
        start += len(token) - len(token.lstrip())
        if match := _NAMED.fullmatch(typed):
            typed = f"{match['name']}={match['value']}"
        name, _, value = (piece.strip() for piece in typed.partition("="))
        known = self.sheet.parts.get(one_of(self.sheet.parts, name))
        if known is None:
            if not value and NAME.fullmatch(typed) and typed.lower() not in KINDS:
                raise NotationError(say("circuit.no_such_part_in_hand", name=typed), start, end)
            return super().part(typed, start, unit)
        if is_new or (value and value != (known.nominal.text if known.nominal else UNMARKED)):
            raise NotationError(say("circuit.part_is_there_already", name=known.name), start, end)
        if unit == OHM and known.kind.is_source:
            raise NotationError(say("circuit.source_before_colon", name=known.name), start, end)
        return known

    def next_name(self, kind: Kind) -> str:
        """The next number that neither the sheet nor the line has."""
        return first_free(kind.letter, {*self.sheet.parts, *self.parts})

    def next_potentiometer(self) -> str:
        """The next number that no potentiometer of the sheet or the line has, nor any part."""
        return first_free(potentiometer.LETTER, {*self.sheet.parts, *self.sheet.potentiometers, *self.potentiometers})
