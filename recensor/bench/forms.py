"""What is typed at the bench."""

from django import forms
from django.http import QueryDict

from recensor.bench.page.question import answer_of_token
from recensor.core import lengths, record
from recensor.core.circuit import LONGEST_SLUG, MOST_STEPS, USUAL_WISHES, TableMeters, Target, Wish, slug
from recensor.core.entries import NO_NAMES, Answer, FormulaError, Repeat, evaluate, named, names_of, worked_out
from recensor.core.errors import Refused
from recensor.core.figures import as_read, to_four_figures
from recensor.core.quantity import LONGEST_TEXT, QuantityError, parse, parse_beside_chooser
from recensor.kits.models import Kit
from recensor.runs.mapping import older_address
from recensor.runs.queries import RunSnapshot
from recensor.runs.services import Entry
from recensor.web.forms import KeyForm

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
    text = forms.CharField(strip=True, required=False, max_length=lengths.PROSE)
    answer = forms.CharField(strip=True, required=False, max_length=LONGEST_TEXT)
    unit = forms.CharField(required=False, max_length=lengths.UNIT)
    unit_is_default = forms.BooleanField(required=False)
    range = forms.CharField(required=False, max_length=LONGEST_TEXT)
    meter = forms.CharField(required=False, max_length=lengths.NAME)
    replaces_seen = forms.IntegerField(required=False)
    typed_at = forms.DateTimeField(required=False)
    declared_as = forms.ChoiceField(choices=[(repeat, repeat) for repeat in SAID], required=False)

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
        self.ambiguity = None
        self.names: str | None = None

    @property
    def entry(self) -> Entry:
        """What was typed, where the form is valid."""
        typed, target = self.cleaned_data, self.target
        if target is None:
            raise ValueError("nothing was typed at a measurement")
        reading = record.Reading(target, typed["quantity"], typed.get("span"), typed.get("meter") or None)
        found = typed["replaces_seen"] if "replaces_seen" in self.data else self.loaded.standing_at(target)
        repeat = Repeat(typed["declared_as"]) if typed.get("declared_as") else None
        return Entry(
            reading,
            typed["key"],
            found,
            typed.get("typed_at"),
            unit_is_default=typed["unit_is_default"],
            declared_as=repeat,
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
            self.ambiguity = cleaned["quantity"].ambiguity
        except QuantityError as error:
            self.add_error("text", str(error))
        if self.ambiguity:
            self.add_error("text", self.ambiguity.question)
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


class MoveForm(KeyForm):
    """Power, as it is from now on."""

    power = forms.ChoiceField(choices=[("ON", "ON"), ("OFF", "OFF")])


class TypedChangeForm(KeyForm):
    """A change of the circuit, as it was typed, and the setup that it is made in."""

    change = forms.CharField(max_length=lengths.NAME)
    setup = forms.CharField(max_length=lengths.NAME, required=False)


class CircuitsForm(KeyForm):
    """Circuits to be built out of the parts in hand, what is asked of each, and the setup that stands on the board.

    `grown` is the line of the button that adds one part to what stands there.
    """

    circuits = forms.CharField(
        label="Build from these parts",
        max_length=lengths.PROSE,
        required=False,
        widget=forms.Textarea(
            attrs={
                "rows": 2,
                "placeholder": "R1, R1 + R2, R1 | R2, R3 open",
                "spellcheck": "false",
                "autocapitalize": "off",
                "autocomplete": "off",
                "data-enters-send": True,
            }
        ),
    )
    wish = forms.MultipleChoiceField(
        label="Ask of each",
        choices=[(wish.value, wish.value) for wish in Wish],
        required=False,
        widget=forms.CheckboxSelectMultiple,
    )
    setup = forms.CharField(max_length=lengths.NAME, required=False, widget=forms.HiddenInput)
    grown = forms.CharField(max_length=lengths.PROSE, required=False)

    @property
    def wishes(self) -> frozenset[Wish]:
        """What is asked of each circuit; the usual where nothing was ticked."""
        return frozenset(map(Wish, self.cleaned_data.get("wish", ()))) or USUAL_WISHES


class NewPartsForm(KeyForm):
    """More parts in hand, each with its value."""

    parts = forms.CharField(
        label="More parts in hand",
        max_length=lengths.PROSE,
        required=False,
        widget=forms.TextInput(attrs={"placeholder": "R4 1k, brown black red, lamp 6V 50mA", "spellcheck": "false"}),
    )
    kit = forms.ModelChoiceField(Kit.objects.all(), required=False, label="out of", empty_label="no kit")

    @property
    def has_kits(self) -> bool:
        """Whether there is a kit that they may come out of."""
        return Kit.objects.exists()


class GroupForm(KeyForm):
    """Parts that are marked alike: taken `together` as one group, or told apart."""

    together = forms.BooleanField(required=False)

    @property
    def names(self) -> list[str]:
        """The parts' names."""
        return self.data.getlist("part")


class LineTableForm(KeyForm):
    """What a V–I table is of: a part, two nodes, or the whole where nothing is written."""

    of = forms.CharField(
        label="A V–I table of",
        max_length=lengths.NAME,
        required=False,
        widget=forms.TextInput(
            attrs={"placeholder": "R1, or A B; empty: the whole", "spellcheck": "false", "autocomplete": "off"}
        ),
    )
    setup = forms.CharField(max_length=lengths.NAME, required=False, widget=forms.HiddenInput)
    meters = forms.TypedChoiceField(
        label="read with",
        choices=[
            (TableMeters.APART, "two meters, the voltmeter across it alone"),
            (TableMeters.AROUND_AMMETER, "two meters, the voltmeter across the ammeter too"),
            (TableMeters.ONE, "one meter: all volts first, then all amps"),
        ],
        coerce=TableMeters,
        required=False,
        empty_value=TableMeters.APART,
    )


class TableRowForm(forms.Form):
    """A row of a V–I table."""

    table = forms.CharField(max_length=lengths.NAME)
    row = forms.IntegerField(min_value=1, max_value=MOST_STEPS)


class OwnValueForm(forms.Form):
    """A value worked out by hand for a point, perhaps with its formula."""

    measurement = forms.CharField(max_length=LONGEST_SLUG)
    key = forms.UUIDField()
    text = forms.CharField(strip=True, required=False, max_length=lengths.PROSE)
    unit = forms.CharField(required=False, max_length=lengths.UNIT)
    formula = forms.CharField(strip=True, required=False, max_length=lengths.FORMULA)

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
        names = names_of(self.loaded.core.sheet, self.loaded.judged(), target.setup) if formula else NO_NAMES
        try:
            text = cleaned.get("text") or ""
            if formula and not text:
                digits = to_four_figures(abs(evaluate(formula, target.unit, names[0]).value) or 1.0, target.unit)
                self.add_error("text", f"Write your value too; the formula gives about {digits.text}.")
                return cleaned
            cleaned["value"] = parse_beside_chooser(text, target.unit, cleaned.get("unit", ""))
            worked_out(cleaned["value"], formula, target, None, names)
        except FormulaError as error:
            self.add_error("formula", error.message)
        except QuantityError as error:
            self.add_error("text", error.message)
        return cleaned


class ReadingCorrectionForm(forms.Form):
    """A correction of a reading by its name, with a reason where one is given."""

    correction = forms.CharField(max_length=LONGEST_SLUG + 20)
    reason = forms.CharField(required=False, max_length=lengths.REASON)


class DisagreementForm(forms.Form):
    """Why a reading is another than the one before."""

    why = forms.ChoiceField(choices=[(reason, reason) for reason in record.DisagreementReason])


class CorrectCauseForm(KeyForm):
    """The cause whose correction is to be carried out, by what names it."""

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
