"""The run document: format ``recensor.run``, version 1, open JSON.

Values are strings as a person types them, so that digits survive. Unknown keys are errors that
name them, and every error names its place, such as ``readings[3].across``. Keys that begin with ``x-`` are ignored.
"""

import json
import re
from collections.abc import Iterator, Mapping
from typing import Any

from recensor.core import record
from recensor.core.circuit import RecordError, Sheet, Target
from recensor.core.meters import Profile
from recensor.core.quantity import Quantity
from recensor.core.record import (
    Claim,
    ClaimOperation,
    DisagreementAnswer,
    DisagreementReason,
    Happening,
    Light,
    Reading,
    Run,
    Seen,
    Signature,
    SignedAs,
    Strike,
)
from recensor.formats.documents.board import EXTENSION, board_tree, placements_tree, read_boards
from recensor.formats.documents.potentiometer import as_one
from recensor.formats.documents.profile import profile_tree, read_profile
from recensor.formats.documents.reader import DocumentError, DocumentPlace, load, said
from recensor.formats.documents.sheet import (
    TARGET_KEYS,
    comparison_tree,
    handout_tree,
    judge_tree,
    part_tree,
    read_sheet,
    read_target,
    setup_tree,
    sweep_tree,
    target_tree,
    text_of,
)

FORMAT, VERSION = "recensor.run", 1

MOST_READINGS = 250_000


def read(text: str | bytes) -> Run:
    """Read a run document. Raises `DocumentError`."""
    return from_tree(load(text))


def write(run: Run) -> str:
    """Write a run as a document that `read` reads back as the same run."""
    return json.dumps(to_tree(run), ensure_ascii=False, indent=2) + "\n"


def from_tree(tree: object) -> Run:
    """Build a run from the document's JSON tree and check it. Raises `DocumentError`."""
    place = DocumentPlace("", tree)
    document = place.table(
        ("format", "version", "title", "parts", "setups"),
        (
            "judge",
            "readings",
            "claims",
            "meters",
            "asked",
            "rounds",
            "sealed",
            "simulated",
            "placements",
            "sweeps",
            "compare",
            "groups",
            "seen",
            "notes",
            "conclusion",
            "signed",
            "history",
        ),
    )
    if document["format"].value != FORMAT:
        raise document["format"].error(f"must be {FORMAT!r}")
    if type(document["version"].value) is not int or document["version"].value != VERSION:
        raise document["version"].error(f"this program reads version {VERSION}")
    sheet, more = read_sheet(document), place.extensions()
    boards = DocumentPlace(EXTENSION, more[EXTENSION]) if EXTENSION in more else None
    meters = {name: read_profile(item) for name, item in document["meters"].named()} if "meters" in document else {}
    run = Run(
        sheet=sheet,
        readings=tuple(Readings(sheet, meters).read(document["readings"])) if "readings" in document else (),
        claims=tuple(_claim(item, sheet) for item in document["claims"].items()) if "claims" in document else (),
        meters=meters,
        simulated=document["simulated"].boolean() if "simulated" in document else False,
        seen=tuple(_seen(item) for item in document["seen"].items()) if "seen" in document else (),
        boards=read_boards(document["placements"], boards, sheet.parts) if "placements" in document else {},
        notes=document["notes"].prose() if "notes" in document else "",
        conclusion=document["conclusion"].prose() if "conclusion" in document else "",
        signed=tuple(_signature(item) for item in document["signed"].items()) if "signed" in document else (),
        history=tuple(_happening(item) for item in document["history"].items()) if "history" in document else (),
    )
    try:
        record.check(run)
    except RecordError as error:
        raise DocumentError(error.message) from None
    return run


def sheet_from_tree(tree: object) -> Sheet:
    """The sheet of a document's tree, whatever was read on it. Raises `DocumentError`."""
    return from_tree(tree).sheet


def sheet_to_tree(sheet: Sheet) -> dict[str, Any]:
    """A document's tree in which nothing is read."""
    return to_tree(Run(sheet))


