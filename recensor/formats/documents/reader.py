"""A JSON tree read with the place of every value, so that each error names where it stands."""

import json
from collections.abc import Callable, Iterator
from datetime import datetime
from enum import StrEnum
from typing import Any, TypeVar

from recensor.core import lengths
from recensor.core.errors import Refused
from recensor.core.quantity import Quantity, QuantityError, parse, parse_percent

# A document is not longer than this, and no list or table in it without a limit of its own.
MOST_BYTES, MOST_MEMBERS = 64_000_000, 10_000


# Keys of other programs: kept at the top of a document, and ignored everywhere.
IGNORED = "x-"

Chosen = TypeVar("Chosen", bound=StrEnum)


class DocumentError(Refused):
    """The document is not valid; the message begins with the place that is wrong."""


def load(text: str | bytes) -> object:
    """The tree of a JSON text in which no key stands twice and no number is infinite. Raises `DocumentError`."""
    if len(text) > MOST_BYTES:
        raise DocumentError(f"the document is longer than {MOST_BYTES // 1_000_000} million bytes")
    try:
        return json.loads(text, object_pairs_hook=_unique_keys, parse_constant=_no_constant)
    except DocumentError:
        raise
    except RecursionError:
        raise DocumentError("the document is nested too deeply") from None
    except UnicodeDecodeError as error:
        raise DocumentError(f"not UTF-8 text: {error.reason} at byte {error.start}") from None
    except json.JSONDecodeError as error:
        raise DocumentError(f"not JSON: {error.msg} in line {error.lineno}, column {error.colno}") from None
    except ValueError:  # Python reads no whole number of more than some thousand digits
        raise DocumentError("not read: a number has thousands of digits; write numbers as text") from None


def said(**members: Any) -> dict[str, Any]:
    """The members that say something."""
    return {key: value for key, value in members.items() if value is not None and value != [] and value != {}}


