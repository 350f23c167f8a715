"""How forms are written: Django's own renderer with one template for every field, over Bootstrap's classes."""

import uuid
from collections.abc import Mapping
from typing import Any

from django import forms
from django.forms.renderers import TemplatesSetting

from recensor.core.errors import Refused


class BoundField(forms.BoundField):
    """A field of a form, its control with the class that Bootstrap gives it."""

    def build_widget_attrs(self, attrs: dict[str, Any], widget: forms.Widget | None = None) -> dict[str, Any]:
        """The control's attributes."""
        built = super().build_widget_attrs(attrs, widget)
        return {"class": _class_of(widget or self.field.widget), **built}


def _class_of(widget: forms.Widget) -> str:
    if isinstance(widget, forms.CheckboxInput | forms.RadioSelect | forms.CheckboxSelectMultiple):
        return "form-check-input"
    return "form-select" if isinstance(widget, forms.Select) else "form-control"


class FieldRenderer(TemplatesSetting):
    """A field is its label, its control, and below it what is wrong with it or a word of help."""

    bound_field_class = BoundField
    field_template_name = "web/field.html"
    form_template_name = "web/form.html"


def new_key() -> str:
    """A fresh key for an entry."""
    return str(uuid.uuid4())


class KeyForm(forms.Form):
    """The key that makes pressing a button twice harmless."""

    key = forms.UUIDField(required=False, widget=forms.HiddenInput, initial=new_key)


class ActForm(KeyForm):
    """A form on one line that does one thing: `act` names it, `button` says it; `main` where it is what one came for.

    `bare` fields show no label, which is there all the same. `place` keeps the ids of two such forms on a page apart.
    """

    act = ""
    button = ""
    main = False
    bare: tuple[str, ...] = ()

    def __init__(self, data: Mapping[str, Any] | None = None, *, place: str = "", **named: Any) -> None:
        super().__init__(data, auto_id=f"{place or self.act}-%s", **named)

    def refuse(self, error: Refused) -> None:
        """Say why what was typed is refused, at the field that it is about where there is one."""
        self.is_valid()
        if not self.errors:
            self.add_error(error.place if error.place in self.fields else None, error.message)
