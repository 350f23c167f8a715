"""A change of the circuit, as it is typed: ``R2=500``, ``R3 open``, ``R4 1k | R2``, ``load RL 470``, ``V1=6.2``.

Typed where one types where the probes go, in the signs of a circuit in one line. What would be both, a place and a
change, is neither until it is written so that it can only be one.
"""

import re
from dataclasses import dataclass
from enum import StrEnum

from recensor.core.circuit import KINDS, NAME, Part, Setup, Sheet, one_of
from recensor.core.editing import colour_words
from recensor.core.entries.location import PlaceError, named
from recensor.core.sentences import Sentence, say

_BESIDE = re.compile(r"(?P<one>[^|+/∥]+?)\s*(?P<sign>\|\|?|//|∥|\+)\s*(?P<other>[^|+/∥]+?)")
_BRINGS = re.compile(r"[=|+/∥]")
_BECOMES = re.compile(r"(?P<part>[^=]+?)\s*=\s*(?P<what>[^=]+)")
_STATE = re.compile(r"(?P<part>\S.*?)\s+(?P<what>[A-Za-z]+)")


class ChangeKind(StrEnum):
    """What happens to a part."""

    EXCHANGE = "exchange"
    PARALLEL = "parallel"
    SERIES = "series"
    OUT = "out"
    SHORT = "short"
    SET = "set"
    OPEN = "open"
    CLOSE = "close"
    OFF = "off"
    ON = "on"
    IN = "in"


# The words behind a part's name that change it.
_WORDS = {
    "open": ChangeKind.OUT,
    "out": ChangeKind.OUT,
    "wire": ChangeKind.SHORT,
    "short": ChangeKind.SHORT,
    "shorted": ChangeKind.SHORT,
    "closed": ChangeKind.CLOSE,
    "close": ChangeKind.CLOSE,
    "off": ChangeKind.OFF,
    "on": ChangeKind.ON,
}

# A load that is connected, perhaps with its value; a part that goes back where it was.
_LOAD = re.compile(r"load\s+(?P<part>\S+?)(?:\s*[\s=]\s*(?P<value>\S.*))?", re.IGNORECASE)
_BACK = re.compile(r"(?P<part>\S+)\s+(?:in|back)", re.IGNORECASE)  # fmt: skip


@dataclass(frozen=True)
class TypedChange:
    """What happens to a part of the circuit, and by what where it needs something."""

    kind: ChangeKind
    part: str
    what: str = ""

    @property
    def words(self) -> Sentence:
        """The change in a sentence."""
        if self.kind is ChangeKind.IN:
            return say("entries.change_in", part=f"{self.part} {self.what}".strip())
        return say(f"entries.change_{self.kind}", part=self.part, what=self.what)

    @property
    def short(self) -> str:
        """The change in as few words as a circuit's name has room for."""
        said = {
            ChangeKind.EXCHANGE: f"{self.part} = {self.what}",
            ChangeKind.SET: f"{self.part} at {self.what}",
            ChangeKind.IN: f"{self.part} {self.what}".strip(),
        }
        return said.get(self.kind, f"{self.part} {self.kind.value}")

    @property
    def typed(self) -> str:
        """The change of a part's state as one types it, in the first word that means it."""
        return f"{self.part} {next(word for word, kind in _WORDS.items() if kind is self.kind)}"


def typed_change(text: str, sheet: Sheet, setup: Setup) -> TypedChange | None:
    """The change of a setup that a text means; None where it is none. What it brings is not looked at yet.

    Raises `PlaceError` where the text names a place too, or no part of the setup.

    Examples
    --------
    >>> from recensor.core.circuit import one_line
    >>> sheet = one_line.read("9V: 1k + (2k2 | 3k3)")
    >>> for text in ("R2=500", "r3 open", "R3 wire", "R4 1k || R2", "V1=6.2", "B C"):
    ...     change = typed_change(text, sheet, sheet.setup())
    ...     print(change and (change.kind.value, change.part, change.what))
    ('exchange', 'R2', '500')
    ('out', 'R3', '')
    ('short', 'R3', '')
    ('parallel', 'R2', 'R4=1k')
    ('set', 'V1', '6.2')
    None
    """
    typed = _with_values(text.strip())
    found = (
        _beside(typed, setup)
        or _put_in(typed, sheet, setup)
        or _becomes(typed, sheet, setup)
        or _in_state(typed, sheet, setup)
    )
    if found and named(typed, sheet, setup):
        place, change = ", ".join(typed.split()), "=".join(typed.rsplit(None, 1))
        raise PlaceError(say("entries.place_or_change", typed=typed, place=place, change=change))
    return found


