"""The pages of runs, and what they put into the pages below them: how a run of an experiment begins."""

from django.apps import AppConfig

from recensor.web import slots


class RunPagesConfig(AppConfig):
    """The app."""

    name = "recensor.run_pages"

    def ready(self) -> None:
        """Fill the slots of experiments."""
        from recensor.kits.models import Kit

        slots.fill("experiment head", "run_pages/_start.html")
        slots.fill("experiment sheet", "run_pages/_start_with.html", lambda: {"kits": Kit.objects.all()})
        slots.fill("new experiment", "run_pages/_begin_on_board.html")
