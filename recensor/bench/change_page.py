"""The page on which a running run is changed: its parts, its states, and all that was done to it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.db.models import QuerySet

from recensor.bench.models import Act, Run, RunSheet
from recensor.bench.queries import LoadedRun
from recensor.core.circuit import UNMARKED, Part
from recensor.people.requests import SignedIn
from recensor.web.drawings import of_setup

# What a circuit can be made from now on, and whether something is to be written for it.
CHANGES = (
    ("exchange", "exchanged for"),
    ("parallel", "gets beside it, in parallel,"),
    ("series", "gets behind it, in series,"),
    ("out", "is taken out"),
    ("set", "is set to (a source)"),
)


@dataclass(frozen=True)
class PartFields:
    """A part as it is stated, to be said better: the name that it has, and the fields as they stand."""

    part: str
    name: str
    value: str
    tolerance: str
    rating: str
    adjustable: bool
    drives: bool


@dataclass(frozen=True)
class Happened:
    """One thing that was done to the run, for its history."""

    when: str
    who: str
    what: str
    kind: str
    act: int | None = None


def change_page(request: SignedIn, run: Run, loaded: LoadedRun, setup_name: str, **more: Any) -> dict[str, Any]:
    """What the template shows; `more` is what was refused, and what was typed."""
    sheet = loaded.core.sheet
    setup = sheet.setups.get(setup_name) or list(sheet.setups.values())[-1]
    return {
        "run": run,
        "setup": setup.name,
        "setups": list(sheet.setups),
        "parts": [_fields(sheet.parts[name], more) for name in setup.connections],
        "changes": CHANGES,
        "drawing": of_setup(sheet, setup, request.user.conventions),
        "history": list(history(run)),
        "read": sum(reading.struck is None for reading in loaded.core.readings),
        **more,
    }


def _fields(part: Part, more: Mapping[str, Any]) -> PartFields:
    """A part as it is stated; where its correction was refused, as it was typed."""
    if more.get("refused") == "correct" and more["refused_part"] == part.name:
        name, value, tolerance, rating = (
            more["typed"].get(key, "") for key in ("name", "value", "tolerance", "rating")
        )
        return PartFields(part.name, name, value, tolerance, rating, "adjustable" in more["typed"], part.kind.drives)
    return PartFields(
        part.name,
        part.name,
        part.nominal.text if part.nominal else UNMARKED,
        part.tolerance.text if part.tolerance else "",
        part.rating.text if part.rating else "",
        part.adjustable,
        part.kind.drives,
    )


def history(run: Run) -> list[Happened]:
    """What happened to the circuit and to what was read, newest first."""
    acts: QuerySet[Act] = run.acts.select_related("author", "undone_by").prefetch_related("lines__reading", "sheets")
    last = run.sheets.order_by("-pk").values_list("act", flat=True)[0]
    found = []
    for act in acts:
        sheet = next(iter(act.sheets.all()), None)
        readings = ", ".join(as_shown(line.reading) for line in act.lines.all())
        what = f"{readings}: {act.reason}" if readings else act.reason
        kind = sheet.kind if sheet else act.kind
        undone = getattr(act, "undone_by", None)
        can = sheet is not None and act.pk == last and undone is None
        found.append((act.time, Happened(
            f"{act.time:%H:%M}", act.author.username, f"{what}{' (taken back)' if undone else ''}", kind,
            act.pk if can else None,
        )))  # fmt: skip
    begun = run.sheets.filter(kind=RunSheet.Kind.START).select_related("author").first()
    if begun:
        found.append((begun.time, Happened(f"{begun.time:%H:%M}", begun.author.username, "begun", "start")))
    return [happened for _, happened in sorted(found, key=lambda pair: pair[0], reverse=True)]


def as_shown(reading: Any) -> str:
    """A row's reading as it was typed."""
    return f"{reading.text} {reading.unit}".strip()
