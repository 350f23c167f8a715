"""``recensor-manage add-person NAME``: an account, also one that may make others."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from recensor.core.errors import Refused
from recensor.people.services import add_person


class Command(BaseCommand):
    """Make an account for a person and say its password, once."""

    help = "Make an account for a person; its password is shown this once."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the names."""
        parser.add_argument("names", nargs="+", metavar="NAME", help="the name to sign in with")
        parser.add_argument("--supervisor", action="store_true", help="it may make accounts, and close them")

    def handle(self, *args: object, **options: Any) -> None:
        """Make them one after another."""
        for name in options["names"]:
            try:
                password = add_person(name, supervisor=options["supervisor"])
            except Refused as error:
                raise CommandError(f"{name}: {error.message}") from None
            self.stdout.write(f"{name} signs in with the password {password}")
