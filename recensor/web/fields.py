"""Form fields for what people type: quantities, percentages and what judges. Their messages stand at the field."""

import re
from typing import Any

from django import forms
from django.core.files.uploadedfile import UploadedFile

from recensor.core.circuit import MEASURED, NOMINAL, JudgedBy
from recensor.core.errors import Refused
from recensor.core.quantity import WATT, Quantity, QuantityError, parse_percent, positive

MOST_DIGITS = 8


_VULGAR = re.compile(r"([0-9]{1,2}) ?[/⁄] ?([0-9]{1,2}) ?[Ww]?")
_SIGNS = {"½": "1/2", "¼": "1/4", "⅛": "1/8"}


def whole_number(text: str | None) -> int | None:
    """A whole number out of an address; None where it is none."""
    return int(text) if text and text.isascii() and text.isdigit() and len(text) <= MOST_DIGITS else None


def refuse_larger(file: "UploadedFile[Any]", largest: int) -> None:
    """Raise `Refused` for a file that was sent and has more than so many bytes."""
    if file.size is None or file.size > largest:
        raise Refused(f"The file is larger than {largest // 1000} kB.")


class QuantityField(forms.Field):
    """A quantity above zero in one unit, exactly as a run document would hold it; None when nothing is typed."""

    def __init__(self, unit: str, **kwargs: Any) -> None:
        super().__init__(**kwargs)
        self.unit = unit

    def to_python(self, value: str | None) -> Quantity | None:
        """Read the text; what could mean two things is asked about."""
        text = (value or "").strip()
        if not text:
            return None
        try:
            return positive(text, self.unit)
        except QuantityError as error:
            raise forms.ValidationError(str(error)) from None


class RatingField(QuantityField):
    """A power rating in watts, also as parts are called: ¼ W, 1/4 W."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(WATT, **kwargs)

    def to_python(self, value: str | None) -> Quantity | None:
        """Turn a vulgar fraction into a decimal one first."""
        text = (value or "").strip()
        for sign, words in _SIGNS.items():
            text = text.replace(sign, words)
        match = _VULGAR.fullmatch(text)
        if match and int(match[2]):
            text = f"{int(match[1]) / int(match[2]):g}"
        return super().to_python(text)


class PercentField(forms.Field):
    """A percentage, with or without its sign; None when nothing is typed."""

    def to_python(self, value: str | None) -> Quantity | None:
        """Read the text."""
        text = (value or "").strip()
        if not text:
            return None
        try:
            return parse_percent(text if "%" in text else f"{text} %")
        except QuantityError as error:
            raise forms.ValidationError(str(error)) from None


class CountField(forms.IntegerField):
    """How many parts there are."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(min_value=0, max_value=1_000_000, **kwargs)


def judged_by_field(*, required: bool = True) -> forms.ChoiceField:
    """What decides whether a reading agrees."""
    choices = [
        (JudgedBy.PERCENT.value, "percent error within the limit"),
        (JudgedBy.UNCERTAINTY.value, "normalised error |E| ≤ 1"),
    ]
    initial = JudgedBy.PERCENT.value
    return forms.ChoiceField(choices=choices, initial=initial, label="What decides", required=required)


def meter_in_field() -> forms.BooleanField:
    """Whether the meter's own disturbance is calculated in."""
    return forms.BooleanField(required=False, label="Calculate with the meter drawn into the circuit")


def against_field(*, required: bool = True) -> forms.ChoiceField:
    """The values that the calculated ones come from."""
    choices = [(MEASURED.value, "measured part values"), (NOMINAL.value, "nominal part values")]
    return forms.ChoiceField(choices=choices, initial=MEASURED.value, label="Calculated from", required=required)
