"""``recensor-manage backup FILE``: everything that is kept, in one file, while Recensor runs."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from recensor.transfer import backup


class Command(BaseCommand):
    """Write a backup."""

    help = "Write everything that is kept to a file; others go on working meanwhile."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the file."""
        parser.add_argument("file", type=Path, metavar="FILE", help="such as recensor-2026-11-26.zip")

    def handle(self, *args: object, file: Path, **options: Any) -> None:
        """Write it."""
        try:
            about = backup.backup(file)
        except OSError as error:
            raise CommandError(f"{file} cannot be written: {error.strerror}") from None
        self.stdout.write(f"{sum(about.counts.values())} rows are in {file}. It holds the hashes of passwords.")
