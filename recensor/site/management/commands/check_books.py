"""``recensor-manage check-books``: whether everything that is kept can be read, and is what was typed."""

import sys
from typing import Any

from django.core.management.base import BaseCommand

from recensor.transfer import backup, books


class Command(BaseCommand):
    """Look all books through; the status is 1 where something is wrong."""

    help = "Read every row, judge every run, and work every number out again."

    def handle(self, *args: object, **options: Any) -> None:
        """Say each fault in a line, then how much was looked at."""
        wrong = 0
        for fault in books.faults():
            wrong += 1
            self.stdout.write(fault)
        counts = backup.counted()
        told = ", ".join(f"{count} {label.partition('.')[2]}s" for label, count in counts.items() if count)
        self.stdout.write(f"{wrong} faults in {told}.")
        if wrong:
            sys.exit(1)
