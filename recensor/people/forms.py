"""Signing in."""

from django.contrib.auth.forms import AuthenticationForm


class SignInForm(AuthenticationForm):
    """Name and password."""

    def __init__(self, *args: object, **kwargs: object) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].label = "Name"
        self.error_messages = {**self.error_messages, "invalid_login": "This name and password do not belong together."}
