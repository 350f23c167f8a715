"""What is typed where a run begins or is changed."""

import re
import uuid
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from django import forms

from recensor.core import lengths, safety
from recensor.core.circuit import USUAL_WISHES, Basis, Judge, JudgedBy, NotationError, Part, Rule, Sheet, check_part
from recensor.core.editing import accepted, colour_words
from recensor.core.entries import ChangeKind
from recensor.core.errors import Refused
from recensor.core.quantity import LONGEST_TEXT
from recensor.experiments.acts import STATED
from recensor.experiments.forms import LARGEST_FILE, file_sheet, rounds_field
from recensor.kits.models import Kit
from recensor.kits.stock import from_kit
from recensor.runs.services.build_circuits import circuits_made
from recensor.runs.services.circuit_changes import CHANGES
from recensor.web.fields import (
    PercentField,
    RatingField,
    against_field,
    judged_by_field,
    meter_in_field,
)
from recensor.web.forms import ActForm, KeyForm
from recensor.web.part_fields import SOURCE_CHOICES, part_fields

# Behind the first circuit: a comma and a part's name, where a comma in a value has a digit behind it.
_FURTHER = re.compile(r"\s*,\s*(?=[A-Za-z])")


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
            sheet = _of_lines(line, title) if line else accepted(file_sheet(file))
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
        try:
            for part in parts.values():
                check_part(part)
        except Refused as error:
            self.add_error("adjustable", error.message)
            return None
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


def _hidden(**named: Any) -> forms.CharField:
    """A field that the page fills in."""
    return forms.CharField(max_length=lengths.NAME, required=False, widget=forms.HiddenInput, **named)


def _typed(label: str, placeholder: str = "", *, longest: int = LONGEST_TEXT, look: str = "", **named: Any) -> Any:
    """A text field on a line."""
    attributes = {"placeholder": placeholder, "class": f"form-control {look}".strip(), "spellcheck": "false"}
    return forms.CharField(
        label=label, max_length=longest, required=False, widget=forms.TextInput(attrs=attributes), **named
    )


def _chosen(label: str, **named: Any) -> forms.CharField:
    """A choice among names that the page knows; whatever else is sent the service refuses in words."""
    return forms.CharField(label=label, max_length=lengths.NAME, widget=forms.Select, **named)


def _offer(field: forms.Field, choices: Iterable[tuple[str, str]]) -> None:
    widget = field.widget
    if isinstance(widget, forms.Select):
        widget.choices = list(choices)


def _of_lines(text: str, title: str) -> Sheet:
    """The circuit of the first line, and behind commas further circuits of its parts. Raises `Refused`."""
    first, *further = _FURTHER.split(text, maxsplit=1)
    sheet = accepted(colour_words.read(first, title))
    return circuits_made(sheet, sheet.setup().name, further[0], USUAL_WISHES)[0] if further else sheet


class CorrectionForm(ActForm):
    """What a part always was: its name, its value, and what else its kind is stated by."""

    act, button = "correct", "Correct"
    bare = ("name", "value", *STATED, "source")

    part = _hidden()
    setup = _hidden()
    name = _typed("Name", "name", longest=20)
    value = _typed("Value", "value")
    source = forms.ChoiceField(label="What it is", choices=SOURCE_CHOICES, required=False)
    adjustable = forms.BooleanField(label="has a knob", required=False)

    def __init__(self, data: Mapping[str, Any] | None = None, *, of: Part | None = None, **named: Any) -> None:
        super().__init__(data, place=f"correct-{of.name}" if of else "", **named)
        for name in STATED:
            self.fields[name] = _typed(name, name)
        if of is not None:
            self._show(of)

    def _show(self, part: Part) -> None:
        """The fields that the part has, as it is stated."""
        stated = {field.name: field for field in part_fields(part)}
        for name in [*self.fields]:
            if name in stated:
                field = stated[name]
                self.fields[name].label = f"{field.words} of {part.name}"
                self.fields[name].widget.attrs["placeholder"] = field.words.lower()
                self.initial[name] = field.text
            elif name not in ("key", "part", "setup", *(("source", "adjustable") if part.kind.is_source else ())):
                del self.fields[name]
        self.initial |= {"part": part.name, "adjustable": part.adjustable, "source": part.source or ""}
        self.order_fields([*stated, "source", "adjustable"])

    def clean_name(self) -> str:
        """A part needs a name."""
        name: str = self.cleaned_data["name"]
        if not name:
            raise forms.ValidationError("A part needs a name.")
        return name


