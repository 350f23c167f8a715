"""What is typed at the bench."""

import uuid
from dataclasses import replace

from django import forms
from django.http import QueryDict

from recensor.bench.queries import RunSnapshot
from recensor.bench.questions import answer_of_token
from recensor.bench.rows import older_address
from recensor.bench.services import Entry
from recensor.bench.services.acts import LONGEST_REASON
from recensor.bench.services.states import CHANGES
from recensor.core import record, safety
from recensor.core.circuit import LONGEST_SLUG, Basis, Judge, JudgedBy, NotationError, Part, Sheet, Target, slug
from recensor.core.editing import accepted, colour_words
from recensor.core.entries import LONGEST_FORMULA, Answer, FormulaError, Repeat, evaluate, named, worked_out
from recensor.core.errors import Refused
from recensor.core.figures import as_read, to_four_figures
from recensor.core.quantity import LONGEST_TEXT, QuantityError, parse, parse_beside_chooser
from recensor.experiments.forms import LARGEST_FILE, file_sheet
from recensor.kits.models import Kit
from recensor.kits.stock import from_kit
from recensor.web.fields import (
    MOST_CHARACTERS,
    PercentField,
    RatingField,
    against_field,
    judged_by_field,
    meter_in_field,
)

SAID = (Repeat.TRIAL, Repeat.INSTEAD)


# What the fields were called on pages of before, whose entries may not be sent yet.
_OLDER_NAMES = {
    "unit_is_default": "supplied",
    "replaces_seen": "found",
    "typed_at": "typed",
    "declared_as": "said",
}


class ReadingForm(forms.Form):
    """What is typed at a measurement: the text, the unit beside it, and what the page knew when it was typed.

    `measurement` is its address, `replaces_seen` the reading that the page showed standing there, `unit_is_default`
    says that the unit is the page's own, `declared_as` what it is said to be beside what stands; `key` makes a resend
    harmless.
    """

    measurement = forms.CharField(required=False, max_length=LONGEST_SLUG)
    key = forms.UUIDField()
    text = forms.CharField(strip=True, required=False, max_length=MOST_CHARACTERS)
    answer = forms.CharField(strip=True, required=False, max_length=LONGEST_TEXT)
    unit = forms.CharField(required=False, max_length=12)
    unit_is_default = forms.BooleanField(required=False)
    range = forms.CharField(required=False, max_length=LONGEST_TEXT)
    meter = forms.CharField(required=False, max_length=60)
    replaces_seen = forms.IntegerField(required=False)
    typed_at = forms.DateTimeField(required=False)
    declared_as = forms.ChoiceField(choices=[(said, said) for said in SAID], required=False)

    def __init__(self, data: QueryDict, *, loaded: RunSnapshot) -> None:
        self.is_older = "measurement" not in data
        if self.is_older:
            data = data.copy()
            for name, before in _OLDER_NAMES.items():
                if before in data:
                    data[name] = data[before]
        super().__init__(data)
        self.loaded = loaded
        self.target: Target | None = None
        self.doubt = None
        self.names: str | None = None

    @property
    def entry(self) -> Entry:
        """What was typed, where the form is valid."""
        typed, target = self.cleaned_data, self.target
        if target is None:
            raise ValueError("nothing was typed at a measurement")
        reading = record.Reading(target, typed["quantity"], typed.get("span"), typed.get("meter") or None)
        found = typed["replaces_seen"] if "replaces_seen" in self.data else self.loaded.standing_at(target)
        said = Repeat(typed["declared_as"]) if typed.get("declared_as") else None
        return Entry(
            reading,
            typed["key"],
            found,
            typed.get("typed_at"),
            unit_is_default=typed["unit_is_default"],
            declared_as=said,
        )

    @property
    def is_empty(self) -> bool:
        """Whether Enter was pressed on the empty field."""
        return self.target is not None and not self.cleaned_data.get("text")

    def clean(self) -> dict[str, object]:
        """Find the measurement and read the quantity; what can mean two things is asked about."""
        cleaned = super().clean()
        target = self.target = self._found(cleaned)
        if target is None or "text" not in cleaned:
            return cleaned
        if not cleaned.get("answer") and self._is_name(cleaned["text"], target):
            return cleaned
        try:
            typed = cleaned.get("answer") or cleaned["text"]
            cleaned["quantity"] = parse_beside_chooser(typed, target.unit, cleaned.get("unit", ""))
            cleaned["unit_is_default"] = cleaned["unit_is_default"] and cleaned["quantity"].beside != ""
            self.doubt = cleaned["quantity"].doubt
        except QuantityError as error:
            self.add_error("text", str(error))
        if self.doubt:
            self.add_error("text", self.doubt.question)
        try:
            if cleaned.get("range"):
                cleaned["span"] = parse(cleaned["range"], target.unit)
        except QuantityError as error:
            self.add_error("range", str(error))
        return cleaned

    def _found(self, cleaned: dict[str, object]) -> Target | None:
        """The measurement that was typed at: whatever else the run asks by now, it is the one that the page showed."""
        if self.is_older:
            named = older_address(self.data.get("place", ""), self.loaded.points, self.data.get("point", ""))
            target = named and self.loaded.target_at(slug(named))
        else:
            target = self.loaded.target_at(str(cleaned.get("measurement")))
        if target is None:
            self.add_error("measurement", "This run has no such measurement; choose one in the table of readings.")
            return None
        self.loaded = self.loaded.with_point(target)
        return target

    def _is_name(self, text: str, target: Target) -> bool:
        """Whether the name of a part or node was typed, which is asked about and never read as a value."""
        sheet = self.loaded.core.sheet
        if not any(character.isalpha() for character in text):
            return False
        found = named(text, sheet, sheet.setup(target.setup))
        if found is None:
            return False
        self.names = text
        self.add_error("text", f"{text} is a name in this circuit. Is it to be read next?")
        try:
            self.value = as_read(parse(text, target.unit), target.unit)
        except QuantityError:
            self.value = ""
        return True


