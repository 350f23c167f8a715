"""What is typed at the bench."""

import uuid
from collections.abc import Sequence

from django import forms

from recensor.core import safety
from recensor.core.circuit import Kind, Part
from recensor.core.quantity import LONGEST_TEXT, OHM, VOLT, Quantity, QuantityError, parse, parse_percent
from recensor.core.record import MEASURED, NOMINAL, PERCENT, UNCERTAINTY, Judge, Run, Target
from recensor.core.shapes import FEWEST, MOST, Shape, ShapeError, build

PAPER_ONLY = (
    f"At the top of its tolerance this is more than {safety.PAPER_ONLY_ABOVE:.0f} V DC: "
    "for paper only. A run offers measuring steps at extra-low voltage and nowhere else."
)

# A client may send anything; longer than this it is not even looked at.
MOST_CHARACTERS = 20_000


def typed_quantity(text: str, unit: str, beside: str) -> Quantity:
    """Read what was typed beside a unit chooser: a prefix or unit in the text itself wins over the chooser."""
    alone = parse(text, unit)
    says_more_than_digits = any(character.isalpha() for character in text.lower().replace("e", ""))
    return alone if alone.over_range or says_more_than_digits else parse(text, unit, beside)


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
            cleaned["quantity"] = typed_quantity(typed, target.unit, cleaned.get("unit", ""))
            self.doubt = cleaned["quantity"].doubt
        except QuantityError as error:
            self.add_error("text", str(error))
        if self.doubt:
            self.add_error("text", self.doubt.question)
        try:
            if cleaned.get("range"):
                parse(cleaned["range"], target.unit)
        except QuantityError as error:
            self.add_error("range", str(error))
        return cleaned


def new_key() -> str:
    """A fresh key for an entry."""
    return str(uuid.uuid4())


class NewRunForm(forms.Form):
    """A new run: title, source, shape and three to eight resistors, typed as people type them."""

    title = forms.CharField(max_length=120, label="Title")
    source = forms.CharField(max_length=MOST_CHARACTERS, label="Source voltage", help_text="9, 11.85, 5V …")
    source_tolerance = forms.CharField(
        max_length=LONGEST_TEXT, required=False, label="Its tolerance", help_text="leave empty if none is stated"
    )
    shape = forms.ChoiceField(
        choices=[(s.value, s.value) for s in Shape], initial=Shape.CHAIN.value, label="Shape", widget=forms.RadioSelect
    )
    tolerance = forms.CharField(
        max_length=LONGEST_TEXT, required=False, initial="5 %", label="Tolerance of the resistors"
    )
    group_first = forms.IntegerField(
        min_value=1, max_value=MOST, required=False, initial=2, label="Parallel group from R"
    )
    group_last = forms.IntegerField(min_value=1, max_value=MOST, required=False, initial=3, label="to R")
    judged_by = forms.ChoiceField(
        choices=[(PERCENT, "percent error within the limit"), (UNCERTAINTY, "normalised error |E| ≤ 1")],
        initial=PERCENT,
        label="What decides",
    )
    limit = forms.CharField(max_length=LONGEST_TEXT, initial="5 %", label="Limit")
    against = forms.ChoiceField(
        choices=[(MEASURED, "measured part values"), (NOMINAL, "nominal part values")],
        initial=MEASURED,
        label="Calculated from",
    )
    meter = forms.CharField(
        max_length=60, required=False, label="Meter", help_text="its name or number, if you keep one"
    )

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        for k in range(1, MOST + 1):
            self.fields[f"r{k}"] = forms.CharField(max_length=MOST_CHARACTERS, required=False, label=f"R{k}")

    @property
    def resistors(self) -> list[forms.BoundField]:
        """The resistor fields, R1 first."""
        return [self[f"r{k}"] for k in range(1, MOST + 1)]

    def clean(self) -> dict[str, object]:
        """Build the planned run; every message stands at its field."""
        cleaned = super().clean()
        tolerance = self._percentage("tolerance")
        source_tolerance = self._percentage("source_tolerance")
        limit = self._percentage("limit")
        source = self._value("source", VOLT)
        filled = [k for k in range(1, MOST + 1) if cleaned.get(f"r{k}", "").strip()]
        for k in range(1, max(filled, default=0)):
            if k not in filled and f"r{k}" in cleaned:
                self.add_error(f"r{k}", f"R{k} is empty; fill the resistors from R1 on.")
        values = {k: self._value(f"r{k}", OHM) for k in filled}
        if len(filled) < FEWEST and not self.has_error("r1"):
            self.add_error(f"r{len(filled) + 1}", f"A new run takes {FEWEST} to {MOST} resistors.")
        if self.errors or source is None or limit is None:
            return cleaned
        resistors = [Part(f"R{k}", Kind.RESISTOR, value, tolerance) for k, value in values.items()]
        try:
            planned = build(
                Shape(cleaned["shape"]),
                cleaned["title"],
                Part("V1", Kind.VOLTAGE_SOURCE, source, source_tolerance),
                resistors,
                (cleaned.get("group_first") or 0, cleaned.get("group_last") or 0),
            )
        except ShapeError as error:
            self.add_error("group_last", str(error))
            return cleaned
        if safety.caution(planned) is safety.Caution.PAPER_ONLY:
            self.add_error("source", PAPER_ONLY)
            return cleaned
        judge = Judge(cleaned["judged_by"], limit, cleaned["against"])
        cleaned["planned"] = Run(planned.title, planned.parts, planned.setups, judge=judge, asked=planned.asked)
        return cleaned

    def _value(self, name: str, unit: str) -> Quantity | None:
        text = self.cleaned_data.get(name)
        if not text:
            return None
        try:
            quantity = parse(text, unit)
        except QuantityError as error:
            self.add_error(name, str(error))
            return None
        if quantity.over_range or float(quantity) <= 0:
            self.add_error(name, f"“{quantity.text}” is not above zero.")
        elif quantity.doubt:
            self.add_error(
                name, f"{quantity.doubt.question} Write {quantity.doubt.meanings[0]} or {quantity.doubt.meanings[1]}."
            )
        return quantity

    def _percentage(self, name: str) -> Quantity | None:
        text = self.cleaned_data.get(name)
        if not text:
            return None
        try:
            return parse_percent(text if "%" in text else f"{text} %")
        except QuantityError as error:
            self.add_error(name, str(error))
            return None


class MoveForm(forms.Form):
    """Where a reading belongs."""

    point = forms.IntegerField(min_value=0)
