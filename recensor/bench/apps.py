"""The bench, and what it puts into the pages below it: how a run of an experiment begins."""

from django.apps import AppConfig

from recensor.web import slots


class BenchConfig(AppConfig):
    """The app."""

    name = "recensor.bench"

    def ready(self) -> None:
        """Fill the slots of experiments."""
        from recensor.kits.models import Kit

        slots.fill("experiment head", "bench/_start.html")
        slots.fill("experiment sheet", "bench/_start_with.html", lambda: {"kits": Kit.objects.all()})
        slots.fill("new experiment", "bench/_begin_on_board.html")
