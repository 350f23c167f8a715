"""Archives, and the ways to them that they put into the pages below."""

from django.apps import AppConfig

from recensor.web import slots


class ArchiveConfig(AppConfig):
    """The app."""

    name = "recensor.archive"

    def ready(self) -> None:
        """Fill the slot of the runs' page."""
        slots.fill("runs head", "archive/_way.html")
