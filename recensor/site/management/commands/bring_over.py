"""``recensor-manage bring_over``: a database of before, with everything in it."""

from pathlib import Path

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from recensor.site import before


class Command(BaseCommand):
    """Recognise a database of before by its tables, copy it beside, and bring it over."""

    help = "Bring over a database of before; a copy of all its rows is written beside it first."

    def handle(self, *args: object, **options: object) -> None:
        """Bring it over, or say why not."""
        if not before.is_of_before():
            self.stdout.write("There is nothing to bring over.")
            return
        try:
            done = before.bring_over(Path(settings.VAR))
        except before.NotBroughtOverError as error:
            raise CommandError(error.message) from None
        rows = sum(done.counts.values())
        self.stdout.write(f"Brought {rows} rows of before over; a copy of all of them is in {done.copy}.")
