"""Reports, and the way to them that they put into the bench."""

from django.apps import AppConfig

from recensor.web import slots


class ReportsConfig(AppConfig):
    """The app."""

    name = "recensor.reports"

    def ready(self) -> None:
        """Fill the slots of the bench and of experiments."""
        slots.fill("run head", "reports/_way.html")
        slots.fill("experiment head", "reports/_blank_way.html")
        slots.fill("runs head", "reports/_bring_way.html")
