"""The page on which a running run is changed: its parts, its states, and all that was done to it."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import QuerySet
from django.http import QueryDict

from recensor.core.errors import Refused
from recensor.people.requests import SignedIn
from recensor.run_pages.forms import (
    ChangeForm,
    ChosenMeterForm,
    CorrectionForm,
    HoldForm,
    RoundsForm,
    SetupForm,
    SweepForm,
    TitleForm,
)
from recensor.runs.models import ActRow, RunRow, SignatureRow
from recensor.runs.queries import RunSnapshot
from recensor.web.drawings import of_setup
from recensor.web.forms import ActForm


@dataclass(frozen=True)
class Happened:
    """One thing that was done to the run, for its history."""

    when: datetime
    who: str
    what: str
    kind: str
    act: int | None = None


@dataclass(frozen=True)
class RefusedForm:
    """What was refused: the place of its form, what was sent, and why."""

    place: str
    typed: QueryDict
    error: Refused


def change_page(
    request: SignedIn, run: RunRow, loaded: RunSnapshot, setup_name: str, refusal: RefusedForm | None = None
) -> dict[str, Any]:
    """What the template shows; the form that was refused says why, and keeps what was typed."""
    sheet = loaded.core.sheet
    setup = sheet.setups.get(setup_name) or list(sheet.setups.values())[-1]
    parts = [sheet.parts[name] for name in setup.connections]
    lines = [part.name for part in parts if part.kind.ohmic or part.kind.is_nonlinear]
    others = [name for name in sheet.setups if name != setup.name]

    def shown(place: str, make: Callable[..., ActForm], **named: Any) -> ActForm:
        initial = {"setup": setup.name, **named.pop("initial", {})}
        if refusal is None or refusal.place != place:
            return make(initial=initial, **named)
        form = make(refusal.typed, initial=initial, **named)
        form.refuse(refusal.error)
        return form

    return {
        "run": run,
        "setup": setup.name,
        "setups": list(sheet.setups),
        "change": shown("change", ChangeForm, parts=list(setup.connections)),
        "meter": shown("meter", ChosenMeterForm, initial={"meter": str(run.meter or "")}),
        "add_setup": shown("add_setup", SetupForm),
        "sweep": shown("sweep", SweepForm, parts=lines),
        "rounds": shown("rounds", RoundsForm, initial={"rounds": sheet.rounds}),
        "hold": shown("hold", HoldForm, others=others) if others else None,
        "rename": shown("rename", TitleForm, initial={"title": run.title}),
        "corrections": [shown(f"correct {part.name}", CorrectionForm, of=part) for part in parts],
        "take_back_refused": refusal.error.message if refusal and refusal.place == "take_back" else "",
        "drawing": of_setup(sheet, setup, request.user.conventions),
        "history": history(run),
        "read": sum(reading.struck is None for reading in loaded.core.readings),
    }


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
