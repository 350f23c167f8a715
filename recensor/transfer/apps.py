"""What goes out whole and comes in: the ways to it on the pages below, and its steps in the background."""

from django.apps import AppConfig

from recensor.jobs import steps
from recensor.web import slots


class TransferConfig(AppConfig):
    """The app."""

    name = "recensor.transfer"

    def ready(self) -> None:
        """Fill the slots of runs and reports, and say what does a step of an account's export and import."""
        slots.fill("runs head", "transfer/_import_way.html")
        slots.fill("runs head", "transfer/_way.html")
        slots.fill("report head", "transfer/_import_readings_way.html")
        steps.register("account", "recensor.transfer.account.packing.packed")
        steps.register("bring", "recensor.transfer.account.unpacking.import_step")
