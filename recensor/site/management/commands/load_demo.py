"""``recensor-manage load_demo``: the demo's accounts and runs."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand, CommandError

from recensor.core.errors import Refused
from recensor.site import demo


class Command(BaseCommand):
    """Load the demo, put it back as it was, or take it away."""

    help = "Load the demo's accounts and runs, put them back, or take them away."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --reset and --remove."""
        what = parser.add_mutually_exclusive_group()
        what.add_argument("--reset", action="store_true", help="first take away what the demo's accounts have made")
        what.add_argument("--remove", action="store_true", help="take the demo away with its accounts")

    def handle(self, *args: object, **options: object) -> None:
        """Run it."""
        act = demo.reset if options["reset"] else demo.remove if options["remove"] else demo.load
        try:
            act()
        except Refused as error:
            raise CommandError(error.message) from None
