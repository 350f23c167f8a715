"""What is typed about meters and profiles: each field says why it cannot be so."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from django import forms

from recensor.core import lengths
from recensor.core import meters as core
from recensor.core.errors import Refused
from recensor.core.figures import plainly
from recensor.core.meters import Accuracy, AccuracyError, Contradiction, contradictions, parse_accuracy
from recensor.core.quantity import AMPERE, CURRENT, LONGEST_TEXT, OHM, VOLTAGE, Measurand
from recensor.formats.documents.profile import read_profile
from recensor.formats.documents.reader import DocumentPlace, load
from recensor.meters.models import ProfileRow
from recensor.meters.queries import SHIPPED, library
from recensor.people.models import User
from recensor.web.fields import QuantityField, refuse_larger

LARGEST_PROFILE = 100_000
MOST_RANGES, MOST_JACKS = 12, 6

# So many empty rows stand below those there are, and where there are none.
_SPARE, _AT_FIRST = 2, 6
_JACK = forms.CharField(max_length=12, required=False)

# What a function has beside its ranges, by the name of its field.
OWN = {VOLTAGE: ("input_resistance", "Input resistance"), CURRENT: ("burden", "Resistance (burden)")}


class AccuracyField(forms.CharField):
    """± percent + digits, as a meter's sheet states them."""

    def clean(self, value: str | None) -> Accuracy | None:
        """Read the text."""
        text = super().clean(value)
        try:
            return parse_accuracy(text) if text else None
        except AccuracyError as error:
            raise forms.ValidationError(error.message) from None


