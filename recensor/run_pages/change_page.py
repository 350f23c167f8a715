"""The page on which a running run is changed: its parts, its states, and all that was done to it."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from django.db.models import QuerySet

from recensor.core.circuit import Part, Rule
from recensor.people.requests import SignedIn
from recensor.runs.models import ActRow, RunRow, SignatureRow
from recensor.runs.queries import RunSnapshot
from recensor.runs.services.change_circuit import CHANGES
from recensor.web.drawings import of_setup
from recensor.web.part_fields import PartField, part_fields


@dataclass(frozen=True)
class PartFields:
    """A part as it is stated, to be said better: the name that it has, and the fields that its kind has."""

    part: str
    fields: tuple[PartField, ...]
    adjustable: bool
    is_source: bool


@dataclass(frozen=True)
class Happened:
    """One thing that was done to the run, for its history."""

    when: datetime
    who: str
    what: str
    kind: str
    act: int | None = None


def change_page(request: SignedIn, run: RunRow, loaded: RunSnapshot, setup_name: str, **more: Any) -> dict[str, Any]:
    """What the template shows; `more` is what was refused, and what was typed."""
    sheet = loaded.core.sheet
    setup = sheet.setups.get(setup_name) or list(sheet.setups.values())[-1]
    return {
        "run": run,
        "setup": setup.name,
        "setups": list(sheet.setups),
        "parts": [_fields(sheet.parts[name], more) for name in setup.connections],
        "swept": [n for n in setup.connections if sheet.parts[n].kind.ohmic or sheet.parts[n].kind.is_nonlinear],
        "rules": [rule.value for rule in Rule],
        "others": [name for name in sheet.setups if name != setup.name],
        "changes": [(name, change.words) for name, change in CHANGES.items()],
        "drawing": of_setup(sheet, setup, request.user.conventions),
        "history": history(run),
        "read": sum(reading.struck is None for reading in loaded.core.readings),
        **more,
    }


def _fields(part: Part, more: Mapping[str, Any]) -> PartFields:
    """A part as it is stated; where its correction was refused, as it was typed."""
    fields, adjustable = part_fields(part), part.adjustable
    if more.get("refused") == "correct" and more["refused_part"] == part.name:
        fields = tuple(replace(field, text=more["typed"].get(field.name, "")) for field in fields)
        adjustable = "adjustable" in more["typed"]
    return PartFields(part.name, fields, adjustable, part.kind.is_source)


def history(run: RunRow) -> list[Happened]:
    """What happened to the circuit and to what was read, newest first."""
    acts: QuerySet[ActRow] = run.acts.select_related("author", "undone_by").prefetch_related("lines__reading", "sheets")
    last, begun = run.sheets.order_by("-pk")[0], run.sheets.select_related("author").order_by("pk")[0]
    events = []
    for act in acts:
        sheet = next(iter(act.sheets.all()), None)
        readings = ", ".join(str(line.reading) for line in act.lines.all())
        what = f"{readings}: {act.reason}" if readings else act.reason
        is_undone = hasattr(act, "undone_by")
        can_go_back = sheet is not None and act.pk == last.act_id and not is_undone
        events.append(
            Happened(
                act.time,
                act.author.username,
                f"{what} (taken back)" if is_undone else what,
                sheet.kind if sheet else act.kind,
                act.pk if can_go_back else None,
            )
        )
    events += [
        Happened(move.time, move.author.username, move.kind, "bench") for move in run.moves.select_related("author")
    ]
    signatures = SignatureRow.objects.filter(revision__run=run).select_related("signer", "revision")
    events += [
        Happened(
            signature.time,
            signature.signer.username,
            f"revision {signature.revision.number}, as its {signature.signed_as}",
            "signed",
        )
        for signature in signatures
    ]
    events.append(Happened(begun.time, begun.author.username, "begun", begun.kind))
    return sorted(events, key=lambda happened: happened.when, reverse=True)