# The changes that bring another part, or another value.
NEEDS_WHAT = ("exchange", "parallel", "series", "set")


class ChangeForm(ActForm):
    """What happens to a part from now on, and by what."""

    act, button, main = "change", "Change it", True
    bare = ("part", "what_happens", "what")

    setup = _hidden()
    part = _chosen("Part", error_messages={"required": "Choose the part that is changed."})
    what_happens = forms.ChoiceField(
        label="What happens to it",
        choices=[(name, change.words) for name, change in CHANGES.items() if name != ChangeKind.IN],
    )
    what = _typed("By what", "4k7, 12V", longest=lengths.NAME)

    def __init__(self, data: Mapping[str, Any] | None = None, *, parts: Sequence[str] = (), **named: Any) -> None:
        super().__init__(data, **named)
        _offer(self.fields["part"], [(name, name) for name in parts])

    def clean(self) -> dict[str, object]:
        """What brings another part or value needs it to be written."""
        cleaned = super().clean()
        if cleaned.get("what_happens") in NEEDS_WHAT and not cleaned.get("what"):
            self.add_error("what", "Write by what, for example 4k7 or 12V.")
        return cleaned


class ChosenMeterForm(ActForm):
    """The meter that is read with from now on."""

    act, button = "meter", "Read with it"

    meter = forms.CharField(
        label="Meter", max_length=lengths.NAME, required=False, widget=forms.TextInput(attrs={"list": "meters"})
    )


class SetupForm(ActForm):
    """Another setup, and the one that it is like at first."""

    act, button = "add_setup", "Add it"

    name = _typed("Another setup, at first like this one", "loaded", longest=lengths.NAME)
    setup = _hidden()


class MoreForm(ActForm):
    """What is to be read besides; the editor's act by its name."""

    act = "read_more"

    setup = _hidden()
    more = forms.CharField(widget=forms.HiddenInput)

    @property
    def typed(self) -> dict[str, str]:
        """What was typed, for the editor's act, which is told all of it."""
        return {**dict.fromkeys(("part", "first_setting", "last_setting", "rows", "rule", "other"), ""),
                **self.cleaned_data}  # fmt: skip


class SweepForm(MoreForm):
    """A V–I table of one part: from one setting of its source to another, or row after row."""

    button = "Read it"

    part = _chosen("The line of")
    first_setting = _typed("from", "1V", look="setting")
    last_setting = _typed("to", "9V", look="setting")
    rows = _typed("rows", longest=10, look="setting", initial="5")

    def __init__(self, data: Mapping[str, Any] | None = None, *, parts: Sequence[str] = (), **named: Any) -> None:
        super().__init__(data, place="sweep", **named)
        self.fields["more"].initial = "sweep"
        _offer(self.fields["part"], [(name, name) for name in parts])


class HoldForm(MoreForm):
    """Setups that are compared."""

    button = "Hold them"

    rule = _chosen("This setup, for")
    other = _chosen("against")

    def __init__(self, data: Mapping[str, Any] | None = None, *, others: Sequence[str] = (), **named: Any) -> None:
        super().__init__(data, place="hold", **named)
        self.fields["more"].initial = "hold"
        _offer(self.fields["rule"], [(rule.value, rule.value) for rule in Rule])
        _offer(self.fields["other"], [(name, name) for name in others])


class RoundsForm(ActForm):
    """How often everything that is asked for is read."""

    act, button = "rounds", "Read it so often"

    rounds = rounds_field("Everything, so many times, one round after the other")


class TitleForm(ActForm):
    """The run's title."""

    act, button = "rename", "Rename"
    bare = ("title",)

    title = _typed("Title", longest=lengths.TITLE)
