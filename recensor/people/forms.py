"""Signing in, passwords, new accounts, and preferences."""

from django import forms
from django.conf import settings
from django.contrib.auth import authenticate
from django.contrib.auth.forms import AuthenticationForm, PasswordChangeForm, SetPasswordForm
from django.http import HttpRequest

from recensor.people.models import User


class SignInForm(AuthenticationForm):
    """Name and password."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].label = "Name"
        self.error_messages = {**self.error_messages, "invalid_login": "This name and password do not belong together."}


class NewPasswordForm(SetPasswordForm):
    """A new password twice; what is wrong with it is said where it was typed first."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["new_password1"].help_text = (
            f"At least {settings.PASSWORD_LENGTH} characters; several words are good. Not your name, nothing that many "
            "people use, no word of the bench with digits."
        )
        self.fields["new_password2"].label, self.fields["new_password2"].help_text = "The same once more", ""

    def validate_password_for_user(self, user: User, *args: object) -> None:
        """Hold it against the rules."""
        super().validate_password_for_user(user, "new_password1")


class ChangePasswordForm(NewPasswordForm, PasswordChangeForm):
    """The password so far, and a new one twice."""

    def __init__(self, *args: object, request: HttpRequest, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["old_password"].label = "Your password so far"
        self.request = request

    def clean_old_password(self) -> str:
        """Ask as signing in does: wrong ones count, and lock out."""
        old = self.cleaned_data["old_password"]
        if authenticate(self.request, username=self.user.username, password=old) != self.user:
            raise forms.ValidationError(self.error_messages["password_incorrect"], code="password_incorrect")
        return old


class InviteForm(forms.Form):
    """A new account: its name, and its address where there is mail."""

    name = forms.CharField(
        max_length=60, help_text="It is seen beside what this person records. Roles and numbers do: bench-3."
    )
    mail = forms.EmailField(label="Mail, if the link is to be sent", required=False)

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        if not settings.MAIL:
            del self.fields["mail"]


class PreferencesForm(forms.ModelForm):
    """The school a person follows where practitioners differ; the numbers are the same."""

    class Meta:
        model = User
        fields = (
            "resistor_symbol",
            "source_letter",
            "parallel_formula",
            "voltage_law",
            "line_axes",
            "paper",
            "reading_order",
            "opens_by",
            "board_lies",
            "own_calculations",
            "drops_by_size",
            "speaks",
        )
        labels = {
            "resistor_symbol": "Resistors are drawn as",
            "source_letter": "A source's voltage is written",
            "parallel_formula": "Parallel resistors are worked out by",
            "voltage_law": "Kirchhoff's voltage law says",
            "line_axes": "Lines are drawn as",
            "paper": "Reports are printed on",
            "reading_order": "Points are read",
            "opens_by": "For a current I open the circuit by",
            "board_lies": "My board lies before me",
            "own_calculations": "Show a field for my own calculation at each point",
            "drops_by_size": "Judge plain drops by their size, whichever way round the leads were",
            "speaks": "Say verdict and next point aloud, by this browser's own voice",
        }
