"""Signing in, and preferences."""

from django import forms
from django.contrib.auth.forms import AuthenticationForm

from recensor.people.models import User


class SignInForm(AuthenticationForm):
    """Name and password."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].label = "Name"
        self.error_messages = {**self.error_messages, "invalid_login": "This name and password do not belong together."}


class PreferencesForm(forms.ModelForm):
    """The school a person follows where practitioners differ; the numbers are the same."""

    class Meta:
        model = User
        fields = ("resistor_symbol", "source_letter", "parallel_formula", "voltage_law")
        labels = {
            "resistor_symbol": "Resistors are drawn as",
            "source_letter": "A source's voltage is written",
            "parallel_formula": "Parallel resistors are worked out by",
            "voltage_law": "Kirchhoff's voltage law says",
        }
