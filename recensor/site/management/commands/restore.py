"""``recensor-manage restore FILE``: a backup comes back into an empty installation."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from recensor.transfer import backup, books


class Command(BaseCommand):
    """Restore a backup, and look through the books that came back."""

    help = "Bring a backup back into an installation that ./start --empty has just made."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path, metavar="FILE")

    def handle(self, *args: object, file: Path, **options: Any) -> None:
        """Restore it, all or nothing."""
        try:
            about = backup.restore(file)
        except backup.NotRestoredError as error:
            raise CommandError(error.message) from None
        self.stdout.write(f"{sum(about.counts.values())} rows of {about.made} are back; sign in as before.")
        for fault in books.faults():
            self.stderr.write(fault)