def new_key() -> str:
    """A fresh key for an entry."""
    return str(uuid.uuid4())


class BeginRunForm(forms.Form):
    """A run to begin: a circuit in one line, or out of a file; how it is judged, with which meter, out of which kit."""

    key = forms.UUIDField(required=False, widget=forms.HiddenInput, initial=uuid.uuid4)
    line = forms.CharField(
        max_length=MOST_CHARACTERS,
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
    title = forms.CharField(max_length=120, required=False, label="Title", help_text="the line itself, if left empty")
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
        max_length=60,
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
        title = str(cleaned.get("title") or "") or line[:120]
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
        return replace(sheet, title=title[:120] or sheet.title or "Circuit", judge=judge, parts=parts)

    @staticmethod
    def _said(part: Part, cleaned: dict[str, object]) -> Part:
        if part.kind.is_source:
            return replace(part, adjustable=part.adjustable or bool(cleaned.get("adjustable")))
        return replace(part, rating=part.rating or cleaned.get("rating"))


class KeyForm(forms.Form):
    """The key that makes pressing a button twice harmless."""

    key = forms.UUIDField(required=False)


class MoveForm(KeyForm):
    """Power, as it is from now on."""

    power = forms.ChoiceField(choices=[("ON", "ON"), ("OFF", "OFF")])


class StartRunForm(KeyForm):
    """How a run of an experiment starts: with which meter, and out of which kit."""

    kit = forms.ModelChoiceField(Kit.objects.all(), required=False)
    meter = forms.CharField(max_length=60, required=False)


class OwnValueForm(forms.Form):
    """A value worked out by hand for a point, perhaps with its formula."""

    measurement = forms.CharField(max_length=LONGEST_SLUG)
    key = forms.UUIDField()
    text = forms.CharField(strip=True, required=False, max_length=MOST_CHARACTERS)
    unit = forms.CharField(required=False, max_length=12)
    formula = forms.CharField(strip=True, required=False, max_length=LONGEST_FORMULA)

    def __init__(self, data: QueryDict, *, loaded: RunSnapshot) -> None:
        super().__init__(data)
        self.loaded = loaded

    def clean(self) -> dict[str, object]:
        """Find the measurement, and read value and formula."""
        cleaned = super().clean()
        target = self.loaded.target_at(str(cleaned.get("measurement")))
        if target is None:
            raise forms.ValidationError("This run has no such measurement.")
        cleaned["target"] = target
        formula = cleaned.get("formula", "")
        try:
            text = cleaned.get("text") or ""
            if formula and not text:
                digits = to_four_figures(abs(evaluate(formula, target.unit)) or 1.0, target.unit)
                self.add_error("text", f"Write your value too; the formula gives about {digits.text}.")
                return cleaned
            cleaned["value"] = parse_beside_chooser(text, target.unit, cleaned.get("unit", ""))
            worked_out(cleaned["value"], formula, target.unit, None)
        except FormulaError as error:
            self.add_error("formula", error.message)
        except QuantityError as error:
            self.add_error("text", error.message)
        return cleaned


class MendForm(forms.Form):
    """A mend of a reading by its name, with a reason where one is given."""

    mend = forms.CharField(max_length=40)
    reason = forms.CharField(required=False, max_length=LONGEST_REASON)


class MendCauseForm(KeyForm):
    """The cause whose mend is to be carried out, by what names it."""

    cause = forms.CharField(max_length=4000)


class AnswerForm(forms.Form):
    """What a doubtful entry is, said in one press."""

    answer = forms.CharField(max_length=1000)

    def given(self, loaded: RunSnapshot) -> Answer:
        """The answer; raises `Refused` for none."""
        answer = answer_of_token(self.cleaned_data["answer"], loaded.core.sheet) if self.is_valid() else None
        if answer is None:
            raise Refused("Choose one of the answers.")
        return answer


class CorrectionForm(KeyForm):
    """What a part always was: each of its fields as it should have been typed."""

    part = forms.CharField(max_length=60)
    name = forms.CharField(max_length=20, label="Name")
    value = forms.CharField(max_length=LONGEST_TEXT, required=False)
    tolerance = forms.CharField(max_length=LONGEST_TEXT, required=False)
    rating = forms.CharField(max_length=LONGEST_TEXT, required=False)
    compliance = forms.CharField(max_length=LONGEST_TEXT, required=False)
    limit = forms.CharField(max_length=LONGEST_TEXT, required=False)
    current = forms.CharField(max_length=LONGEST_TEXT, required=False)
    cold = forms.CharField(max_length=LONGEST_TEXT, required=False)
    adjustable = forms.BooleanField(required=False)


# The changes that bring another part, or another value.
NEEDS_WHAT = ("exchange", "parallel", "series", "set")


class ChangeForm(KeyForm):
    """What happens to a part from now on, and by what."""

    setup = forms.CharField(max_length=60, required=False)
    part = forms.CharField(max_length=60, error_messages={"required": "Choose the part that is changed."})
    what_happens = forms.ChoiceField(choices=[(name, change.words) for name, change in CHANGES.items()])
    what = forms.CharField(max_length=60, required=False)

    def clean(self) -> dict[str, object]:
        """What brings another part or value needs it to be written."""
        cleaned = super().clean()
        if cleaned.get("what_happens") in NEEDS_WHAT and not cleaned.get("what"):
            self.add_error("what", "Write by what, for example 4k7 or 12V.")
        return cleaned


class MoreForm(KeyForm):
    """What is to be read besides: a part's line, or setups held against each other; the editor's act by its name."""

    more = forms.ChoiceField(choices=[(name, name) for name in ("sweep", "hold")])
    setup = forms.CharField(max_length=60)
    part = forms.CharField(max_length=60, required=False)
    first_setting = forms.CharField(max_length=LONGEST_TEXT, required=False)
    last_setting = forms.CharField(max_length=LONGEST_TEXT, required=False)
    rows = forms.CharField(max_length=10, required=False)
    rule = forms.CharField(max_length=40, required=False)
    other = forms.CharField(max_length=60, required=False)


class SetupForm(KeyForm):
    """Another setup, and the one that it is like at first."""

    name = forms.CharField(max_length=60, required=False)
    setup = forms.CharField(max_length=60, required=False)
