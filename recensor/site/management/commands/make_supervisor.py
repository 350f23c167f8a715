"""``recensor-manage make-supervisor NAME``: an account that is there already may make others."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from recensor.people.models import User
from recensor.web import security_log


class Command(BaseCommand):
    """Give the right to make accounts and to close them."""

    help = "Let an account make others, and close them."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the name."""
        parser.add_argument("name", metavar="NAME")

    def handle(self, *args: object, name: str, **options: Any) -> None:
        """Give it to an account that is no demo's."""
        if not User.objects.filter(username=name, demo=None).update(is_supervisor=True):
            raise CommandError(f"There is no account called {name}, or it is one of the demo's.")
        security_log.note("account: make supervisor", None, account=name)
        self.stdout.write(f"{name} may make accounts now.")