class MeterForm(forms.Form):
    """An instrument: its name, its number, when it was calibrated, and of which kind it is."""

    name = forms.CharField(max_length=lengths.NAME, label="Name", help_text="as you call it at the bench: DMM 4")
    number = forms.CharField(max_length=lengths.NAME, required=False, label="Instrument number")
    calibrated = forms.DateField(
        required=False, label="Calibrated on", widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    profile = forms.ChoiceField(required=False, label="Profile")

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        own = [(str(row.pk), f"{row.name} ({row.author})") for row in library()]
        self.fields["profile"].choices = [
            ("", "not known: an ordinary handheld"),
            *((f"shipped {profile.name}", profile.name) for profile in SHIPPED),
            *own,
        ]


class RowForm(forms.Form):
    """A row of a table; emptied, it goes."""

    @property
    def is_spare(self) -> bool:
        """Whether nothing is written in the whole row, and nothing was."""
        return not any(str(self[name].value() or "").strip() for name in self.fields)


class JackForm(RowForm):
    """A jack of the red lead, and its fuse."""

    name = forms.CharField(max_length=12, label="Jack", required=False)
    fuse = QuantityField(AMPERE, label="Fuse", required=False)


class RangeForm(RowForm):
    """One range of a function."""

    jack = _JACK
    accuracy = AccuracyField(max_length=LONGEST_TEXT, required=False)

    def __init__(self, *args: object, measurand: Measurand, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.measurand = measurand
        self.fields["full"] = QuantityField(measurand.unit, required=False, label="Full scale")
        self.fields["step"] = QuantityField(measurand.unit, required=False, label="Last digit")
        if measurand in OWN:
            name, label = OWN[measurand]
            self.fields[name] = QuantityField(OHM, required=False, label=label)
        self.order_fields(["full", "step", "accuracy", *OWN.get(measurand, ())[:1], "jack"])

    def clean(self) -> dict[str, Any]:
        """A row needs its full scale, its last digit and its accuracy."""
        cleaned = super().clean()
        for name, example in (("full", "20 V"), ("step", "10 mV"), ("accuracy", "0.8 % + 2")):
            if not self.is_spare and not cleaned.get(name) and name not in self.errors:
                unit_example = example if self.measurand is VOLTAGE or name == "accuracy" else ""
                text = f", for example {unit_example}" if unit_example else ""
                self.add_error(name, f"Write it too{text}, or empty the row.")
        if not self.errors and cleaned.get("full") and float(cleaned["step"]) >= float(cleaned["full"]):
            self.add_error("step", "One digit is smaller than the full scale.")
        return cleaned

    def range(self) -> core.Range:
        """The range as the core knows it."""
        cleaned = self.cleaned_data
        own = {name: float(cleaned[name]) for name, _ in [OWN.get(self.measurand, ("", ""))] if cleaned.get(name)}
        return core.Range(
            float(cleaned["full"]), float(cleaned["step"]), cleaned["accuracy"], jack=cleaned.get("jack") or None, **own
        )


class ProfileForm(forms.Form):
    """A whole profile: its name, jacks, and a table of ranges for each function."""

    name = forms.CharField(max_length=80, label="Name")
    auto_range = forms.BooleanField(required=False, label="It finds its range by itself")
    over_range = forms.CharField(
        max_length=LONGEST_TEXT, label="Beyond its range it shows", help_text="OL, or 1; several with commas"
    )

    def __init__(self, data: Any = None, *, initial: core.Profile | None = None) -> None:
        said = {} if initial is None else _said(initial)
        super().__init__(data, initial=said)
        self.jacks = [
            JackForm(data, prefix=f"jack-{k}", initial=row)
            for k, row in enumerate(_rows("jack", [] if initial is None else _jacks(initial), MOST_JACKS, data))
        ]
        self.functions = {
            measurand: [
                RangeForm(data, prefix=f"{measurand}-{k}", initial=row, measurand=measurand)
                for k, row in enumerate(
                    _rows(measurand, [] if initial is None else _ranges(initial, measurand), MOST_RANGES, data)
                )
            ]
            for measurand in (VOLTAGE, Measurand.RESISTANCE, CURRENT)
        }
        self.profile: core.Profile | None = None

    def rows(self) -> Iterator[RangeForm]:
        """Every row in which something is written."""
        for forms_of in self.functions.values():
            yield from (form for form in forms_of if not form.is_spare)

    def clean(self) -> dict[str, Any]:
        """Put the profile together; what contradicts itself is said at its field."""
        cleaned = super().clean()
        rows = list(self.rows())
        are_valid = [form.is_valid() for form in (*rows, *self.jacks)]
        if not rows:
            raise forms.ValidationError("A meter reads something: write one range at least.")
        if not all(are_valid) or self.errors:
            return cleaned
        fuses = {
            form.cleaned_data["name"]: float(form.cleaned_data["fuse"]) if form.cleaned_data["fuse"] else None
            for form in self.jacks
            if form.cleaned_data["name"]
        }
        sorted_rows = sorted(rows, key=lambda form: float(form.cleaned_data["full"]))
        ranges: dict[Measurand, tuple[core.Range, ...]] = {}
        for form in sorted_rows:
            ranges[form.measurand] = (*ranges.get(form.measurand, ()), form.range())
        self.profile = core.Profile(
            cleaned["name"],
            ranges,
            fuses=fuses,
            over_range=tuple(text.strip() for text in cleaned["over_range"].split(",") if text.strip()),
            auto_range=cleaned["auto_range"],
        )
        for contradiction in contradictions(self.profile):
            self._say(contradiction, sorted_rows)
        return cleaned

    def _say(self, contradiction: Contradiction, rows: list[RangeForm]) -> None:
        """A contradiction at its field."""
        text = f"{contradiction.text[:1].upper()}{contradiction.text[1:]}."
        of_function = [form for form in rows if form.measurand is contradiction.measurand]
        if contradiction.row is None or not of_function:
            self.add_error("over_range" if contradiction.field == "over_range" else None, text)
            return
        field = {"input": "input_resistance"}.get(contradiction.field, contradiction.field)
        of_function[contradiction.row].add_error(
            field if field in of_function[contradiction.row].fields else "full", text
        )
        self.profile_is_wrong = True

    profile_is_wrong = False

    def is_valid(self) -> bool:
        """Whether every field of every row can be so."""
        return super().is_valid() and self.profile is not None and not self.profile_is_wrong


class ProfileFileForm(forms.Form):
    """A file with a profile, as it is exported: the profile that is in it."""

    file = forms.FileField()

    def clean_file(self) -> core.Profile:
        """Read it."""
        file = self.cleaned_data["file"]
        try:
            refuse_larger(file, LARGEST_PROFILE)
            profile = read_profile(DocumentPlace("profile", load(file.read())))
        except Refused as error:
            raise forms.ValidationError(error.message) from None
        name = file.name.removesuffix(".json").removesuffix(".meter")[:80] or "a meter"
        return replace(profile, name=name)


def _rows(prefix: str, known: list[dict[str, str]], most: int, data: Any) -> list[dict[str, str]]:
    """The rows there are and a few empty ones; of what was sent as many as came, up to as many as there may be."""
    if data is not None:
        came = {key.split("-")[1] for key in data if key.startswith(f"{prefix}-") and key.count("-") == 2}
        return [{} for k in range(most) if str(k) in came]
    return [*known, *({} for _ in range(min(_SPARE if known else _AT_FIRST, most - len(known))))]


def _said(profile: core.Profile) -> dict[str, object]:
    return {"name": profile.name, "auto_range": profile.auto_range, "over_range": ", ".join(profile.over_range)}


def _jacks(profile: core.Profile) -> list[dict[str, str]]:
    return [{"name": name, "fuse": plainly(fuse, AMPERE) if fuse else ""} for name, fuse in profile.fuses.items()]


def _written(size: float, unit: str) -> str:
    """A size as it is typed: milliohms in ohms, since m beside Ω could be meant as M."""
    return f"{size:g} {unit}" if unit == OHM and size < 1 else plainly(size, unit)


def _ranges(profile: core.Profile, measurand: Measurand) -> list[dict[str, str]]:
    return [
        {
            "full": plainly(taken.full, measurand.unit),
            "step": _written(taken.step, measurand.unit),
            "accuracy": f"{taken.accuracy.percent:g} % + {taken.accuracy.digits}",
            "input_resistance": _written(taken.input_resistance, OHM) if taken.input_resistance else "",
            "burden": _written(taken.burden, OHM) if taken.burden else "",
            "jack": taken.jack or "",
        }
        for taken in profile.ranges.get(measurand, ())
    ]


def chosen_profile(owner: User, text: str) -> ProfileRow | core.Profile | None:
    """What a choice of the list means: a row, a shipped profile, or nothing."""
    if text.startswith("shipped "):
        return core.SHIPPED.get(text.removeprefix("shipped "))
    return library().filter(pk=int(text)).first() if text.isdecimal() else None
