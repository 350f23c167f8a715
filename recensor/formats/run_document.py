"""The run document: format ``recensor.run``, version 1, open JSON.

Values are strings as a person types them, so that digits survive. Unknown keys are errors that
name them, and every error names its place, such as ``readings[3].across``.
"""

import json
from collections.abc import Callable, Mapping
from datetime import datetime
from typing import Any

from recensor.core import record
from recensor.core.circuit import Kind, Part, Setup
from recensor.core.quantity import OHM, WATT, Quantity, QuantityError, parse, parse_percent
from recensor.core.record import QUANTITIES, UNITS, Claim, Judge, Reading, RecordError, Run, Strike, Target

FORMAT, VERSION = "recensor.run", 1
COMBINATIONS = ("sum", "parallel", "ratio")


class DocumentError(ValueError):
    """The document is not valid; the message begins with the place that is wrong."""


def read(text: str | bytes) -> Run:
    """Read a run document. Raises `DocumentError`."""
    try:
        tree = json.loads(text, object_pairs_hook=_unique_keys, parse_constant=_no_constant)
    except RecursionError:
        raise DocumentError("the document is nested too deeply") from None
    except UnicodeDecodeError as error:
        raise DocumentError(f"not UTF-8 text: {error.reason} at byte {error.start}") from None
    except json.JSONDecodeError as error:
        raise DocumentError(f"not JSON: {error.msg} in line {error.lineno}, column {error.colno}") from None
    return from_tree(tree)


def write(run: Run) -> str:
    """Write a run as a document that `read` reads back as the same run."""
    return json.dumps(to_tree(run), ensure_ascii=False, indent=2) + "\n"


def from_tree(tree: object) -> Run:
    """Build a run from the document's JSON tree and check it. Raises `DocumentError`."""
    document = _Place("", tree).table(
        ("format", "version", "title", "parts", "setups"),
        ("judge", "readings", "claims", "meters", "asked", "sealed", "placements"),
    )
    if document["format"].value != FORMAT:
        raise document["format"].error(f"must be {FORMAT!r}")
    if type(document["version"].value) is not int or document["version"].value != VERSION:
        raise document["version"].error(f"this program reads version {VERSION}")
    parts = {name: _part(name, place) for name, place in document["parts"].named()}
    readings = document["readings"].items() if "readings" in document else []
    run = Run(
        title=document["title"].text(empty=True),
        parts=parts,
        setups={name: _setup(name, place, parts) for name, place in document["setups"].named()},
        judge=_judge(document["judge"]) if "judge" in document else Judge(),
        readings=tuple(_reading(place, parts) for place in readings),
        claims=tuple(_claim(place, parts) for place in document["claims"].items()) if "claims" in document else (),
        asked=tuple(_asked(place, parts) for place in document["asked"].items()) if "asked" in document else (),
        sealed=document["sealed"].boolean() if "sealed" in document else None,
        meters={name: _meter(place) for name, place in document["meters"].named()} if "meters" in document else {},
        placements=_placements(document["placements"]) if "placements" in document else {},
    )
    try:
        record.check(run)
    except RecordError as error:
        raise DocumentError(str(error)) from None
    return run


