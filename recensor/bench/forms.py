"""What is typed at the bench."""

import uuid
from collections.abc import Sequence
from dataclasses import replace

from django import forms

from recensor.core import record, safety
from recensor.core.circuit import RESISTOR, UNMARKED, VOLTAGE_SOURCE, Basis, Judge, JudgedBy, Part, Target
from recensor.core.examples import shapes
from recensor.core.quantity import LONGEST_TEXT, VOLT, Quantity, QuantityError, parse, parse_beside_chooser
from recensor.kits.models import Kit
from recensor.kits.stock import from_kit
from recensor.web.fields import (
    MOST_CHARACTERS,
    PercentField,
    QuantityField,
    RatingField,
    ResistorField,
    against_field,
    judged_by_field,
)

FEWEST, MOST = shapes.FEWEST, shapes.MOST
PAPER_ONLY = (
    f"At the top of its tolerance this is more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: "
    "for paper only. A run offers measuring steps at extra-low voltage and nowhere else."
)


class ReadingForm(forms.Form):
    """One reading: the point, the typed text, the unit beside it, and the key that makes a resend harmless."""

    point = forms.IntegerField(min_value=0)
    key = forms.UUIDField()
    text = forms.CharField(strip=True, required=False, max_length=MOST_CHARACTERS)
    answer = forms.CharField(strip=True, required=False, max_length=LONGEST_TEXT)
    unit = forms.CharField(required=False, max_length=12)
    range = forms.CharField(required=False, max_length=LONGEST_TEXT)

    def __init__(self, *args: object, points: Sequence[Target] = (), **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.points = points
        self.doubt = None

    @property
    def reading(self) -> record.Reading:
        """What was read, where the form is valid."""
        typed = self.cleaned_data
        return record.Reading(self.points[typed["point"]], typed["quantity"], typed.get("span"))

    def clean_point(self) -> int:
        """The point must be one of this run's."""
        point = self.cleaned_data["point"]
        if point >= len(self.points):
            raise forms.ValidationError("This run has no such point; choose one in the ledger.")
        return point

    def clean(self) -> dict[str, object]:
        """Read the quantity; what can mean two things is asked about."""
        cleaned = super().clean()
        if "point" not in cleaned or "text" not in cleaned:
            return cleaned
        target = self.points[cleaned["point"]]
        try:
            typed = cleaned.get("answer") or cleaned["text"]
            cleaned["quantity"] = parse_beside_chooser(typed, target.unit, cleaned.get("unit", ""))
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


def new_key() -> str:
    """A fresh key for an entry."""
    return str(uuid.uuid4())


class NewRunForm(forms.Form):
    """A new run: title, source, shape and three to eight resistors, typed as people type them."""

    key = forms.UUIDField(required=False, widget=forms.HiddenInput, initial=uuid.uuid4)
    title = forms.CharField(max_length=120, label="Title")
    source = QuantityField(VOLT, label="Source voltage", help_text="9, 11.85, 5V …")
    source_tolerance = PercentField(required=False, label="Its tolerance", help_text="leave empty if none is stated")
    shape = forms.ChoiceField(
        choices=[(shape.value, shape.value) for shape in shapes.Shape],
        initial=shapes.Shape.CHAIN.value,
        label="Shape",
        widget=forms.RadioSelect,
    )
    kit = forms.ModelChoiceField(
        Kit.objects.all(),
        required=False,
        label="Parts out of a kit",
        empty_label="no kit",
        help_text="a kit knows tolerance and rating, and counts what you take",
    )
    tolerance = PercentField(required=False, initial="5 %", label="Their tolerance")
    rating = RatingField(required=False, label="Their rating", help_text="¼ W is taken if nothing is written")
    group_first = forms.IntegerField(
        min_value=1, max_value=MOST, required=False, initial=2, label="Parallel group from R"
    )
    group_last = forms.IntegerField(min_value=1, max_value=MOST, required=False, initial=3, label="to R")
    judged_by = judged_by_field()
    limit = PercentField(initial="5 %", label="Limit")
    against = against_field()
    meter = forms.CharField(
        max_length=60, required=False, label="Meter", help_text="its name or number, if you keep one"
    )

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        for k in range(1, MOST + 1):
            self.fields[f"r{k}"] = ResistorField(required=False, label=f"R{k}")

    @property
    def resistors(self) -> list[forms.BoundField]:
        """The resistor fields, R1 first."""
        return [self[f"r{k}"] for k in range(1, MOST + 1)]

    def clean(self) -> dict[str, object]:
        """Build the sheet and choose the bins its parts come from; every message stands at its field."""
        cleaned = super().clean()
        filled = [k for k in range(1, MOST + 1) if cleaned.get(f"r{k}") or self.has_error(f"r{k}")]
        for k in range(1, max(filled, default=0)):
            if k not in filled:
                self.add_error(f"r{k}", f"R{k} is empty; fill the resistors from R1 on.")
        if len(filled) < FEWEST and not self.has_error("r1"):
            self.add_error(f"r{len(filled) + 1}", f"A new run takes {FEWEST} to {MOST} resistors.")
        if self.errors:
            return cleaned
        parts = {f"R{k}": self._part(f"R{k}", cleaned[f"r{k}"]) for k in filled}
        cleaned["drawn"] = {}
        if cleaned["kit"]:
            drawn = from_kit(cleaned["kit"], parts.values())
            for name, message in drawn.missing.items():
                self.add_error(name.lower(), message)
            cleaned["drawn"], parts = drawn.bins, parts | drawn.parts
        try:
            sheet = shapes.shaped(
                shapes.Shape(cleaned["shape"]),
                cleaned["title"],
                Part("V1", VOLTAGE_SOURCE, cleaned["source"], cleaned["source_tolerance"]),
                list(parts.values()),
                (cleaned.get("group_first") or 0, cleaned.get("group_last") or 0),
            )
        except shapes.ShapeError as error:
            self.add_error("group_last", str(error))
            return cleaned
        if safety.caution(sheet) is safety.Caution.PAPER_ONLY:
            self.add_error("source", PAPER_ONLY)
            return cleaned
        judge = Judge(JudgedBy(cleaned["judged_by"]), cleaned["limit"], Basis(cleaned["against"]))
        cleaned["sheet"] = replace(sheet, judge=judge)
        return cleaned

    def _part(self, name: str, value: Quantity | str) -> Part:
        """A resistor as written; an unmarked one has neither nominal value nor tolerance."""
        rating = self.cleaned_data["rating"]
        if value == UNMARKED:
            return Part(name, RESISTOR, rating=rating)
        return Part(name, RESISTOR, value, self.cleaned_data["tolerance"], rating)


class KeyForm(forms.Form):
    """The key that makes pressing a button twice harmless."""

    key = forms.UUIDField(required=False)


class StartRunForm(KeyForm):
    """How a run of an experiment starts: with which meter, and out of which kit."""

    kit = forms.ModelChoiceField(Kit.objects.all(), required=False)
    meter = forms.CharField(max_length=60, required=False)


class MoveForm(forms.Form):
    """Where a reading belongs."""

    point = forms.IntegerField(min_value=0)
