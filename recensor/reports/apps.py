"""Reports: the ways to them on the pages below, and their step in the background."""

from django.apps import AppConfig

from recensor.jobs import steps
from recensor.web import slots


class ReportsConfig(AppConfig):
    """The app."""

    name = "recensor.reports"

    def ready(self) -> None:
        """Fill the slots of the bench and of experiments, and say what writes one of many reports."""
        slots.fill("run head", "reports/_way.html")
        slots.fill("run ending", "reports/_write_way.html")
        slots.fill("experiment head", "reports/_blank_way.html")
        steps.register("reports", "recensor.reports.many_reports.report_of")