def to_tree(run: Run) -> dict[str, Any]:
    """The document's JSON tree; optional keys that say nothing are left out."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": run.title,
        "judge": {"by": run.judge.by, "limit": run.judge.limit.text, "against": run.judge.against},
        "parts": {name: _part_tree(part) for name, part in run.parts.items()},
        "setups": {name: _setup_tree(setup) for name, setup in run.setups.items()},
        "readings": [_reading_tree(reading) for reading in run.readings],
        **_said(
            claims=[_claim_tree(claim) for claim in run.claims],
            meters=dict(run.meters),
            asked=[target_tree(target) for target in run.asked],
            sealed=run.sealed,
            placements={s: {p: list(holes) for p, holes in placed.items()} for s, placed in run.placements.items()},
        ),
    }


def target_tree(target: Target) -> dict[str, Any]:
    """A target as it stands in a document."""
    across = list(target.across) if target.across else None
    quantity = None if target.of else target.quantity
    return _said(setup=target.setup, quantity=quantity, of=target.of, across=across, through=target.through)


class _Place:
    """A value of the tree together with the path that names it in messages."""

    def __init__(self, path: str, value: object) -> None:
        self.path = path
        self.value = value

    def error(self, message: str) -> DocumentError:
        return DocumentError(f"{self.path or 'the document'}: {message}")

    def _below(self, key: str) -> str:
        return f"{self.path}.{key}" if self.path else key

    def _mapping(self) -> dict[str, Any]:
        if not isinstance(self.value, dict):
            raise self.error("must be an object in braces {…}")
        return self.value

    def named(self) -> list[tuple[str, "_Place"]]:
        """The members of an object whose keys are names."""
        members = self._mapping()
        for name in members:
            if not name.strip() or name != name.strip() or len(name) > 60 or not name.isprintable():
                raise self.error(
                    f"{name[:70]!r} is no usable name: up to 60 printable characters, no spaces around them"
                )
        return [(name, _Place(self._below(name), value)) for name, value in members.items()]

    def table(self, required: tuple[str, ...], optional: tuple[str, ...] = ()) -> dict[str, "_Place"]:
        """The members of an object with fixed keys."""
        members = self._mapping()
        known = (*required, *optional)
        for key in members:
            if key not in known:
                raise DocumentError(f"{self._below(key)}: unknown key; known here: {', '.join(known)}")
        for key in required:
            if key not in members:
                raise DocumentError(f"{self._below(key)}: is missing")
        return {key: _Place(self._below(key), value) for key, value in members.items()}

    def items(self) -> list["_Place"]:
        if not isinstance(self.value, list):
            raise self.error("must be a list in brackets […]")
        return [_Place(f"{self.path}[{k}]", value) for k, value in enumerate(self.value)]

    def text(self, *, empty: bool = False) -> str:
        if not isinstance(self.value, str):
            raise self.error('must be text in quotes, as in "4.7k"')
        if not empty and not self.value.strip():
            raise self.error("must not be empty")
        return self.value

    def choice(self, *choices: str) -> str:
        if self.value not in choices:
            raise self.error(f"must be one of {', '.join(map(repr, choices))}, not {self.value!r}")
        return str(self.value)

    def boolean(self) -> bool:
        if not isinstance(self.value, bool):
            raise self.error("must be true or false")
        return self.value

    def pair(self) -> tuple[str, str]:
        names = [place.text() for place in self.items()]
        if len(names) != 2:
            raise self.error('must name two nodes, as in ["top", "gnd"]')
        return names[0], names[1]

    def quantity(self, unit: str | None, beside: str = "") -> Quantity:
        return self._parsed(lambda text: parse(text, unit, beside))

    def percentage(self) -> Quantity:
        return self._parsed(parse_percent)

    def number(self, unit: str) -> Quantity:
        """A stated quantity: not over-range."""
        quantity = self.quantity(unit)
        if quantity.over_range:
            raise self.error("must be a number, not over-range")
        return quantity

    def time(self) -> datetime:
        try:
            return datetime.fromisoformat(self.text())
        except ValueError:
            raise self.error("must be a time like 2026-03-01T10:15:00+00:00 (ISO 8601)") from None

    def _parsed(self, parser: Callable[[str], Quantity]) -> Quantity:
        try:
            return parser(self.text())
        except QuantityError as error:
            raise self.error(str(error)) from None


def _part(name: str, place: _Place) -> Part:
    table = place.table(("kind",), ("nominal", "tolerance", "rating", "internal"))
    kind = Kind(table["kind"].choice(*(kind.value for kind in Kind)))
    return Part(
        name=name,
        kind=kind,
        nominal=table["nominal"].number(kind.unit) if "nominal" in table else None,
        tolerance=table["tolerance"].percentage() if "tolerance" in table else None,
        rating=table["rating"].number(WATT) if "rating" in table else None,
        internal=table["internal"].number(OHM) if "internal" in table else None,
    )


def _setup(name: str, place: _Place, parts: Mapping[str, Part]) -> Setup:
    table = place.table(("reference", "connections"), ("sources_off", "values"))
    values = {}
    for part_name, value in table["values"].named() if "values" in table else []:
        values[part_name] = value.number(parts[part_name].kind.unit) if part_name in parts else value.quantity(None)
    return Setup(
        name=name,
        reference=table["reference"].text(),
        connections={part: leads.pair() for part, leads in table["connections"].named()},
        sources_off=frozenset(source.text() for source in table["sources_off"].items())
        if "sources_off" in table
        else frozenset(),
        values=values,
    )


def _judge(place: _Place) -> Judge:
    table = place.table((), ("by", "limit", "against"))
    default = Judge()
    return Judge(
        by=table["by"].choice(record.PERCENT, record.UNCERTAINTY) if "by" in table else default.by,
        limit=table["limit"].percentage() if "limit" in table else default.limit,
        against=table["against"].choice(record.MEASURED, record.NOMINAL) if "against" in table else default.against,
    )


_TARGET_KEYS = ("setup", "quantity", "of", "across", "through")


def _target(place: _Place, table: Mapping[str, _Place], parts: Mapping[str, Part]) -> Target:
    named = [key for key in ("of", "across", "through") if key in table]
    if len(named) != 1:
        raise place.error("needs exactly one of 'of', 'across' and 'through'")
    setup = table["setup"].text() if "setup" in table else None
    quantity = table["quantity"].choice(*UNITS) if "quantity" in table else None
    if named == ["of"]:
        of = table["of"].text()
        implied = QUANTITIES[parts[of].kind.unit] if of in parts else record.RESISTANCE
        return Target(quantity or implied, of=of, setup=setup)
    if quantity is None:
        if named == ["across"]:
            raise DocumentError(f"{place.path}.quantity: is missing; say voltage or resistance")
        quantity = record.CURRENT
    if named == ["across"]:
        return Target(quantity, across=table["across"].pair(), setup=setup)
    return Target(quantity, through=table["through"].text(), setup=setup)


def _reading(place: _Place, parts: Mapping[str, Part]) -> Reading:
    table = place.table(("value",), (*_TARGET_KEYS, "unit", "range", "meter", "note", "time", "by", "struck"))
    target = _target(place, table, parts)
    return Reading(
        target=target,
        value=table["value"].quantity(target.unit, table["unit"].text() if "unit" in table else ""),
        range=table["range"].number(target.unit) if "range" in table else None,
        meter=table["meter"].text(empty=True) if "meter" in table else None,
        note=table["note"].text(empty=True) if "note" in table else None,
        time=table["time"].time() if "time" in table else None,
        by=table["by"].text(empty=True) if "by" in table else None,
        struck=_strike(table["struck"]) if "struck" in table else None,
    )


def _strike(place: _Place) -> Strike:
    table = place.table(("reason",), ("by", "time"))
    return Strike(
        reason=table["reason"].text(empty=True),
        by=table["by"].text(empty=True) if "by" in table else None,
        time=table["time"].time() if "time" in table else None,
    )


def _claim(place: _Place, parts: Mapping[str, Part]) -> Claim:
    table = place.table(("value",), (*_TARGET_KEYS, "unit", "from", "as"))
    target = _target(place, table, parts)
    sources = [_source_index(item) for item in table["from"].items()] if "from" in table else []
    if "from" in table and not sources:
        raise table["from"].error("must name at least one reading")
    if ("from" in table) != ("as" in table):
        raise place.error("'from' and 'as' go together")
    return Claim(
        target=target,
        value=table["value"].quantity(target.unit, table["unit"].text() if "unit" in table else ""),
        sources=tuple(sources),
        combined=table["as"].choice(*COMBINATIONS) if "as" in table else None,
    )


def _source_index(place: _Place) -> int:
    text = place.text()
    inner = text.removeprefix("readings[").removesuffix("]")
    if text != f"readings[{inner}]" or not inner.isascii() or not inner.isdigit() or len(inner) > 9:
        raise place.error('must name a reading, as in "readings[0]"')
    return int(inner)


def _asked(place: _Place, parts: Mapping[str, Part]) -> Target:
    return _target(place, place.table((), _TARGET_KEYS), parts)


def _meter(place: _Place) -> object:
    """A profile's name, or an inline profile that is kept as it is."""
    if not isinstance(place.value, str | dict):
        raise place.error("must be a profile's name or a profile in braces {…}")
    return place.value


