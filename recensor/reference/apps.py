"""The reference pages, and the ways to them from kits."""

from django.apps import AppConfig

from recensor.web import slots


class ReferenceConfig(AppConfig):
    """The app."""

    name = "recensor.reference"

    def ready(self) -> None:
        """Fill the slots of kits."""
        slots.fill("kits head", "reference/_from_kits.html")
        slots.fill("kit head", "reference/_from_kit.html")
