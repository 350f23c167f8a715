"""How forms are written: Django's own renderer with one template for every field, over Bootstrap's classes."""

import uuid
from typing import Any

from django import forms
from django.forms.renderers import TemplatesSetting


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

    key = forms.UUIDField(required=False)