def _placements(place: _Place) -> dict[str, dict[str, tuple[str, ...]]]:
    return {
        setup: {part: tuple(hole.text() for hole in holes.items()) for part, holes in placed.named()}
        for setup, placed in place.named()
    }


def _part_tree(part: Part) -> dict[str, Any]:
    return {
        "kind": part.kind.value,
        **_said(
            nominal=_text(part.nominal),
            tolerance=_text(part.tolerance),
            rating=_text(part.rating),
            internal=_text(part.internal),
        ),
    }


def _setup_tree(setup: Setup) -> dict[str, Any]:
    return {
        "reference": setup.reference,
        "connections": {part: list(leads) for part, leads in setup.connections.items()},
        **_said(
            sources_off=sorted(setup.sources_off),
            values={name: value.text for name, value in setup.values.items()},
        ),
    }


def _reading_tree(reading: Reading) -> dict[str, Any]:
    struck = reading.struck
    return {
        **target_tree(reading.target),
        "value": reading.value.text,
        **_said(
            unit=reading.value.beside or None,
            range=_text(reading.range),
            meter=reading.meter,
            note=reading.note,
            time=reading.time.isoformat() if reading.time else None,
            by=reading.by,
            struck=_said(reason=struck.reason, by=struck.by, time=struck.time.isoformat() if struck.time else None)
            if struck
            else None,
        ),
    }


def _claim_tree(claim: Claim) -> dict[str, Any]:
    sources = [f"readings[{k}]" for k in claim.sources]
    return {**target_tree(claim.target), "value": claim.value.text, **_said(**{"from": sources, "as": claim.combined})}


def _text(quantity: Quantity | None) -> str | None:
    return quantity.text if quantity else None


def _said(**members: Any) -> dict[str, Any]:
    """The members that say something."""
    return {key: value for key, value in members.items() if value is not None and value != [] and value != {}}


def _unique_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    tree: dict[str, Any] = {}
    for key, value in pairs:
        if key in tree:
            raise DocumentError(f"the key {key!r} stands twice in one object")
        tree[key] = value
    return tree


def _no_constant(name: str) -> None:
    raise DocumentError(f"{name} is not a value; write numbers as text")
