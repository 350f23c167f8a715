"""What is typed about kits and sortings."""

from decimal import Decimal

from django import forms

from recensor.core import lengths
from recensor.core.meters import AccuracyError, parse_accuracy
from recensor.core.quantity import LONGEST_TEXT, OHM, Quantity, QuantityError, parse_beside_chooser
from recensor.core.resistors.preferred_values import SERIES
from recensor.kits.services import Parts
from recensor.web.fields import CountField, PercentField, QuantityField, RatingField

OWN_VALUES = "own"

# What the columns of a bin hold.
_TOLERANCE_PLACES, _RATING_PLACES, _LARGEST_RATING = 3, 4, 1000


class KitForm(forms.Form):
    """A new kit."""

    name = forms.CharField(max_length=80, label="Name of the kit")


class BinForm(forms.Form):
    """Parts that go into a kit."""

    value = QuantityField(OHM, label="Value")
    tolerance = PercentField(label="Tolerance", initial="5 %")
    rating = RatingField(label="Rating", required=False)
    count = CountField(label="How many")

    def clean_tolerance(self) -> Quantity | None:
        """As fine as a bin keeps it."""
        tolerance = self.cleaned_data["tolerance"]
        if tolerance and tolerance.value != round(tolerance.value, _TOLERANCE_PLACES):
            raise forms.ValidationError("A tolerance is kept to a thousandth of a percent.")
        return tolerance

    def clean_rating(self) -> Quantity | None:
        """As large and as fine as a bin keeps it."""
        rating = self.cleaned_data["rating"]
        if rating and (rating.value > _LARGEST_RATING or rating.value != round(rating.value, _RATING_PLACES)):
            raise forms.ValidationError(f"A rating is at most {_LARGEST_RATING} W, to a tenth of a milliwatt.")
        return rating

    @property
    def parts(self) -> Parts:
        """What goes in, once it is valid."""
        typed = self.cleaned_data
        rating = typed["rating"].value if typed["rating"] else None
        return Parts(typed["value"].value, typed["tolerance"].value, typed["count"], rating)


class CountForm(forms.Form):
    """A bin counted anew."""

    count = CountField()


class SortingForm(forms.Form):
    """What a handful is sorted into, and how good the meter is."""

    into = forms.ChoiceField(
        label="Sort into",
        choices=[(OWN_VALUES, "the kit's own values"), *((str(s), f"every value of E{s}") for s in SERIES if s < 192)],
        initial="12",
    )
    tolerance = PercentField(label="Tolerance", initial="5 %", help_text="of the parts; own values keep theirs")
    accuracy = forms.CharField(
        label="The meter's accuracy", required=False, max_length=LONGEST_TEXT, help_text="such as 0.8 % + 2, if known"
    )

    def clean_tolerance(self) -> Decimal:
        """A band to sort by."""
        tolerance = self.cleaned_data["tolerance"]
        if not tolerance.value:
            raise forms.ValidationError("With 0 % nothing would fit; write the parts' tolerance, such as 5 %.")
        return tolerance.value

    def clean_accuracy(self) -> str:
        """As the meter's sheet states it."""
        text = self.cleaned_data["accuracy"]
        try:
            if text:
                parse_accuracy(text)
        except AccuracyError as error:
            raise forms.ValidationError(str(error)) from None
        return text

    @property
    def series(self) -> int | None:
        """The chosen E series, None for the kit's own values."""
        return None if self.cleaned_data["into"] == OWN_VALUES else int(self.cleaned_data["into"])


class PartForm(forms.Form):
    """One measured part on the sorting table."""

    key = forms.UUIDField()
    text = forms.CharField(strip=True, required=False, max_length=lengths.PROSE)
    answer = forms.CharField(strip=True, required=False, max_length=LONGEST_TEXT)
    unit = forms.CharField(required=False, max_length=lengths.UNIT)

    ambiguity = None

    def clean(self) -> dict[str, object]:
        """A resistance above zero; anything else says what it would mean."""
        cleaned = super().clean()
        if "text" not in cleaned:
            return cleaned
        try:
            quantity = parse_beside_chooser(cleaned.get("answer") or cleaned["text"], OHM, cleaned.get("unit", ""))
        except QuantityError as error:
            self.add_error("text", str(error))
            return cleaned
        self.ambiguity = quantity.ambiguity
        if quantity.over_range:
            self.add_error("text", "Over-range: take a higher range. If it stays, the part is open; put it aside.")
        elif float(quantity) == 0:
            self.add_error("text", "Zero: the probes touch, or this is a link. Read again in a lower range.")
        elif float(quantity) < 0:
            self.add_error(
                "text", "Below zero: nothing may be powered, and the meter's zero must be right. Read again."
            )
        elif self.ambiguity:
            self.add_error("text", self.ambiguity.question)
        cleaned["quantity"] = quantity
        return cleaned