def _with_values(typed: str) -> str:
    """What is on a part that is brought, its bands or letters, as its value; what they leave open stays as it is."""
    if not _BRINGS.search(typed):
        return typed
    spoken = colour_words.of_parts(typed)
    return typed if spoken.maybe else spoken.line


def _beside(typed: str, setup: Setup) -> TypedChange | None:
    """A new part in parallel with one that is there, or in series behind it, whichever of the two is typed first."""
    match = _BESIDE.fullmatch(typed)
    if match is None:
        return None
    kind = ChangeKind.SERIES if match["sign"] == "+" else ChangeKind.PARALLEL
    for part, new in ((match["other"], match["one"]), (match["one"], match["other"])):
        there = one_of(setup.connections, part)
        if there and one_of(setup.connections, new):
            raise PlaceError(say("entries.both_are_there", one=there, other=one_of(setup.connections, new)))
        if there:
            return TypedChange(kind, there, _named(new))
    raise PlaceError(say("entries.neither_is_there", one=match["one"], other=match["other"]))


def _named(new: str) -> str:
    """A new part as a line writes it: ``R4 1k`` is ``R4=1k``."""
    first, _, rest = new.partition(" ")
    is_name = NAME.fullmatch(first) and first.lower() not in KINDS and "=" not in new and rest
    return f"{first}={rest.strip()}" if is_name else new


def _put_in(typed: str, sheet: Sheet, setup: Setup) -> TypedChange | None:
    """A load that is connected, or a part that goes back where it was; of one that is there, its other value."""
    match = _LOAD.fullmatch(typed)
    value = match["value"] or "" if match else ""
    match = match or _BACK.fullmatch(typed)
    if match is None:
        return None
    part = one_of(sheet.parts, match["part"]) or match["part"]
    if part in setup.connections and value:
        return TypedChange(ChangeKind.EXCHANGE, part, value)
    if not value and part not in sheet.parts:
        raise PlaceError(say("entries.no_part_to_change", part=part[:40]))
    return TypedChange(ChangeKind.IN, part, value)


def _becomes(typed: str, sheet: Sheet, setup: Setup) -> TypedChange | None:
    """Another part in the place of one, or another setting."""
    match = _BECOMES.fullmatch(typed)
    if match is None:
        return None
    slider = one_of(sheet.potentiometers, match["part"].strip())
    part = sheet.potentiometers[slider][1] if slider else one_of(setup.connections, match["part"].strip())
    if not part:
        raise PlaceError(say("entries.no_part_to_change", part=match["part"].strip()[:40]))
    what = match["what"].strip()
    if kind := _kind_of(what, sheet.parts[part]):
        return TypedChange(kind, part)
    is_set = sheet.parts[part].kind.is_source or sheet.parts[part].kind.adjustable_value
    return TypedChange(ChangeKind.SET if is_set else ChangeKind.EXCHANGE, part, what)


def _in_state(typed: str, sheet: Sheet, setup: Setup) -> TypedChange | None:
    """A part that is taken out, shorted, opened, closed, or switched off or on."""
    match = _STATE.fullmatch(typed)
    part = one_of(setup.connections, match["part"]) if match else ""
    kind = _kind_of(match["what"], sheet.parts[part]) if match and part else None
    return TypedChange(kind, part) if kind else None


def _kind_of(word: str, part: Part) -> ChangeKind | None:
    """What a word makes of a part: an open switch is not taken out."""
    kind = _WORDS.get(word.lower())
    return ChangeKind.OPEN if kind is ChangeKind.OUT and part.kind.can_open and word.lower() == "open" else kind
