"""What is typed about values and their bands."""

from decimal import Decimal

from django import forms

from recensor.core.quantity import OHM
from recensor.core.resistors.colour_code import NO_BAND_TOLERANCE, Colour
from recensor.kits.models import Kit
from recensor.web.fields import QuantityField


def _band_tolerances() -> list[tuple[Decimal, str]]:
    """Every tolerance that bands can say, the usual ones being the widest."""
    stated = {NO_BAND_TOLERANCE, *(colour.tolerance for colour in Colour if colour.tolerance is not None)}
    return [(tolerance, f"± {tolerance:f} %") for tolerance in sorted(stated, reverse=True)]


class ValueForm(forms.Form):
    """A value whose bands are wanted."""

    value = QuantityField(OHM, label="Value", help_text="4.7k, 4k7, 470")
    tolerance = forms.TypedChoiceField(coerce=Decimal, choices=_band_tolerances, initial=Decimal(5), label="Tolerance")


class PairForm(forms.Form):
    """A wanted resistance, and the stock to make it from: a kit, or a whole series."""

    wanted = QuantityField(OHM, label="Wanted resistance")
    stock = forms.ChoiceField(label="Out of")

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        kits = [(f"kit-{kit.pk}", f"{kit.name} (what is left)") for kit in Kit.objects.all()]
        series = [(f"E{s}", f"any value of E{s}, ± {t} %") for s, t in ((6, 20), (12, 10), (24, 5), (96, 1))]
        self.fields["stock"].choices = kits + series