class DocumentPlace:
    """A value of the tree together with the path that names it in messages."""

    __slots__ = ("path", "value")

    def __init__(self, path: str, value: object) -> None:
        self.path = path
        self.value = value

    def error(self, message: str) -> DocumentError:
        """What is wrong here."""
        return DocumentError(f"{self.path or 'the document'}: {message}")

    def _below(self, key: str) -> str:
        return f"{self.path}.{key}" if self.path else key

    def _mapping(self) -> dict[str, Any]:
        if not isinstance(self.value, dict):
            raise self.error("must be an object in braces {…}")
        return self.value

    def named(self, at_most: int = MOST_MEMBERS) -> list[tuple[str, "DocumentPlace"]]:
        """The members of an object whose keys are names."""
        members = self._mapping()
        self._check_count(len(members), at_most)
        for name in members:
            self._check_name(name)
        return [(name, DocumentPlace(self._below(name), value)) for name, value in members.items()]

    def name(self) -> str:
        """A name."""
        name = self.text()
        self._check_name(name)
        return name

    def _check_name(self, name: str) -> None:
        if not name.strip() or name != name.strip() or len(name) > lengths.NAME or not name.isprintable():
            words = f"is no usable name: up to {lengths.NAME} printable characters, no spaces around them"
            raise self.error(f"{name[: lengths.NAME + 10]!r} {words}")

    def table(self, required: tuple[str, ...], optional: tuple[str, ...] = ()) -> dict[str, "DocumentPlace"]:
        """The members of an object with fixed keys."""
        members = {key: value for key, value in self._mapping().items() if not key.startswith(IGNORED)}
        known = (*required, *optional)
        for key in members:
            if key not in known:
                raise DocumentError(f"{self._below(key)}: unknown key; known here: {', '.join(known)}")
        for key in required:
            if key not in members:
                raise DocumentError(f"{self._below(key)}: is missing")
        return {key: DocumentPlace(self._below(key), value) for key, value in members.items()}

    def member_called(self, key: str) -> "DocumentPlace":
        """One member of an object. Raises `DocumentError` where it is missing."""
        if key not in self._mapping():
            raise DocumentError(f"{self._below(key)}: is missing")
        return DocumentPlace(self._below(key), self._mapping()[key])

    def items(self, at_most: int = MOST_MEMBERS) -> Iterator["DocumentPlace"]:
        """The members of a list."""
        if not isinstance(self.value, list):
            raise self.error("must be a list in brackets […]")
        self._check_count(len(self.value), at_most)
        return (DocumentPlace(f"{self.path}[{k}]", value) for k, value in enumerate(self.value))

    def _check_count(self, count: int, at_most: int) -> None:
        if count > at_most:
            raise self.error(f"has {count} members; a document has at most {at_most} here")

    def text(self, *, empty: bool = False) -> str:
        """A text."""
        if not isinstance(self.value, str):
            raise self.error('must be text in quotes, as in "4.7k"')
        if not empty and not self.value.strip():
            raise self.error("must not be empty")
        if any("\ud800" <= character <= "\udfff" for character in self.value):
            raise self.error("has half a character in it, which is no text")
        return self.value

    def line(self) -> str:
        """A text of one line, perhaps empty."""
        text = self.text(empty=True)
        if "\0" in text:
            raise self.error("has a character of no meaning in it (NUL)")
        return text

    def prose(self) -> str:
        """A text of several lines, perhaps empty."""
        text = self.text(empty=True)
        if len(text) > lengths.PROSE:
            raise self.error(f"is longer than {lengths.PROSE} characters")
        return text

    def choice(self, *choices: str) -> str:
        """One of these words."""
        if self.value not in choices:
            raise self.error(f"must be one of {', '.join(map(repr, choices))}, not {self.value!r}")
        return str(self.value)

    def whole(self, *choices: int) -> int:
        """One of these numbers."""
        if type(self.value) is not int or self.value not in choices:
            raise self.error(f"must be one of {', '.join(map(str, choices))}")
        return self.value

    def index(self) -> int:
        """A place in a list, counted from 0."""
        if type(self.value) is not int or not 0 <= self.value < 10**9:
            raise self.error("must be a place in a list, counted from 0")
        return self.value

    def boolean(self) -> bool:
        """True or false."""
        if not isinstance(self.value, bool):
            raise self.error("must be true or false")
        return self.value

    def three(self) -> tuple[str, str, str]:
        """Three names."""
        names = [place.name() for place in self.items()]
        if len(names) != 3:
            raise self.error('must name three nodes, as in ["top", "slider", "gnd"]')
        return names[0], names[1], names[2]

    def pair(self) -> tuple[str, str]:
        """Two names."""
        names = [place.name() for place in self.items()]
        if len(names) != 2:
            raise self.error('must name two nodes, as in ["top", "gnd"]')
        return names[0], names[1]

    def quantity(self, unit: str | None, beside: str = "") -> Quantity:
        """A quantity, perhaps over-range."""
        return self._parsed(lambda text: parse(text, unit, beside))

    def percentage(self) -> Quantity:
        """A percentage."""
        return self._parsed(parse_percent)

    def number(self, unit: str) -> Quantity:
        """A stated quantity: not over-range."""
        quantity = self.quantity(unit)
        if quantity.over_range:
            raise self.error("must be a number, not over-range")
        return quantity

    def time(self) -> datetime:
        """A point in time."""
        try:
            return datetime.fromisoformat(self.text())
        except ValueError:
            raise self.error("must be a time like 2026-03-01T10:15:00+00:00 (ISO 8601)") from None

    def member(self, choices: type[Chosen]) -> Chosen:
        """A member of a vocabulary."""
        try:
            return choices(self.text())
        except ValueError:
            return choices(self.choice(*(choice.value for choice in choices)))

    def extensions(self) -> dict[str, Any]:
        """The members that other programs put in: kept, and ignored."""
        return {key: value for key, value in self._mapping().items() if key.startswith(IGNORED)}

    def _parsed(self, parser: Callable[[str], Quantity]) -> Quantity:
        try:
            return parser(self.text())
        except QuantityError as error:
            raise self.error(str(error)) from None


def _unique_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    tree: dict[str, Any] = {}
    for key, value in pairs:
        if key in tree:
            raise DocumentError(f"the key {key!r} stands twice in one object")
        tree[key] = value
    return tree


def _no_constant(name: str) -> None:
    raise DocumentError(f"{name} is not a value; write numbers as text")
