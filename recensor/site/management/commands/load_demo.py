"""``recensor-manage load_demo``: the demo's accounts and runs."""

from argparse import ArgumentParser

from django.core.management.base import BaseCommand

from recensor.site import demo


class Command(BaseCommand):
    """Load the demo, or put it back as it was."""

    help = "Load the demo's accounts and runs."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add --reset."""
        parser.add_argument("--reset", action="store_true", help="first take away what the demo's accounts have made")

    def handle(self, *args: object, **options: object) -> None:
        """Run it."""
        demo.reset() if options["reset"] else demo.load()
