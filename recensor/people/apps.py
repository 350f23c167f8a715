"""The app of accounts."""

from django.apps import AppConfig


class PeopleConfig(AppConfig):
    """Accounts."""

    name = "recensor.people"

    def ready(self) -> None:
        """Listen to sign-ins."""
        from recensor.people import signals  # noqa: F401
