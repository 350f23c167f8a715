"""How forms are written: Django's own renderer with one template for every field."""

from django.forms.renderers import TemplatesSetting


class FieldRenderer(TemplatesSetting):
    """A field is its label, its control, and below it what is wrong with it or a word of help."""

    field_template_name = "web/field.html"
    form_template_name = "web/form.html"