def to_tree(run: Run) -> dict[str, Any]:
    """The document's JSON tree; optional keys that say nothing are left out."""
    sheet = run.sheet
    parts, setups, whole, there = as_one(sheet)
    return {
        "format": FORMAT,
        "version": VERSION,
        "title": sheet.title,
        "judge": judge_tree(sheet.judge),
        "parts": {**{name: part_tree(part) for name, part in parts.items()}, **whole},
        "setups": {name: setup_tree(setup, there[name]) for name, setup in setups.items()},
        "readings": [_reading_tree(reading) for reading in run.readings],
        **said(
            claims=[_claim_tree(claim) for claim in run.claims],
            meters={name: profile_tree(profile) for name, profile in run.meters.items()},
            sweeps={name: sweep_tree(sweep) for name, sweep in sheet.sweeps.items()},
            compare=[comparison_tree(comparison) for comparison in sheet.compare],
            groups=[list(group) for group in sheet.groups],
            seen=[{"setup": seen.setup, "part": seen.part, "as": seen.light.value} for seen in run.seen],
            asked=[_asked_tree(target, sheet) for target in sheet.asked],
            rounds=sheet.rounds if sheet.rounds > 1 else None,
            sealed=sheet.sealed or None,
            simulated=run.simulated or None,
            placements={setup: placements_tree(built) for setup, built in run.boards.items()},
            notes=run.notes or None,
            conclusion=run.conclusion or None,
            history=[_happening_tree(happening) for happening in run.history],
            signed=[_signature_tree(signature) for signature in run.signed],
            **{EXTENSION: {setup: board_tree(built) for setup, built in run.boards.items()}},
        ),
    }


def _asked_tree(target: Target, sheet: Sheet) -> dict[str, Any]:
    return {
        **target_tree(target),
        **said(waived=target.key in sheet.waived or None, predict=target.key in sheet.predicted or None),
        **handout_tree(sheet.handout.get(target.key)),
    }


_READING_KEYS = (
    *TARGET_KEYS, "unit", "range", "meter", "note", "time", "by", "struck", "counted", "later", "instead_of",
    "confirmed", "photos", "contradicts", "round",
)  # fmt: skip


class Readings:
    """The readings of a document, taken with its meters."""

    def __init__(self, sheet: Sheet, meters: Mapping[str, Profile]) -> None:
        self._sheet = sheet
        self._meters = meters
        self._only = next(iter(meters.values())) if len(meters) == 1 else None
        self._known: dict[Target, Target] = {}  # trials share one

    def read(self, place: DocumentPlace) -> Iterator[Reading]:
        """Every reading, in order."""
        for item in place.items(at_most=MOST_READINGS):
            yield self.one(item)

    def one(self, place: DocumentPlace) -> Reading:
        """A reading. Raises `DocumentError`."""
        table = place.table(("value",), _READING_KEYS)
        target = read_target(place, table, self._sheet.parts, self._sheet.potentiometers, self._sheet.setups)
        meter = table["meter"].text(empty=True) if "meter" in table else None
        return Reading(
            target=self._known.setdefault(target, target),
            value=self._value(table, target, meter),
            range=table["range"].number(target.unit) if "range" in table else None,
            meter=meter,
            note=table["note"].text(empty=True) if "note" in table else None,
            time=table["time"].time() if "time" in table else None,
            by=table["by"].text(empty=True) if "by" in table else None,
            struck=_strike(table["struck"]) if "struck" in table else None,
            counted=table["counted"].boolean() if "counted" in table else None,
            later=table["later"].boolean() if "later" in table else False,
            instead_of=table["instead_of"].index() if "instead_of" in table else None,
            confirmed=table["confirmed"].boolean() if "confirmed" in table else False,
            photos=tuple(photo.text() for photo in table["photos"].items()) if "photos" in table else (),
            contradicts=_contradiction(table["contradicts"]) if "contradicts" in table else None,
            round=_round(table["round"]) if "round" in table else None,
        )

    def _value(self, table: Mapping[str, DocumentPlace], target: Target, meter: str | None) -> Quantity:
        """What was typed; what the meter shows beyond its range is over-range, though it may look like a number."""
        profile = self._only if meter is None else self._meters.get(meter)
        beside = table["unit"].text() if "unit" in table else ""
        if profile and table["value"].text().strip() in profile.over_range:
            return Quantity(table["value"].text(), None, None, target.unit, beside=beside)
        return table["value"].quantity(target.unit, beside)


