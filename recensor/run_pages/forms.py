"""What is typed where a run begins or is changed."""

import uuid
from dataclasses import replace
from typing import Any

from django import forms

from recensor.core import lengths, safety
from recensor.core.circuit import Basis, Judge, JudgedBy, NotationError, Part, Sheet
from recensor.core.editing import accepted, colour_words
from recensor.core.errors import Refused
from recensor.core.quantity import LONGEST_TEXT
from recensor.experiments.acts import STATED
from recensor.experiments.forms import LARGEST_FILE, file_sheet
from recensor.kits.models import Kit
from recensor.kits.stock import from_kit
from recensor.runs.services.change_circuit import CHANGES
from recensor.web.fields import (
    PercentField,
    RatingField,
    against_field,
    judged_by_field,
    meter_in_field,
)
from recensor.web.forms import KeyForm


class BeginRunForm(forms.Form):
    """A run to begin: a circuit in one line, or out of a file; how it is judged, with which meter, out of which kit."""

    key = forms.UUIDField(required=False, widget=forms.HiddenInput, initial=uuid.uuid4)
    line = forms.CharField(
        max_length=lengths.PROSE,
        required=False,
        label="Circuit in one line",
        widget=forms.TextInput(
            attrs={
                "autofocus": True,
                "spellcheck": "false",
                "autocapitalize": "off",
                "autocomplete": "off",
                "placeholder": "9V: 1k + (2k2 | 3k3); 5",
            }
        ),
    )
    file = forms.FileField(
        required=False,
        label="Or a file",
        help_text="a run document, or a SPICE netlist",
        widget=forms.FileInput(attrs={"data-largest": LARGEST_FILE}),
    )
    title = forms.CharField(
        max_length=lengths.TITLE, required=False, label="Title", help_text="the line itself, if left empty"
    )
    rating = RatingField(
        required=False, label="Rating of the resistors", help_text="¼ W is taken if nothing is written"
    )
    adjustable = forms.BooleanField(required=False, label="The source has a knob")
    simulated = forms.BooleanField(required=False, label="Simulated: read off a screen, not at a bench")
    kit = forms.ModelChoiceField(
        Kit.objects.all(),
        required=False,
        label="Parts out of a kit",
        empty_label="no kit",
        help_text="a kit knows tolerance and rating, and counts what you take",
    )
    judged_by = judged_by_field(required=False)
    limit = PercentField(initial="5 %", required=False, label="Limit")
    against = against_field(required=False)
    meter_in = meter_in_field()
    meter = forms.CharField(
        max_length=lengths.NAME,
        required=False,
        label="Meter",
        help_text="one of yours, by its name",
        widget=forms.TextInput(attrs={"list": "meters", "autocomplete": "off"}),
    )
    marked: tuple[str, str, str] | None = None

    @property
    def sheet(self) -> Sheet:
        """The circuit, with all that was said of it."""
        return self.cleaned_data["sheet"]

    def clean(self) -> dict[str, object]:
        """Read the circuit, and choose the bins its parts come from; every message stands at its field."""
        cleaned = super().clean()
        cleaned["drawn"] = {}
        sheet = self._circuit(cleaned)
        if sheet is None or self.errors:
            return cleaned
        if cleaned["kit"]:
            drawn = from_kit(cleaned["kit"], sheet.parts.values())
            if drawn.missing:
                self.add_error("kit", " ".join(drawn.missing.values()))
            cleaned["drawn"] = drawn.bins
            sheet = replace(sheet, parts={**sheet.parts, **drawn.parts})
        try:
            safety.refuse_paper_only(sheet, simulated=cleaned["simulated"])
        except Refused as error:
            self.add_error("line" if cleaned["line"] else "file", error.message)
        cleaned["sheet"] = sheet
        return cleaned

    def _circuit(self, cleaned: dict[str, object]) -> Sheet | None:
        line, file = str(cleaned.get("line") or ""), cleaned.get("file")
        title = str(cleaned.get("title") or "") or line[: lengths.TITLE]
        at = "file" if file and not line else "line"
        if not line and not file:
            self.add_error("line", "Write the circuit in one line: the source, a colon, the resistors. 9V: 470 is one.")
            return None
        try:
            sheet = accepted(colour_words.read(line, title) if line else file_sheet(file))
        except NotationError as error:
            self.marked = line[: error.start], line[error.start : error.end] or " ", line[error.end :]
            self.add_error("line", error.message)
            return None
        except Refused as error:
            self.add_error(at, error.message)
            return None
        judge = sheet.judge  # a file says itself what decides
        if line:
            by, against = cleaned.get("judged_by") or judge.by, cleaned.get("against") or judge.against
            meter_in = bool(cleaned.get("meter_in"))
            judge = Judge(JudgedBy(by), cleaned.get("limit") or judge.limit, Basis(against), meter_in)
        parts = {name: self._said(part, cleaned) for name, part in sheet.parts.items()}
        return replace(sheet, title=title[: lengths.TITLE] or sheet.title or "Circuit", judge=judge, parts=parts)

    @staticmethod
    def _said(part: Part, cleaned: dict[str, object]) -> Part:
        if part.kind.is_source:
            return replace(part, adjustable=part.adjustable or bool(cleaned.get("adjustable")))
        return replace(part, rating=part.rating or cleaned.get("rating"))


