"""``recensor-manage work``: does what is asked for in the background, until it is stopped. ``./start`` runs one."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand
from django_q.cluster import Cluster

from recensor.jobs import queue
from recensor.runs import services


class Command(BaseCommand):
    """Run a worker; any number of them on any number of machines share the work."""

    help = "Do what is asked for in the background until stopped; a step that was begun is finished first."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Add the mark by which a launcher finds a worker that was left behind, and whether there are others."""
        parser.add_argument("--alone", action="store_true", help="no other worker uses this database")
        parser.add_argument("--var", metavar="FOLDER", help="the folder of the launcher that runs it")

    def handle(self, *args: object, alone: bool = False, **options: Any) -> None:
        """Take up what another worker left, then whatever comes."""
        queue.wake(alone=alone)
        services.keep_missing()
        Cluster().start()