def _round(place: DocumentPlace) -> int:
    if place.index() == 0:
        raise place.error("rounds are counted from 1")
    return place.index()


def _contradiction(place: DocumentPlace) -> DisagreementAnswer:
    table = place.table(("with", "answer"))
    return DisagreementAnswer(table["with"].index(), table["answer"].member(DisagreementReason))


def _signature(place: DocumentPlace) -> Signature:
    table = place.table(("by", "as", "checksum"), ("time",))
    checksum = table["checksum"].text()
    if not re.fullmatch(r"[0-9a-f]{64}", checksum):
        raise table["checksum"].error("must be 64 hexadecimal digits, of SHA-256")
    time = table["time"].time() if "time" in table else None
    return Signature(table["by"].text(), table["as"].member(SignedAs), checksum, time)


def _signature_tree(signature: Signature) -> dict[str, Any]:
    time = signature.time.isoformat() if signature.time else None
    return {"by": signature.by, "as": signature.signed_as.value, "checksum": signature.checksum, **said(time=time)}


def _happening(place: DocumentPlace) -> Happening:
    table = place.table(("text",), ("by", "time"))
    by = table["by"].text() if "by" in table else None
    return Happening(table["text"].prose(), by, table["time"].time() if "time" in table else None)


def _happening_tree(happening: Happening) -> dict[str, Any]:
    return {
        "text": happening.text,
        **said(by=happening.by, time=happening.time.isoformat() if happening.time else None),
    }


def _strike(place: DocumentPlace) -> Strike:
    table = place.table(("reason",), ("by", "time"))
    return Strike(
        reason=table["reason"].text(empty=True),
        by=table["by"].text(empty=True) if "by" in table else None,
        time=table["time"].time() if "time" in table else None,
    )


def _claim(place: DocumentPlace, sheet: Sheet) -> Claim:
    table = place.table(("value",), (*TARGET_KEYS, "unit", "from", "as", "formula"))
    target = read_target(place, table, sheet.parts, sheet.potentiometers, sheet.setups)
    sources = [_source_index(item) for item in table["from"].items()] if "from" in table else []
    if "from" in table and not sources:
        raise table["from"].error("must name at least one reading")
    if ("from" in table) != ("as" in table):
        raise place.error("'from' and 'as' go together")
    return Claim(
        target=target,
        value=table["value"].quantity(target.unit, table["unit"].text() if "unit" in table else ""),
        sources=tuple(sources),
        combined=table["as"].member(ClaimOperation) if "as" in table else None,
        formula=table["formula"].text(empty=True) if "formula" in table else None,
    )


def _seen(place: DocumentPlace) -> Seen:
    table = place.table(("setup", "part", "as"))
    return Seen(table["setup"].text(), table["part"].text(), table["as"].member(Light))


def _source_index(place: DocumentPlace) -> int:
    text = place.text()
    inner = text.removeprefix("readings[").removesuffix("]")
    if text != f"readings[{inner}]" or not inner.isascii() or not inner.isdigit() or len(inner) > 9:
        raise place.error('must name a reading, as in "readings[0]"')
    return int(inner)


def _reading_tree(reading: Reading) -> dict[str, Any]:
    struck, answer = reading.struck, reading.contradicts
    return {
        **target_tree(reading.target),
        "value": reading.value.text,
        **said(
            unit=reading.value.beside or None,
            range=text_of(reading.range),
            meter=reading.meter,
            note=reading.note,
            time=reading.time.isoformat() if reading.time else None,
            by=reading.by,
            struck=said(reason=struck.reason, by=struck.by, time=struck.time.isoformat() if struck.time else None)
            if struck
            else None,
            counted=reading.counted,
            later=reading.later or None,
            instead_of=reading.instead_of,
            confirmed=reading.confirmed or None,
            photos=list(reading.photos),
            contradicts={"with": answer.earlier, "answer": answer.reason.value} if answer else None,
            round=reading.round,
        ),
    }


def _claim_tree(claim: Claim) -> dict[str, Any]:
    sources = [f"readings[{k}]" for k in claim.sources]
    return {
        **target_tree(claim.target),
        "value": claim.value.text,
        **said(**{"from": sources, "as": claim.combined and claim.combined.value, "formula": claim.formula}),
    }