class StartRunForm(KeyForm):
    """How a run of an experiment starts: with which meter, and out of which kit."""

    kit = forms.ModelChoiceField(Kit.objects.all(), required=False)
    meter = forms.CharField(max_length=lengths.NAME, required=False)


class CorrectionForm(KeyForm):
    """What a part always was: each of its fields as it should have been typed."""

    part = forms.CharField(max_length=lengths.NAME)
    name = forms.CharField(max_length=20, label="Name")
    value = forms.CharField(max_length=LONGEST_TEXT, required=False)
    adjustable = forms.BooleanField(required=False)

    def __init__(self, *arguments: Any, **named: Any) -> None:
        super().__init__(*arguments, **named)
        for name in STATED:
            self.fields[name] = forms.CharField(max_length=LONGEST_TEXT, required=False)


# The changes that bring another part, or another value.
NEEDS_WHAT = ("exchange", "parallel", "series", "set")


class ChangeForm(KeyForm):
    """What happens to a part from now on, and by what."""

    setup = forms.CharField(max_length=lengths.NAME, required=False)
    part = forms.CharField(max_length=lengths.NAME, error_messages={"required": "Choose the part that is changed."})
    what_happens = forms.ChoiceField(choices=[(name, change.words) for name, change in CHANGES.items()])
    what = forms.CharField(max_length=lengths.NAME, required=False)

    def clean(self) -> dict[str, object]:
        """What brings another part or value needs it to be written."""
        cleaned = super().clean()
        if cleaned.get("what_happens") in NEEDS_WHAT and not cleaned.get("what"):
            self.add_error("what", "Write by what, for example 4k7 or 12V.")
        return cleaned


class MoreForm(KeyForm):
    """What is to be read besides: a part's line, or setups held against each other; the editor's act by its name."""

    more = forms.ChoiceField(choices=[(name, name) for name in ("sweep", "hold")])
    setup = forms.CharField(max_length=lengths.NAME)
    part = forms.CharField(max_length=lengths.NAME, required=False)
    first_setting = forms.CharField(max_length=LONGEST_TEXT, required=False)
    last_setting = forms.CharField(max_length=LONGEST_TEXT, required=False)
    rows = forms.CharField(max_length=10, required=False)
    rule = forms.CharField(max_length=40, required=False)
    other = forms.CharField(max_length=lengths.NAME, required=False)


class SetupForm(KeyForm):
    """Another setup, and the one that it is like at first."""

    name = forms.CharField(max_length=lengths.NAME, required=False)
    setup = forms.CharField(max_length=lengths.NAME, required=False)
